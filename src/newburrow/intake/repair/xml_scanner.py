"""Markup that no XML parser takes: a pass over the bytes that repairs what is wrong and passes on what is right.

Works on bytes: all it looks for is ASCII, and what it does not repair goes through untouched. In a feed each
item is held until it is whole, so that one that was cut off can be left out and named.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from html.entities import html5

from newburrow.intake.prolog import entity_declared
from newburrow.intake.repair.record import Repair, Tell, shown
from newburrow.intake.repair.well_formed_items import ItemCheck
from newburrow.intake.repair.xml_names import REFERENCE, is_character, is_name
from newburrow.intake.repair.xml_tags import (
    ANY_END,
    END,
    LENIENT,
    START,
    Prefixes,
    with_declarations,
    with_right_attributes,
)
from newburrow.model.record import Where

_MARK = re.compile(rb"[<&]|\]\]>")
_ENTITY = re.compile(rb"&([A-Za-z][A-Za-z0-9]{1,31};)")
_DOCTYPE = re.compile(rb"<!DOCTYPE[^>\[]*+(?:\[[^\]]*+\])?+[^>]*+>")
_CUT = re.compile(rb"</?[A-Za-z_!?]")
_TITLE = re.compile(rb"<title[^>]*>(.*?)(?:</title|\Z)", re.DOTALL)
_VOID = frozenset((b"br", b"hr", b"img", b"wbr"))
# XML 1.0 section 2.8
_AFTER_END = re.compile(rb"\s*(?:(?:<!--.*?-->|<\?(?!xml\s).*?\?>)\s*)+", re.DOTALL)
_FEEDS, _ITEMS = frozenset((b"rss", b"RDF", b"feed")), frozenset((b"item", b"entry"))
_ITEM = re.compile(rb"<(?:[A-Za-z_][\w.-]*:)?(?:item|entry)[\s>]")
_LONGEST_TAG = 1 << 16  # bytes; a tag without an end by then is not a tag
_CACHED = 4096  # tags remembered as correct
_LONGEST_CDATA = 1 << 26  # bytes; a section without an end by then was left open

Out = Callable[[bytes], object]


class Scanner:
    """One pass. Feed chunks, then finish. Afterwards `undeclared` has the prefixes that no element declares."""

    def __init__(
        self,
        out: Out,
        tell: Tell,
        declare: dict[bytes, bytes] | None = None,
    ) -> None:
        self._out, self._tell, self._declare = out, tell, declare or {}
        self._buffer, self._line, self._counted, self._resume = b"", 1, 0, 0
        self._stack: list[bytes] = []
        self._root = b""
        self._ended = self._final = False
        self._after = b""  # what is after the end of the document
        self._item: list[bytes] | None = None
        self._item_depth = self._item_line = 0
        self._right: dict[bytes, tuple[bytes, bool]] = {}
        self._prefixes = Prefixes()
        self._item_check = ItemCheck()

    @property
    def undeclared(self) -> set[bytes]:
        """Prefixes used and declared nowhere."""
        return self._prefixes.undeclared

    @property
    def line(self) -> int:
        """The line of the first byte that is not passed on yet."""
        if self._item is not None:
            return self._item_line
        return self._line

    def feed(self, chunk: bytes, line: int = 0) -> None:
        """Scan the next bytes; `line` is the line of the first one, if something before it was removed."""
        if line and not self._root and not self._buffer:
            self._line = line
        self._buffer += chunk
        self._run()

    def finish(self) -> None:
        """Scan the end of the file: leave out what was cut off, and close what is open."""
        self._final = True
        self._run()
        if self._item is not None:
            self._cut_off()
        if self._stack:
            names = b"".join(b"</" + name + b">" for name in reversed(self._stack))
            self._say("unclosed", len(self._buffer), b"(the end of the file)", names)
            self._out(names)
        after = self._after
        if not after.strip() or _AFTER_END.fullmatch(after):
            self._out(after)
        else:
            if re.search(rb"<(?:\w+:)?(?:item|entry)\b", after):
                code = "second-document"
            else:
                code = "after-end"
            self._tell(Repair(code, self._line, shown(after.strip()), ""))

    # -- the run -------------------------------------------------------------------------------

    def _run(self) -> None:
        place = 0
        while True:
            if self._ended:
                place = self._after_end(place)
                break
            found = _MARK.search(self._buffer, place)
            if found:
                stop = found.start()
            else:
                stop = len(self._buffer) - (0 if self._final else 2)
            if not found and not self._root and not self._final:
                break  # everything before the document is one repair
            if stop > place:
                self._text(place, stop)
                place = stop
            if not found:
                break
            moved = self._mark(found[0], place)
            if moved < 0:  # more must be seen
                break
            place = moved
        self._count(place)
        self._buffer, self._counted = self._buffer[place:], 0

    def _mark(self, mark: bytes, at: int) -> int:
        """Handle a mark; gives where to go on, or -1 where more must be seen."""
        if mark != b"<" and not self._root:
            return self._before_root(at)
        if mark == b"&":
            return self._ampersand(at)
        if mark == b"]]>":
            self._repair("cdata-end", at, b"]]>", b"]]&gt;")
            return at + 3
        following = self._buffer[at + 1 : at + 2]
        if not following and not self._final:
            return -1
        if following == b"/":
            return self._end_tag(at)
        if following == b"!":
            return self._declaration(at)
        if following == b"?":
            return self._instruction(at)
        if (
            self._stack
            and self._item is None
            and _ITEM.match(self._buffer, at)
            and self._in_feed()
        ):
            right = self._item_check.right(self._buffer, at)
            if right > at:
                self._out(self._buffer[at:right])
                return right
        return self._start_tag(at)

    def _in_feed(self) -> bool:
        return self._root.rpartition(b":")[2] in _FEEDS

    def _put(self, data: bytes) -> None:
        if self._item is None:
            self._out(data)
        else:
            self._item.append(data)

    def _repair(self, code: str, at: int, before: bytes, after: bytes) -> None:
        self._say(code, at, before, after)
        self._put(after)

    def _say(self, code: str, at: int, before: bytes, after: bytes) -> None:
        self._tell(Repair(code, self._count(at), shown(before), shown(after)))

    def _count(self, place: int) -> int:
        """The line of a place in the buffer; places only go forward."""
        if place > self._counted:
            self._line += self._buffer.count(b"\n", self._counted, place)
            self._counted = place
        return self._line

    # -- text ----------------------------------------------------------------------------------

    def _text(self, start: int, end: int) -> None:
        data = self._buffer[start:end]
        if not self._root and data.strip(b" \t\r\n\xef\xbb\xbf"):
            self._say("before-start", start, data.strip(), b"")
        else:
            self._put(data)

    def _ampersand(self, at: int) -> int:
        if len(self._buffer) - at < 40 and not self._final and b";" not in self._buffer[at:]:
            return -1
        found = REFERENCE.match(self._buffer, at)
        if found and is_character(found):
            self._put(found[0])
            return found.end()
        if found:
            self._say("control-character", at, found[0], b"")
            return found.end()
        entity = _ENTITY.match(self._buffer, at)
        if entity:
            text = html5.get(entity[1].decode("ascii"))
        else:
            text = None
        if entity and text:
            self._repair(
                "entity", at, entity[0], "".join(f"&#{ord(c)};" for c in text).encode("ascii")
            )
            return entity.end()
        self._say(
            "bare-ampersand",
            at,
            self._buffer[at : at + 20],
            b"&amp;" + self._buffer[at + 1 : at + 20],
        )
        self._put(b"&amp;")
        return at + 1

    def _before_root(self, at: int) -> int:
        """Remove a mark that is before the document."""
        self._say("before-start", at, self._buffer[at : at + 1], b"")
        return at + 1

    def _bare(self, at: int) -> int:
        if self._final and b">" not in self._buffer[at:] and _CUT.match(self._buffer, at):
            self._say("cut-tag", at, self._buffer[at:], b"")
            return len(self._buffer)
        if not self._root:
            return self._before_root(at)
        self._say(
            "bare-less-than",
            at,
            self._buffer[at : at + 20],
            b"&lt;" + self._buffer[at + 1 : at + 20],
        )
        self._put(b"&lt;")
        return at + 1

    # -- declarations --------------------------------------------------------------------------

    def _declaration(self, at: int) -> int:
        if len(self._buffer) - at < 9 and not self._final:
            return -1
        if self._buffer.startswith(b"<![CDATA[", at):
            return self._cdata(at)
        if self._buffer.startswith(b"<!--", at):
            end = self._buffer.find(b"-->", at + 4)
            if end < 0:
                if self._final:
                    return self._bare(at)
                return -1
            inner = self._buffer[at + 4 : end]
            if b"--" in inner or inner.endswith(b"-"):
                self._repair("comment", at, b"--", b"<!--" + inner.replace(b"-", b" ") + b"-->")
            else:
                self._put(self._buffer[at : end + 3])
            return end + 3
        found = _DOCTYPE.match(self._buffer, at)
        if found and b"<!ENTITY" in found[0]:
            raise entity_declared("", Where("", self._count(at)))
        if found and not self._stack:
            self._put(found[0])
            return found.end()
        waits = (
            not self._final
            and len(self._buffer) - at < _LONGEST_TAG
            and b">" not in self._buffer[at:]
        )
        if waits:
            return -1
        return self._bare(at)

    def _instruction(self, at: int) -> int:
        end = self._buffer.find(b"?>", at)
        if end < 0:
            if self._final or len(self._buffer) - at > _LONGEST_TAG:
                return self._bare(at)
            return -1
        if self._root and re.match(rb"<\?xml\s", self._buffer[at : at + 6]):
            self._say("declaration", at, self._buffer[at : end + 2], b"")
        else:
            self._put(self._buffer[at : end + 2])
        return end + 2

    def _cdata(self, at: int) -> int:
        """A CDATA section: closed where it was left open, split where `]]>` is within it."""
        buffer, start = self._buffer, at + 9
        close_tag = b"</" + (self._stack[-1] if self._stack else b"")
        end = buffer.find(b"]]>", max(start, at + self._resume))
        if end >= 0:
            limit = end
        else:
            limit = len(buffer)
        if end < 0 and not self._final and len(buffer) - at < _LONGEST_CDATA:
            self._resume = max(0, len(buffer) - at - 2)
            return -1
        self._resume = 0
        close = buffer.find(close_tag, start, limit)
        if close >= 0 and (end < 0 or buffer.find(b"<![CDATA[", close, end) >= 0):
            self._put(buffer[at:close])
            self._repair("unclosed-cdata", close, b"", b"]]>")
            return close
        if end < 0:
            self._resume = 0
            self._put(buffer[at:])
            self._repair("unclosed-cdata", len(buffer), b"", b"]]>")
            return len(buffer)
        return self._cdata_end(at, end, close_tag)

    def _cdata_end(self, at: int, end: int, close_tag: bytes) -> int:
        buffer = self._buffer
        tail = buffer[end + 3 : end + 3 + 4096].lstrip()
        if len(tail) < len(close_tag) and not self._final:
            return -1
        if not tail.startswith((close_tag, b"<![CDATA[", b"<!--")):
            stop = buffer.find(close_tag, end + 3)
            if stop < 0 and not self._final and len(buffer) - end < 1 << 22:
                return -1
            last = buffer.rfind(b"]]>", end + 3, max(stop, 0))
            if (
                last >= 0
                and not buffer[last + 3 : stop].strip()
                and b"<![CDATA[" not in buffer[end:last]
            ):
                inner = buffer[at + 9 : last]
                self._say("cdata-end", end, b"]]>", b"]]]]><![CDATA[>")
                self._put(b"<![CDATA[" + inner.replace(b"]]>", b"]]]]><![CDATA[>") + b"]]>")
                return last + 3
        self._put(buffer[at : end + 3])
        return end + 3

    # -- tags ----------------------------------------------------------------------------------

    def _start_tag(self, at: int) -> int:
        end = self._buffer.find(b">", at)
        if end >= 0:
            raw = self._buffer[at : end + 1]
        else:
            raw = b""
        known = self._right.get(raw)
        if known:
            self._open(known[0], known[1], raw, at)
            return end + 1
        found = START.match(self._buffer, at) or LENIENT.match(self._buffer, at)
        if not found or not is_name(found[1]):
            waits = end < 0 and not self._final and len(self._buffer) - at < _LONGEST_TAG
            if waits:
                return -1
            return self._bare(at)
        right = self._attributes(found, at)
        name, empty = found[1], bool(found[3])
        if name in _VOID and not empty:
            self._say("unclosed", at, right, right[:-1] + b"/>")
            right, empty = right[:-1] + b"/>", True
        if right == found[0] and len(self._right) < _CACHED:
            self._right[right] = (name, empty)
        self._open(name, empty, right, at)
        return found.end()

    def _attributes(self, found: re.Match[bytes], at: int) -> bytes:
        """The tag with each attribute once, in quotes, with its ampersands right."""
        tag, fault = with_right_attributes(found, self._prefixes)
        if fault:
            self._say(fault, at, found[0], tag)
        if b"&" in tag:
            tag = self._ampersands_in(tag, at)
        return tag

    def _ampersands_in(self, tag: bytes, at: int) -> bytes:
        """A tag with its ampersands repaired as those of text are."""
        pieces: list[bytes] = []
        inner = Scanner(pieces.append, lambda _repair: None)
        inner._root = b"attribute"
        inner.feed(tag[1:-1])
        inner.finish()
        repaired = b"<" + b"".join(pieces) + b">"
        if repaired != tag:
            self._say("bare-ampersand", at, tag, repaired)
        return repaired

    def _open(self, name: bytes, empty: bool, raw: bytes, at: int) -> None:
        if not self._root:
            self._root = name
            raw = self._with_prefixes(raw, at)
        elif self._is_item(name):
            if self._item is not None:
                self._cut_off()
            if not empty:
                self._item, self._item_depth, self._item_line = (
                    [],
                    len(self._stack),
                    self._count(at),
                )
        self._put(raw)
        if not empty and self._item is None:
            self._item_check.declare(raw)
        if not empty:
            self._stack.append(name)
        elif not self._stack:
            self._ended = True

    def _with_prefixes(self, raw: bytes, at: int) -> bytes:
        if not self._declare:
            return raw
        made, added = with_declarations(raw, self._declare)
        self._say("undeclared-prefix", at, b", ".join(sorted(self._declare)), added.strip())
        return made

    def _is_item(self, name: bytes) -> bool:
        """Whether an element is an item of a feed; those are never nested."""
        return name.rpartition(b":")[2] in _ITEMS and self._in_feed()

    def _end_tag(self, at: int) -> int:
        found = END.match(self._buffer, at)
        if not found:
            waits = (
                b">" not in self._buffer[at:]
                and not self._final
                and len(self._buffer) - at < _LONGEST_TAG
            )
            found = ANY_END.match(self._buffer, at)
            if not found:
                if waits:
                    return -1
                return self._bare(at)
        if found.re is END:
            name = found[1]
        else:
            name = b""
        if name not in self._stack:
            self._say("stray-end", at, found[0], b"")
            return found.end()
        if self._stack[-1] != name:
            self._close_up_to(name, at, found[0])
        self._stack.pop()
        self._put(found[0])
        if self._item is not None and len(self._stack) == self._item_depth:
            item, self._item = b"".join(self._item), None
            self._out(item)
        self._ended = not self._stack
        return found.end()

    def _close_up_to(self, name: bytes, at: int, raw: bytes) -> None:
        depth = len(self._stack) - 1 - self._stack[::-1].index(name)
        if self._item is not None and depth < self._item_depth:
            self._cut_off()
        closes = b"".join(b"</" + open_ + b">" for open_ in reversed(self._stack[depth + 1 :]))
        if closes:
            self._say("unclosed", at, raw, closes + raw)
            self._put(closes)
        del self._stack[depth + 1 :]

    def _cut_off(self) -> None:
        """Leave out the item that is not whole, and name it."""
        data = b"".join(self._item or ())
        title = _TITLE.search(data)
        if title:
            named = title[1].replace(b"<![CDATA[", b"").replace(b"]]>", b"").strip()
        else:
            named = data
        self._tell(Repair("cut-off", self._item_line, shown(named), ""))
        del self._stack[self._item_depth :]
        self._item = None

    def _after_end(self, place: int) -> int:
        """After the document only white space, comments and instructions may come; the rest is reported."""
        self._count(place)
        self._after = (self._after + self._buffer[place:])[:_LONGEST_TAG]
        return len(self._buffer)
