"""JSON that no reader takes (RFC 8259): a pass that repairs what is wrong and passes on what is right.

An item of the outermost list is held until it is whole, so that one that was cut off can be left out and named.
"""

from __future__ import annotations

import json
import re
from collections.abc import Callable

from newburrow.intake.repair.record import SHOWN, Repair, Tell

_TOKEN = re.compile(
    r'([ \t\r\n]*)(?:([\[\]{}:,])|("(?:[^"\\]|\\.)*")|("(?:[^"\\]|\\.)*\\?\Z)|([^ \t\r\n\[\]{}:,"]+))',
    re.DOTALL,
)
_SPACE = " \t\r\n"  # RFC 8259 section 2
_NUMBER = re.compile(r"-?(?:0|[1-9]\d*)(?:\.\d+)?(?:[eE][+-]?\d+)?\Z")
_RIGHT_WORDS = frozenset(("true", "false", "null"))
_OTHER_WORDS = {
    "True": "true",
    "False": "false",
    "None": "null",
    "undefined": "null",
    "NaN": "null",
    "Infinity": "null",
    "-Infinity": "null",
}
# a valid escape, or an invalid one
_IN_TEXT = re.compile(r'(\\(?:["\\/bfnrt]|u[0-9a-fA-F]{4}))|\\|[\x00-\x1f]')
_ESCAPES = {"\n": "\\n", "\t": "\\t", "\r": "\\r", "\b": "\\b", "\f": "\\f"}
_TITLE = re.compile(r'"(?:title|headline|name)"\s*:\s*("(?:[^"\\]|\\.)*"?)')
_NAMED = re.compile(r'"(?:slug|id)"\s*:\s*("(?:[^"\\]|\\.)*"|[^,}\s]+)')
_ENDS = {"{": "}", "[": "]"}

Out = Callable[[str], object]


def no_constant(word: str) -> None:
    """Refuse NaN and Infinity, which JSON does not know (RFC 8259 section 6)."""
    raise ValueError(word)


_value_at = json.JSONDecoder(parse_constant=no_constant).raw_decode


class JsonScanner:
    """One pass. Feed pieces of text, then finish."""

    def __init__(self, out: Out, tell: Tell, line: int = 1, each_an_item: bool = False) -> None:
        """`line` is that of the first character; with `each_an_item` the document itself is one that may be cut off."""
        self._out, self._tell = out, tell
        self._buffer, self._line, self._counted = "", line, 0
        self._stack: list[str] = []  # brackets that are open
        self._needs = "value"  # what may come next: value, name, colon, comma
        self._comma = ""  # one that is written once something follows it
        self._started = self._ended = False
        self._item: list[str] | None = None
        self._rest = ""  # of a text that the file ends in
        self._item_depth = self._item_line = 0
        self._lists = int(each_an_item)  # lists among the open brackets
        # line and words that are not JSON, reported as one
        self._stray: tuple[int, str] | None = None

    def feed(self, text: str) -> None:
        """Scan the next piece of text."""
        self._buffer += text
        self._run(final=False)

    def finish(self) -> None:
        """Scan the end of the file: leave out what was cut off, and close what is open."""
        self._run(final=True)
        if self._item is not None:
            self._cut_off()
        if self._stack and self._needs in ("colon", "value") and self._stack[-1] == "{":
            self._put(": null" if self._needs == "colon" else " null")
        self._comma = ""
        self._tell_stray()
        closes = "".join(_ENDS[bracket] for bracket in reversed(self._stack))
        if closes:
            self._say("unclosed-bracket", len(self._buffer), "(the end of the file)", closes)
            self._out(closes)

    # -- the run -------------------------------------------------------------------------------

    def _run(self, final: bool) -> None:
        place = 0
        while True:
            found = _TOKEN.match(self._buffer, place)
            if not found:
                break
            if not final and (found.end() == len(self._buffer) or found[4]):
                break  # it may go on
            if self._ended:
                place = self._after_end(place, found)
                continue
            place = self._whole_value(found) or self._token(found)
        if final and place < len(self._buffer) and not self._buffer[place:].strip(_SPACE):
            self._comma = ""  # nothing comes after it
            self._put(self._buffer[place:])
            place = len(self._buffer)
        self._count(place)
        self._buffer, self._counted = self._buffer[place:], 0

    def _whole_value(self, found: re.Match[str]) -> int:
        """Pass on an item that is right as it is; gives where it ends, 0 where it is not right or not whole."""
        if (
            found[2] not in ("{", "[")
            or self._needs != "value"
            or not self._lists
            or self._item is not None
        ):
            return 0
        try:
            _value, end = _value_at(self._buffer, found.start(2))
        except (ValueError, RecursionError):
            return 0
        self._put(self._buffer[found.start() : end])
        self._needs = "comma"
        return end

    def _token(self, found: re.Match[str]) -> int:
        space, mark, text, cut, word = found.groups()
        at = found.start() + len(space)
        if mark and mark in "{[":
            self._open(space, mark, at)
        elif mark and mark in "}]":
            self._close(space, mark, at)
        elif mark == ",":
            self._comma_at(space, at)
        elif mark == ":":
            if self._needs == "colon":
                self._put(space + ":")
                self._needs = "value"
            else:
                self._say("stray-text", at, ":", "")
        elif text:
            self._value(space, self._text(text, at), at, is_text=True)
        elif cut:
            self._rest = cut
            if self._item is None:
                self._say("cut-off", at, cut, "")
        else:
            self._word(space, word, at)
        return found.end()

    def _open(self, space: str, mark: str, at: int) -> None:
        if not self._ready(at, mark):
            return
        if self._item is None and self._lists and mark == "{":
            self._item, self._item_depth, self._item_line = (
                [],
                len(self._stack),
                self._count(at),
            )
        self._put(space + mark)
        self._stack.append(mark)
        self._lists += mark == "["
        self._started = True
        if mark == "{":
            self._needs = "name"
        else:
            self._needs = "value"

    def _close(self, space: str, mark: str, at: int) -> None:
        if mark == "}":
            opening = "{"
        else:
            opening = "["
        if opening not in self._stack:
            self._say("stray-bracket", at, mark, "")
            return
        if self._comma:
            self._say("trailing-comma", at, ",", "")
            self._comma = ""
        elif self._needs in ("colon", "value") and self._stack[-1] == "{":
            self._say("missing-value", at, mark, "null")
            self._put((":" if self._needs == "colon" else "") + " null")
        while self._stack[-1] != opening:
            inner = _ENDS[self._stack[-1]]
            self._say("unclosed-bracket", at, mark, inner + mark)
            self._put(inner)
            self._popped()
        self._put(space + mark)
        self._popped()
        self._needs = "comma"
        self._ended = not self._stack

    def _popped(self) -> None:
        self._lists -= self._stack.pop() == "["
        if self._item is not None and len(self._stack) == self._item_depth:
            item, self._item = "".join(self._item), None
            self._out(item)

    def _comma_at(self, space: str, at: int) -> None:
        if self._needs == "colon" or (self._needs == "value" and self._stack[-1:] == ["{"]):
            self._say("missing-value", at, ",", "null")
            self._put((":" if self._needs == "colon" else "") + " null")
        elif self._needs != "comma" or not self._stack:
            self._say("stray-text", at, ",", "")
            return
        self._comma = space + ","
        if self._stack[-1] == "{":
            self._needs = "name"
        else:
            self._needs = "value"

    def _word(self, space: str, word: str, at: int) -> None:
        if self._needs == "name":
            name = word.strip("'")
            self._say("bare-name", at, word, f'"{name}"')
            self._value(space, json.dumps(name), at, is_text=True)
        elif word in _RIGHT_WORDS or _NUMBER.match(word):
            self._value(space, word, at)
        elif word in _OTHER_WORDS and self._started:
            self._say("bare-word", at, word, _OTHER_WORDS[word])
            self._value(space, _OTHER_WORDS[word], at)
        else:
            self._say("stray-text", at, word, "")

    def _value(self, space: str, value: str, at: int, is_text: bool = False) -> None:
        """A text, number or literal; a text may be a name."""
        # it belongs to the preceding words
        if not self._started or (self._stray and self._stack[-1:] == ["["]):
            self._say("stray-text", at, value, "")
            return
        if self._needs == "colon":
            self._say("missing-value", at, value[:20], ": null, " + value[:20])
            self._put(": null")
            self._needs, self._comma = "name", ","
        elif self._needs == "comma":
            self._say("missing-comma", at, value[:20], "," + value[:20])
            self._comma, self._needs = ",", "name" if self._stack[-1] == "{" else "value"
        if self._needs == "name" and not is_text:
            self._say("bare-name", at, value, f'"{value}"')
            value = f'"{value}"'
        self._put(space + value)
        if self._needs == "name":
            self._needs = "colon"
        else:
            self._needs = "comma"

    def _ready(self, at: int, mark: str) -> bool:
        """Whether a bracket may open here; what is missing before it is put."""
        if self._needs in ("name", "colon"):
            if self._needs == "name":
                self._say("stray-bracket", at, mark, "")
                return False
            self._say("missing-value", at, mark, ":" + mark)
            self._put(":")
        elif self._needs == "comma":
            if not self._stack or self._stack[-1] == "{":
                self._say("stray-bracket", at, mark, "")
                return False
            self._say("missing-comma", at, mark, "," + mark)
            self._comma = ","
        return True

    def _text(self, text: str, at: int) -> str:
        """A text with its control characters and wrong escapes made right."""

        def right(found: re.Match[str]) -> str:
            wrong = found[0]
            if found[1]:
                return wrong
            if wrong[0] == "\\":
                if text[found.end() : found.end() + 1] == "'":
                    after = ""
                else:
                    after = "\\" + wrong
                self._say("wrong-escape", at, wrong, after)
                return after
            after = _ESCAPES.get(wrong, f"\\u{ord(wrong):04x}")
            self._say("control-in-text", at, wrong, after)
            return after

        return _IN_TEXT.sub(right, text)

    # -- shared --------------------------------------------------------------------------------

    def _put(self, text: str) -> None:
        self._tell_stray()
        text, self._comma = self._comma + text, ""
        if self._item is None:
            self._out(text)
        else:  # with the comma before it, which goes if the item does
            self._item.append(text)

    def _cut_off(self) -> None:
        self._tell_stray()
        data = "".join(self._item or ()) + self._rest
        named = _TITLE.search(data) or _NAMED.search(data)
        self._tell(
            Repair(
                "cut-off", self._item_line, _shown((named[1] if named else data).strip()), ""
            )
        )
        del self._stack[self._item_depth :]
        self._lists = self._stack.count("[")
        self._item, self._needs, self._comma = None, "comma", ""

    def _after_end(self, place: int, found: re.Match[str]) -> int:
        remaining = self._buffer[place:]
        self._say("after-end", place + len(found[1]), remaining.strip(), "")
        self._out(found[1] if "\n" in found[1] else "")
        return len(self._buffer)

    def _tell_stray(self) -> None:
        if self._stray:
            self._tell(Repair("stray-text", self._stray[0], _shown(self._stray[1]), ""))
            self._stray = None

    def _say(self, code: str, at: int, before: str, after: str) -> None:
        if code == "stray-text":
            line, words = self._stray or (self._count(at), "")
            self._stray = line, f"{words[: SHOWN * 2]} {before}".strip()
            return
        self._tell_stray()
        self._tell(Repair(code, self._count(at), _shown(before), _shown(after)))

    def _count(self, place: int) -> int:
        if place > self._counted:
            self._line += self._buffer.count("\n", self._counted, place)
            self._counted = place
        return self._line


def _shown(text: str) -> str:
    plain = "".join(c if c.isprintable() else f"\\x{ord(c):02x}" for c in text[: SHOWN * 2])
    return plain[:SHOWN] + ("…" if len(plain) > SHOWN or len(text) > SHOWN * 2 else "")
