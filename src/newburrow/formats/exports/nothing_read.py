"""Why nothing in a source can be read, in words that help: it is not an export, or a web page in place of one."""

from __future__ import annotations

import html
import re
from collections.abc import Sequence
from pathlib import Path

from lxml import etree

from newburrow.core import plugins
from newburrow.core.problem import BurrowError, Problem, refusal
from newburrow.dialects.schema import Dialect
from newburrow.dialects.selector import local_name
from newburrow.formats.exports.piece import Piece
from newburrow.intake.excerpt import with_excerpt
from newburrow.intake.head import head_of
from newburrow.intake.part import Part
from newburrow.intake.source import Source
from newburrow.intake.xml_errors import not_well_formed
from newburrow.model import Where

_ARCHIVES = (".zip", ".gz", ".tgz", ".tar", ".bz2", ".xz", ".imscc")
_OF_EXPORTS = (
    ".zip", ".xml", ".json", ".jsonl", ".atom", ".rss", ".csv", ".gz", ".tgz", ".tar", ".imscc", ".warc",
)  # fmt: skip
_TITLE = re.compile(rb"<title[^>]*>(.*?)</title>", re.IGNORECASE | re.DOTALL)
_PAGE_START = 64 * 1024  # bytes in which the title must stand
_LONGEST_TITLE = 80  # characters of a title that are shown
_LOOKED_THROUGH = 1000  # files; with more, those that would need a dialect are not named


def nothing_read(source: Source, chosen: Dialect | None) -> BurrowError:
    """The error for a source of which no reader knows any part.

    `chosen` is the dialect that was asked for, if any. The error says that an XML file is not well-formed,
    that the chosen dialect is for something else, that a dialect is needed, or what can be read.
    """
    path, parts = source.path, source.parts
    if not parts:
        return _no_files(source)
    formats = [plugins.get(plugins.FORMATS, name) for name in plugins.names(plugins.FORMATS)]
    heads = [head_of(part) for part in parts[:_LOOKED_THROUGH]]
    broken = next(
        (part for part in parts if part.name.lower().endswith((".xml", ".rss"))), None
    )
    if broken and not chosen:
        problem = _why_unread(broken, path)
        if problem:
            return BurrowError(problem)
    if len(parts) != 1:
        finding = f"None of its {len(parts)} files is an export"
    else:
        finding = "It is not an export"
    if chosen:
        return refusal(
            "no-export",
            f"{finding} that the dialect {chosen.name!r} is for ({chosen.format}).",
            "See in the dialect which files and formats its [[records]] name.",
            Where(str(path)),
        )
    for head in heads:
        for format_ in formats:
            if format_.needs_dialect and format_.recognise(head):
                return _no_dialect(format_.title, head.text.label, path)
    is_itself = len(parts) == 1 and parts[0].name == path.name  # and not opened
    if is_itself and path.name.lower().endswith(_ARCHIVES):
        return refusal(
            "no-export",
            f"The file is named {path.suffix}, but is not an archive of that kind.",
            "Download the export again; see with another program what the file is.",
            Where(str(path)),
        )
    return refusal(
        "no-export",
        f"{finding} that New Burrow can read ({', '.join(format_.title for format_ in formats if format_.reads)}).",
        "Hand in the file, folder or zip that the old host's export gave you.",
        Where(str(path)),
    )


def _no_files(source: Source) -> BurrowError:
    finding = "It is empty."
    if source.left_out:
        first, others = source.left_out[0], len(source.left_out) - 1
        finding = f"It holds no file that can be read: {first.name} {first.reason}"
        finding += f", and {others:,} more are left out." if others else "."
    return refusal(
        "no-export",
        finding,
        "Hand in the file, folder or zip that the old host's export gave you.",
        Where(str(source.path)),
    )


def _no_dialect(title: str, label: str, path: Path) -> BurrowError:
    return refusal(
        "no-dialect",
        f"This is {title}, and no dialect that ships says where its facts are.",
        f"Draft one: newburrow dialects --draft-from {path} > my.toml; correct it, "
        "and name it with --dialect my.toml.",
        Where(label),
    )


def _why_unread(part: Part, path: Path) -> Problem | None:
    """What is wrong with a file that calls itself XML and that no reader knows."""
    with head_of(part).text.open() as stream:
        try:
            for _event, root in etree.iterparse(
                stream,
                events=("start",),
                resolve_entities=False,
                no_network=True,
                load_dtd=False,
            ):
                name = local_name(root.tag)
                return _no_dialect(
                    f"XML with the root element {name!r}", part.label, path
                ).problem
        except etree.XMLSyntaxError as error:
            return with_excerpt(not_well_formed(error, part.label).problem, part)
    return None


def refuse_saved_page(source: Source, pieces: Sequence[Piece]) -> None:
    """Raise BurrowError where the whole source is one web page that is named like an export."""
    name = source.path.name.lower()
    if len(pieces) != 1 or pieces[0].format != "html" or not source.path.is_file():
        return
    if not name.endswith(_OF_EXPORTS) or pieces[0].part.name.lower() != name:
        return
    with pieces[0].part.open() as stream:
        found = _TITLE.search(stream.read(_PAGE_START))
    if found:
        title = " ".join(html.unescape(found[1].decode("utf-8", "replace")).split())
    else:
        title = ""
    titled = f", titled “{title[:_LONGEST_TITLE]}”" if title else ""
    raise refusal(
        "saved-page",
        f"This is a web page{titled}, not an export: the old host sent it in place of the file.",
        "Log in there and download the export again; wait until the host says that it is ready. "
        "To move the page itself, give its file a name that ends in .html.",
        Where(str(source.path)),
    )
