"""Mending one file: first a look whether it needs it, then a pass to learn, then the pass that repairs."""

from __future__ import annotations

import shutil
import sys
import tempfile
from collections.abc import Callable
from typing import Any, BinaryIO
from urllib.parse import quote

import msgspec
from lxml import etree

from newburrow.core.problem import BurrowError, refusal
from newburrow.intake.encodings import TextEncoding, mended_from
from newburrow.intake.head import Head, as_utf8, head_of
from newburrow.intake.part import Part
from newburrow.intake.repair.encoding import CHUNK, Bytes, Coding, examine
from newburrow.intake.repair.record import Repair, Tell, shown
from newburrow.intake.repair.well_formed_items import well_formed
from newburrow.intake.repair.xml_scanner import Out, Scanner
from newburrow.model.record import Where

# Prefixes with a well-known namespace; any other gets a URI that says what it is.
_KNOWN = {
    b"atom": b"http://www.w3.org/2005/Atom",
    b"content": b"http://purl.org/rss/1.0/modules/content/",
    b"dc": b"http://purl.org/dc/elements/1.1/",
    b"media": b"http://search.yahoo.com/mrss/",
    b"slash": b"http://purl.org/rss/1.0/modules/slash/",
    b"thr": b"http://purl.org/syndication/thread/1.0",
    b"wfw": b"http://wellformedweb.org/CommentAPI/",
    b"xlink": b"http://www.w3.org/1999/xlink",
}


class _Nothing:
    """A parser's target that keeps nothing, so that a large file is checked in little memory."""

    def close(self) -> None:
        """The end of the document."""


def is_well_formed(stream: BinaryIO) -> bool:
    """Whether the XML in a stream is well-formed, its namespaces too. Expands and fetches nothing."""
    keep: Any = _Nothing()
    parser = etree.XMLParser(
        target=keep, huge_tree=True, resolve_entities=False, no_network=True, load_dtd=False
    )
    try:
        while block := stream.read(CHUNK):
            parser.feed(block)
        parser.close()
    except etree.XMLSyntaxError:
        return False
    # An undeclared prefix does not stop this parser, but it stops those that build elements.
    return len(parser.feed_error_log.filter_from_errors()) == 0


def mend(part: Part, target: BinaryIO, tell: Tell) -> bool:
    """Write an XML part, mended where it is not well-formed (XML 1.0).

    `tell` gets every repair with its line, in order. Gives whether anything was mended. A file that is
    well-formed is copied unchanged; any other becomes UTF-8. A parser checks many items at once, and only
    what it refuses is scanned byte by byte.
    """
    head = head_of(part)  # refuses a document that declares entities
    if not _is_broken(head):
        with part.open() as stream:
            shutil.copyfileobj(stream, target, CHUNK)
        return False
    encoding = mended_from(part.open, head.encoding)
    # Undeclared prefixes are known only at the end but declared at the start; most files have none.
    with tempfile.TemporaryFile() as mended, tempfile.TemporaryFile() as repairs_file:
        undeclared = _scan(
            part,
            encoding,
            mended.write,
            lambda repair: repairs_file.write(msgspec.json.encode(repair) + b"\n"),
            {},
        )
        if not undeclared:
            mended.seek(0)
            shutil.copyfileobj(mended, target, CHUNK)
            repaired = repairs_file.tell() > 0
            repairs_file.seek(0)
            for line in repairs_file:
                tell(msgspec.json.decode(line, type=Repair))
            return repaired
    declare = {
        prefix: _KNOWN.get(prefix, b"urn:undeclared:" + quote(prefix).encode("ascii"))
        for prefix in undeclared
    }
    _scan(part, encoding, target.write, tell, declare)
    return True


def _is_broken(head: Head) -> bool:
    """Whether a part is not well-formed, or its bytes are not in the encoding that it declares."""
    try:
        with head.text.open() as stream:
            right = well_formed(stream)
        if right is None:
            with head.text.open() as stream:
                right = is_well_formed(stream)
    except BurrowError:
        return True
    return not right or bool(head.encoding and head.encoding.declared)


def _scan(
    part: Part,
    encoding: TextEncoding | None,
    out: Out,
    tell: Tell,
    declare: dict[bytes, bytes],
) -> set[bytes]:
    """One pass; gives the prefixes that nothing declares."""
    # of one chunk, in which two repairs work: reported in the order of their lines
    pending: list[Repair] = []
    text, coding = part, Coding()
    if encoding:
        tell(Repair("encoding", 1, encoding.name, "UTF-8"))
        text = as_utf8(
            part,
            encoding,
            lambda line, wrong: pending.append(
                Repair("encoding", line, shown(wrong), "\ufffd")
            ),
        )
    else:
        with part.open() as stream:
            coding = examine(stream)
    with text.open() as stream:
        source = Bytes(stream, coding, pending.append)
        scanner = Scanner(out, pending.append, declare)
        for chunk in source.chunks():
            scanner.feed(chunk, source.line)
            _tell_before(scanner.line, pending, tell)
        scanner.finish()
    _tell_before(sys.maxsize, pending, tell)
    return scanner.undeclared


def _tell_before(line: int, pending: list[Repair], tell: Tell) -> None:
    """Tell the repairs of earlier lines, in order; others may still come before those of later ones."""
    for repair in sorted(
        (repair for repair in pending if repair.line < line), key=lambda repair: repair.line
    ):
        tell(repair)
    pending[:] = [repair for repair in pending if repair.line >= line]


def check(open_file: Callable[[], BinaryIO], label: str) -> None:
    """Read a mended part once more and make sure that it is well-formed XML 1.0 now.

    `open_file` opens the mended copy. Raises BurrowError, with line and column in `label`, if it is not.
    """
    with open_file() as stream:
        right = well_formed(stream)
    if not right:
        with open_file() as stream:
            right = is_well_formed(stream)
    if not right:
        raise refusal(
            "not-mended",
            "This file is broken in a way that could not be mended.",
            "Export the site again, or correct the file in a text editor.",
            Where(label),
        )
