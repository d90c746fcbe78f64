"""A first dialect for an export that no dialect describes."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from lxml import etree

from newburrow.assess.dialect_draft import feed_draft, html_draft, record_draft, record_tables
from newburrow.core import plugins
from newburrow.core.problem import BurrowError, refusal
from newburrow.formats.exports import detection
from newburrow.formats.exports.export import ExportRequest
from newburrow.intake.budget import ReadingLimits
from newburrow.intake.encodings import guessed_encoding
from newburrow.intake.excerpt import with_excerpt
from newburrow.intake.head import Head, as_utf8, head_of
from newburrow.intake.opening import open_source
from newburrow.intake.part import Part
from newburrow.intake.source import Source
from newburrow.intake.xml_errors import not_well_formed
from newburrow.model import Where


def draft_dialect(path: Path, limits: ReadingLimits) -> str:
    """The text of a first dialect for the export at a path, with what was seen as comments.

    The result is valid TOML that `dialects.loader` accepts as it is; a person corrects it. Reads at most
    a sample of each file. Raises BurrowError if nothing at the path is XML, JSON or CSV with records, or HTML pages.
    """
    source = open_source(path, limits)
    try:
        pieces = detection.examine(path, request=ExportRequest((), limits=limits)).pieces
    except BurrowError as error:
        if error.problem.code not in ("no-dialect", "no-export"):
            raise
        plain = _records(source)
        if not plain:
            raise
        return record_draft.draft(record_tables.look(plain))
    pages = [piece.part for piece in pieces if piece.format == "html"]
    if pages:
        return html_draft.draft(pages)
    feed = next((piece for piece in pieces if piece.root and not piece.dialect.records), None)
    if feed is None:
        if plain := _records(source):
            return record_draft.draft(record_tables.look(plain))
        advice = "It can be read as it is: newburrow survey"
        raise refusal(
            "nothing-to-draft",
            "There are no plain records, and no RSS or Atom.",
            advice,
            Where(str(path)),
        )
    try:
        with feed.part.open() as stream:
            return feed_draft.draft(stream, feed.format)
    except etree.XMLSyntaxError as error:
        raise BurrowError(
            with_excerpt(not_well_formed(error, feed.part.label).problem, feed.part)
        ) from None


def _in_utf8(head: Head) -> Part:
    """The text of a part; the encoding of one that declares none is guessed."""
    guessed = None
    if not (head.prolog or head.encoding):
        guessed = guessed_encoding(head.text.open)
    if guessed:
        return as_utf8(head.text, guessed)
    return head.text


def _records(source: Source) -> Sequence[tuple[Part, str]]:
    """The parts that are plain records, each with its format; those that other readers take are left alone."""
    formats = [plugins.get(plugins.FORMATS, name) for name in plugins.names(plugins.FORMATS)]
    # JSON Lines also begin like JSON, and a file with a header row is not XML.
    plain = sorted(
        (format_ for format_ in formats if format_.needs_dialect),
        key=lambda format_: format_.name != "jsonlines",
    )
    found = []
    for part in source.parts:
        head = head_of(part)
        if any(format_.recognise(head) for format_ in formats if not format_.needs_dialect):
            continue
        fitting = next((format_.name for format_ in plain if format_.recognise(head)), "")
        if fitting:
            found.append((_in_utf8(head), fitting))
    return found
