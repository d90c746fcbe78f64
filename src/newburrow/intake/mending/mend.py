"""Mending one file: first a look whether it needs it, then a pass to learn, then the pass that repairs."""

from __future__ import annotations

import shutil
import sys
from typing import Any, BinaryIO
from urllib.parse import quote

from lxml import etree

from newburrow.intake.mending.encoding import CHUNK, Bytes, Coding, examine
from newburrow.intake.mending.markup import Out, Scanner
from newburrow.intake.mending.repair import Repair, Tell
from newburrow.intake.part import Part
from newburrow.model import Where
from newburrow.problem import stop

# Prefixes whose namespace everybody knows; any other gets one that says what it is.
_KNOWN = {
    b"atom": b"http://www.w3.org/2005/Atom",
    b"content": b"http://purl.org/rss/1.0/modules/content/",
    b"dc": b"http://purl.org/dc/elements/1.1/",
    b"media": b"http://search.yahoo.com/mrss/",
    b"slash": b"http://purl.org/rss/1.0/modules/slash/",
    b"thr": b"http://purl.org/syndication/thread/1.0",
    b"wfw": b"http://wellformedweb.org/CommentAPI/",
    b"xlink": b"http://www.w3.org/1999/xlink",
}  # fmt: skip


class _Nothing:
    """A parser's target that keeps nothing, so that a large file is checked in little memory."""

    def close(self) -> None:
        """The end of the document."""


def is_well_formed(stream: BinaryIO) -> bool:
    """Whether the XML in a stream is well-formed, its namespaces too. Expands and fetches nothing."""
    keep: Any = _Nothing()
    parser = etree.XMLParser(target=keep, huge_tree=True, resolve_entities=False, no_network=True, load_dtd=False)
    try:
        while block := stream.read(CHUNK):
            parser.feed(block)
        parser.close()
    except etree.XMLSyntaxError:
        return False
    # A prefix that nothing declares does not stop this parser, but it does those that build elements.
    return len(parser.feed_error_log.filter_from_errors()) == 0


def mend(part: Part, target: BinaryIO, tell: Tell) -> bool:
    """Write the part, mended where it is not well-formed; gives whether it was not."""
    part.head()  # refuses a document that declares entities
    with part.open() as stream:
        right = is_well_formed(stream)
    if right:
        with part.open() as stream:
            shutil.copyfileobj(stream, target, CHUNK)
        return False
    with part.open() as stream:
        coding = examine(stream)
    undeclared = _scan(part, coding, lambda _data: None, lambda _repair: None, {})
    declare = {prefix: _KNOWN.get(prefix, b"urn:undeclared:" + quote(prefix).encode("ascii")) for prefix in undeclared}
    _scan(part, coding, target.write, tell, declare)
    return True


def _scan(part: Part, coding: Coding, out: Out, tell: Tell, declare: dict[bytes, bytes]) -> set[bytes]:
    """One pass; gives the prefixes that nothing declares."""
    held: list[Repair] = []  # of one chunk, which two hands repair: told in the order of their lines
    with part.open() as stream:
        source, scanner = Bytes(stream, coding, held.append), Scanner(out, held.append, declare)
        for chunk in source.chunks():
            scanner.feed(chunk, source.line)
            _tell_before(scanner.line, held, tell)
        scanner.finish()
    _tell_before(sys.maxsize, held, tell)
    return scanner.undeclared


def _tell_before(line: int, held: list[Repair], tell: Tell) -> None:
    """Tell the repairs of earlier lines, in order; others may still come before those of later ones."""
    for repair in sorted((one for one in held if one.line < line), key=lambda one: one.line):
        tell(repair)
    held[:] = [one for one in held if one.line >= line]


def check(stream: BinaryIO, label: str) -> None:
    """Raises BurrowError where what was mended is still not well-formed."""
    if not is_well_formed(stream):
        raise stop(
            "not-mended",
            "This file is broken in a way that could not be mended.",
            "Export the site again, or correct the file in a text editor.",
            Where(label),
        )
