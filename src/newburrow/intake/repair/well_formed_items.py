"""Items of a feed that are right: a parser checks many at once, so that only what is wrong is looked at.

A parser is some thirty times as fast as the pass that repairs.
"""

from __future__ import annotations

import re
from typing import BinaryIO
from xml.parsers import expat

_CLOSED = re.compile(rb"</(?:[A-Za-z_][\w.-]*:)?(?:item|entry)\s*>")
_DECLARED = re.compile(rb"""xmlns(:[\w.-]+)?\s*=\s*("[^"<]*"|'[^'<]*')""")
_PLAIN = re.compile(
    rb"(?:\xef\xbb\xbf)?(?:<\?xml(?![^>]*encoding)[^>]*>|<\?xml[^>]*encoding=.(?i:utf-8).[^>]*>|<[A-Za-z!])"
)
_BLOCK = 1 << 18


def well_formed(stream: BinaryIO) -> bool | None:
    """Whether a document in UTF-8 is well-formed, its namespaces too; None where this parser cannot tell.

    It takes names by an earlier edition of the standard, so what is not well-formed to it may be so all the same.
    """
    block = stream.read(_BLOCK)
    if b"<!DOCTYPE" in block or not _PLAIN.match(block):
        return None
    parser, fed = expat.ParserCreate("utf-8", " "), 0
    try:
        while block:
            parser.Parse(block, False)
            fed += len(block)
            # A token without an end is scanned again from its start, so twice as much must come each time.
            block = stream.read(max(_BLOCK, fed - parser.CurrentByteIndex))
        parser.Parse(b"", True)
    except expat.ExpatError:
        return False
    return True


class ItemCheck:
    """What is right, in UTF-8, within the elements that are open around items."""

    def __init__(self) -> None:
        self._declared: dict[bytes, bytes] = {}  # xmlns attribute -> its value in quotes

    def declare(self, tag: bytes) -> None:
        """Remember the prefixes that a start tag around the items declares."""
        for found in _DECLARED.finditer(tag):
            self._declared[b"xmlns" + (found[1] or b"")] = found[2]

    def right(self, buffer: bytes, at: int) -> int:
        """Where the run of right items that begins at `at` ends; `at` itself where the first is not right.

        The whole run is tried first, then what is before the place where that failed. Where an end tag is only
        text, ever longer runs are tried from the start, so that each byte is read a few times.
        """
        end = _last_end(buffer, at, len(buffer))
        if end:
            wrong = self._wrong_at(buffer[at:end])
        else:
            wrong = 0
        if wrong is None:
            return end
        before = _last_end(buffer, at, at + wrong)
        if not before:
            return at
        if self._wrong_at(buffer[at:before]) is None:
            return before
        good, size, sized = at, 1, 0
        for found in _CLOSED.finditer(buffer, at):
            sized += 1
            if sized < size:
                continue
            if self._wrong_at(buffer[good : found.end()]) is not None:
                break
            good, size, sized = found.end(), size * 2, 0
        return good

    def _wrong_at(self, items: bytes) -> int | None:
        """The place up to which items are well-formed, their namespaces too; None where they are throughout."""
        declared = b"".join(
            b" " + name + b"=" + value for name, value in self._declared.items()
        )
        start = b"<items" + declared + b">"
        parser = expat.ParserCreate("utf-8", " ")
        try:
            parser.Parse(start + items + b"</items>", True)
        except expat.ExpatError:
            return max(0, min(parser.ErrorByteIndex - len(start), len(items)))
        return None


def _last_end(buffer: bytes, start: int, end: int) -> int:
    """Where the last item that ends there ends; 0 for none."""
    last = max(buffer.rfind(b"</item", start, end), buffer.rfind(b"</entry", start, end))
    if last >= 0:
        closed = _CLOSED.match(buffer, last, end)
    else:
        closed = None
    if closed:
        return closed.end()
    return 0
