"""Where a large XML file can be cut in two, so that each half is a document when it is given the other's frame.

A `<` is the start of a tag unless it is in a CDATA section, a comment or a processing instruction; each of these
ends at the first mark that ends it (XML 1.0 sections 2.5 to 2.7), so the last marks before a place tell.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import BinaryIO
from xml.parsers import expat

from msgspec import Struct

_BLOCK = 1 << 20
_OVERLAP = 16  # bytes of a block seen again with the next, so that no mark is cut in two
_MARKS = ((b"<![CDATA[", b"]]>"), (b"<!--", b"-->"), (b"<?", b"?>"))
# first bytes of encodings that do not contain ASCII
_WIDE = (
    b"\xff\xfe",
    b"\xfe\xff",
    b"\x00",
    b"<\x00",
)


class Cut(Struct, frozen=True):
    """A place between two items."""

    at: int  # bytes from the start to the item that begins the second half
    frame: int  # bytes from the start to the first item: what is around all of them
    end: str  # the tags that end the first half
    lines: int  # that are in the first half after the frame


def find(start: Callable[[], BinaryIO], item: bytes, after: int) -> Cut | None:
    """The first place after `after` bytes where an item begins, to read the file in two halves.

    None if there is no such place, or the file is in UTF-16. A place in a comment, in CDATA or in a
    processing instruction does not count.
    """
    tag = re.compile(rb"<" + re.escape(item) + rb"(?=[\s>])")
    with start() as stream:
        if stream.read(2).startswith(_WIDE):
            return None
    frame = _next(start, tag, 0)
    if frame:
        cut = _next(start, tag, max(after, frame[0] + 1))
    else:
        cut = None
    if frame is None or cut is None:
        return None
    with start() as stream:
        end = _end_of(stream.read(frame[0]))
    if end:
        return Cut(cut[0], frame[0], end, cut[1] - frame[1])
    return None


def _next(
    start: Callable[[], BinaryIO], tag: re.Pattern[bytes], after: int
) -> tuple[int, int] | None:
    """Where the first such tag begins from a place on, and how many lines end before it."""
    last = {mark: -1 for pair in _MARKS for mark in pair}
    base, lines, buffer = 0, 0, b""
    with start() as stream:
        while block := stream.read(_BLOCK):
            text = buffer + block
            for found in (
                tag.finditer(text, max(after - base, 0)) if base + len(text) > after else ()
            ):
                here = dict(last)
                for mark in here:
                    at = text.rfind(mark, 0, found.start())
                    if at >= 0:
                        here[mark] = base + at
                if all(here[ends] >= here[begins] for begins, ends in _MARKS):
                    return base + found.start(), lines + text.count(b"\n", 0, found.start())
            keep = min(_OVERLAP, len(text))
            for begins, ends in _MARKS:
                if (at := text.rfind(begins)) >= 0:
                    last[begins] = base + at
                # else it has ended, or never begun
                if last[begins] > last[ends] and (at := text.rfind(ends)) >= 0:
                    last[ends] = base + at
            base, lines, buffer = (
                base + len(text) - keep,
                lines + text.count(b"\n", 0, len(text) - keep),
                text[-keep:],
            )
    return None


def _end_of(frame: bytes) -> str:
    """The end tags of what a frame leaves open; empty where it cannot be read."""
    names: list[str] = []
    parser = expat.ParserCreate()
    parser.StartElementHandler = lambda name, _attributes: names.append(name)
    parser.EndElementHandler = lambda _name: names.pop()
    try:
        parser.Parse(frame, False)
    except expat.ExpatError:
        return ""
    return "".join(f"</{name}>" for name in reversed(names))


def first_half(start: Callable[[], BinaryIO], cut: Cut) -> BinaryIO:
    """The document up to the cut."""
    return _Joined(start(), [(0, cut.at)], cut.end.encode())  # type: ignore[return-value]


def second_half(start: Callable[[], BinaryIO], cut: Cut) -> BinaryIO:
    """The frame, and the document from the cut on."""
    return _Joined(start(), [(0, cut.frame), (cut.at, -1)], b"")  # type: ignore[return-value]


class _Joined:
    """Spans of a stream, one after another, and a last word."""

    def __init__(self, stream: BinaryIO, spans: list[tuple[int, int]], last: bytes) -> None:
        """A span is from and up to a byte, -1 for the end; they are in their order."""
        self.stream, self.spans, self.last = stream, spans, last
        self.at = 0

    def read(self, size: int = -1) -> bytes:
        """The next bytes; at least one while there are any."""
        while self.spans:
            begin, end = self.spans[0]
            while self.at < begin and (
                skipped := self.stream.read(min(begin - self.at, _BLOCK))
            ):
                self.at += len(skipped)
            if size < 0:
                want = _BLOCK
            else:
                want = size
            found = self.stream.read(want if end < 0 else min(want, end - self.at))
            self.at += len(found)
            if found:
                return found
            self.spans.pop(0)
        last, self.last = self.last, b""
        return last

    def close(self) -> None:
        """Close what is read from."""
        self.stream.close()

    def __enter__(self) -> _Joined:
        return self

    def __exit__(self, *_exc: object) -> None:
        self.close()
