"""JSON (RFC 8259) as a stream: the values at wanted places, one after another, each with its line.

The outer structure is walked token by token. The bytes of a wanted value are found by its brackets and
decoded by a fast library; only what that refuses is decoded a second time, for a message with line and
column. Memory holds one such value at a time.
"""

from __future__ import annotations

import json
import re
from collections.abc import Callable, Iterator
from typing import Any, BinaryIO

import msgspec

from newburrow.core.problem import BurrowError, refusal
from newburrow.formats import equal_names
from newburrow.model.record import Where

Steps = tuple[str | None, ...]  # names of members; None for an item of a list

DEEPEST = 200  # levels; no export needs more, and the decoder recurses into each
_CHUNK = 1 << 18
_LONGEST = 1 << 29  # bytes of one value
_STRING = rb'"(?:[^"\\]|\\.)*+"'
_TOKEN = re.compile(
    rb"[ \t\r\n]*+(?:([\[\]{}:,])|(" + _STRING + rb")|([-+.\w]++)|(\S))", re.DOTALL
)
_PLAIN = (
    rb'[^"\[\]{}]++|"[^"\\]*+(?:\\.[^"\\]*+)*+"'  # anything but a bracket; a string is whole
)
# Everything up to the next bracket that is not within a string. It matches nothing where a string is cut
# off by the end of the buffer, so that a bracket within that string is never taken for one.
_TO_BRACKET = re.compile(rb"(?:" + _PLAIN + rb")*+([\[\]{}])", re.DOTALL)


def _nested(levels: int) -> re.Pattern[bytes]:
    """A list or object with so many levels within it, in one match; which bracket closes it is not checked."""
    inner = _PLAIN
    for _level in range(levels):
        inner = _PLAIN + rb"|[\[{](?:" + inner + rb")*+[\]}]"
    return re.compile(rb"[\[{](?:" + inner + rb")*+[\]}]", re.DOTALL)


_SHALLOW = _nested(8)
_fast = msgspec.json.Decoder().decode
_NEXT_ITEM = re.compile(rb"[ \t\r\n]*+,[ \t\r\n]*+([\[{])")
_SURROGATE = re.compile("[\ud800-\udfff]")
_MARK = b"\xef\xbb\xbf"


class Value:
    """One value found: its steps from the top, the line it begins in, and itself."""

    __slots__ = ("line", "steps", "value")

    def __init__(self, steps: Steps, line: int, value: Any) -> None:
        self.steps, self.line, self.value = steps, line, value


def values(stream: BinaryIO, label: str, is_sought: Callable[[Steps], bool]) -> Iterator[Value]:
    """The values at all places that are wanted, in document order; what is within one is not looked at again.

    Raises BurrowError where the text is not JSON, with the line and column.
    """
    return _Walk(stream, label, is_sought).values()


def decoded(text: str | bytes) -> Any:
    """The value of a whole JSON text; bytes are UTF-8.

    Half a surrogate pair, which JSON can write and no text can hold, becomes U+FFFD. Where a name stands
    twice in an object, the last value counts and the others are kept (`equal_names`). Raises ValueError
    (json.JSONDecodeError, UnicodeDecodeError), or RecursionError where the text is nested too deep.
    """
    try:
        value = _fast(text)
        if not equal_names.may_stand(text, value):
            return value
    except (msgspec.DecodeError, UnicodeError, RecursionError):
        pass  # wrong, or right in a way that this decoder does not accept
    if isinstance(text, bytes):
        text = text.decode("utf-8")
    value = json.loads(text, parse_constant=_no_number, object_pairs_hook=equal_names.kept)
    if "\\u" in text:
        return _without_surrogates(value)
    return value


def not_json(label: str, message: str, line: int, column: int = 0) -> BurrowError:
    """The error for a text that is not JSON (RFC 8259); the caller raises it.

    `label` names the file, `line` and `column` are counted from 1; a column of 0 is not known.
    """
    return refusal(
        "not-well-formed",
        f"The JSON is not valid: {message}.",
        "Run `newburrow mend` on the file, correct that "
        "place in a text editor, or export the site again.",
        Where(label, line, column),
    )


class _Walk:
    """One pass over one document."""

    def __init__(
        self, stream: BinaryIO, label: str, is_sought: Callable[[Steps], bool]
    ) -> None:
        self.stream, self.label, self.wanted = stream, label, is_sought
        self.buffer, self.place, self.ended = b"", 0, False
        self.line, self.counted, self.line_start = 1, 0, 0  # up to the offset `counted`
        self.steps: list[str | None] = []
        self.open: list[bytes] = []  # the containers that are open, by their brackets

    def values(self) -> Iterator[Value]:
        self._fill()
        if self.buffer.startswith(_MARK):
            self.place = len(_MARK)
        else:
            self.place = 0
        yield from self._value()
        while self.open:
            mark = self._next()
            if mark == (b"}" if self.open[-1] == b"{" else b"]"):
                self.open.pop()
                self.steps.pop()
            elif mark == b",":
                yield from self._member()
                yield from self._more_items()
            else:
                raise self._wrong(f"a comma or an end bracket is missing before {_shown(mark)}")
        if mark := self._next(may_end=True):
            raise self._wrong(f"there is something after the end: {_shown(mark)}")

    def _more_items(self) -> Iterator[Value]:
        """The lists and objects that follow in a list, as long as they are wanted: most of an export."""
        steps = tuple(self.steps)
        if not self.open or self.open[-1] != b"[" or not self.wanted(steps):
            return
        while found := _NEXT_ITEM.match(self.buffer, self.place):
            start = found.start(1)
            self._count(start)
            line = self.line
            yield Value(steps, line, self._decode(self._container(start)))
            self._drop()

    def _member(self) -> Iterator[Value]:
        """A name with its value, or an item of a list."""
        if self.open[-1] == b"{":
            name = self._next()
            if not name.startswith(b'"') or len(name) < 2:
                raise self._wrong(f"a name in quotes is missing before {_shown(name)}")
            self.steps[-1] = self._decode(name)
            if self._next() != b":":
                raise self._wrong("a colon is missing after a name")
        yield from self._value()

    def _value(self) -> Iterator[Value]:
        """The value that begins here, if it is wanted; else a container is entered, and everything else passed over."""
        token = self._next()
        line, start = self.line, self.place - len(token)
        steps = tuple(self.steps)
        if self.wanted(steps):
            if token in b"[{":
                raw = self._container(start)
            else:
                raw = token
            yield Value(steps, line, self._decode(raw))
        elif token in (b"[", b"{"):
            yield from self._enter(token)
        else:
            self._decode(token)

    def _enter(self, token: bytes) -> Iterator[Value]:
        if len(self.open) >= DEEPEST:
            raise self._wrong(f"lists or objects are nested deeper than {DEEPEST} levels")
        self.open.append(token)
        self.steps.append(None)
        self._drop()
        before = self.place  # stays true: nothing more is dropped
        if self._next() == (b"}" if token == b"{" else b"]"):
            self.open.pop()
            self.steps.pop()
            return
        self.place = before
        yield from self._member()

    def _next(self, may_end: bool = False) -> bytes:
        """The next token; empty at the end, where that may come."""
        self._drop()
        while True:
            found = _TOKEN.match(self.buffer, self.place)
            if (
                found
                and (found.end() < len(self.buffer) or self.ended)
                and not (found[4] == b'"' and not self.ended)
            ):
                break
            if self.ended:
                if may_end and not self.buffer[self.place :].strip():
                    return b""
                self._count(len(self.buffer))
                raise self._wrong("it ends too early")
            self._fill()
        self._count(found.start(found.lastindex or 0))
        self.place = found.end()
        token = bytes(found[found.lastindex or 0])
        if found[4]:
            if token == b'"':
                message = "a text is not closed"
            else:
                message = f"{_shown(token)} cannot stand here"
            raise self._wrong(message)
        return token

    def _container(self, start: int) -> bytes:
        """The bytes of the container that begins at `start`."""
        if found := _SHALLOW.match(self.buffer, start):
            self.place = found.end()
            return found[0]
        scan, depth = start, 0
        while True:
            while found := _TO_BRACKET.match(self.buffer, scan):
                scan = found.end()
                depth += 1 if found[1] in b"[{" else -1
                if depth > DEEPEST:
                    self._count(scan - 1)
                    raise self._wrong(
                        f"lists or objects are nested deeper than {DEEPEST} levels"
                    )
                if not depth:
                    self.place = scan
                    return self.buffer[start:scan]
            if self.ended:
                self._count(len(self.buffer))
                raise self._wrong("it ends too early")
            if len(self.buffer) - start > _LONGEST:
                raise self._wrong(f"one item is larger than {_LONGEST:,} bytes")
            self._fill()

    def _decode(self, raw: bytes) -> Any:
        begin = self.line
        try:
            return decoded(raw)
        except json.JSONDecodeError as error:
            if error.lineno == 1:
                shift = self.counted - self.line_start
            else:
                shift = 0
            message = error.msg[0].lower() + error.msg[1:]
            raise not_json(
                self.label, message, begin + error.lineno - 1, error.colno + shift
            ) from None
        except UnicodeDecodeError as error:
            line = begin + raw.count(b"\n", 0, error.start)
            raise not_json(
                self.label, f"byte 0x{raw[error.start]:02X} is not UTF-8", line
            ) from None
        except (RecursionError, ValueError) as error:
            raise not_json(self.label, str(error), begin) from None

    def _wrong(self, message: str) -> BurrowError:
        return not_json(self.label, message, self.line, self.counted - self.line_start + 1)

    def _count(self, offset: int) -> None:
        """Bring the line number up to an offset."""
        lines = self.buffer.count(b"\n", self.counted, offset)
        if lines:
            self.line += lines
            self.line_start = self.buffer.rfind(b"\n", self.counted, offset) + 1
        self.counted = max(self.counted, offset)

    def _drop(self) -> None:
        """Forget what has been read, once it is much."""
        if self.place > _CHUNK:
            self._count(self.place)
            self.buffer = self.buffer[self.place :]
            self.line_start -= self.place
            self.counted = self.place = 0

    def _fill(self) -> None:
        """Read on: as much again as is held, so that a long text is not scanned over and over."""
        data = self.stream.read(max(_CHUNK, len(self.buffer) - self.place))
        self.ended = not data
        self.buffer += data


def _shown(token: bytes) -> str:
    return repr(token[:20].decode("utf-8", "replace"))


def _no_number(name: str) -> Any:
    raise ValueError(f"{name} is not a number in JSON")


def _without_surrogates(value: Any) -> Any:
    """Half characters, which JSON can write and no text can hold, as U+FFFD."""
    if isinstance(value, str):
        return _SURROGATE.sub("\N{REPLACEMENT CHARACTER}", value)
    if isinstance(value, list):
        return [_without_surrogates(member) for member in value]
    if isinstance(value, dict):
        return {
            _without_surrogates(name): _without_surrogates(member)
            for name, member in value.items()
        }
    return value
