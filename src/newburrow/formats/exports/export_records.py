"""The records of an export: those of its parts in order of name, then the files that none of them names.

Each file is tied to the media record that names it, or becomes a record of its own, so that every file of
the export is accounted for.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from itertools import islice
from typing import Any, TypeVar, cast
from urllib.parse import quote

import msgspec

from newburrow.core import plugins, url
from newburrow.core.problem import BurrowError, Problem, refusal
from newburrow.core.progress import Event, Listener, nobody
from newburrow.core.time_limit import TimeLimitReached, each_within
from newburrow.dialects.file_pattern import matches_file
from newburrow.dialects.schema import PASSED_OVER, RecordMap
from newburrow.formats.base import Input
from newburrow.formats.exports.category_pages import with_categories
from newburrow.formats.exports.described_files import described, unreadable
from newburrow.formats.exports.export import Export
from newburrow.formats.exports.piece import Piece
from newburrow.formats.exports.unsafe_addresses import without_unsafe
from newburrow.formats.exports.unsafe_texts import without_active
from newburrow.formats.exports.web_addresses import NOT_STATED, WebAddresses
from newburrow.intake.excerpt import with_excerpt
from newburrow.intake.part import UNREADABLE, Part
from newburrow.model import Media, Record, Site, Where
from newburrow.model.reading import FormerAddress, Item, LeftOutFile, Mention
from newburrow.model.site import LINKED_ADDRESS

R = TypeVar("R", bound=Record)
_MOST_STEPS = 10  # from link to link
_SAVED = "html"  # the format of pages whose files lie as their addresses say
_UNREAD = (*UNREADABLE, "too-large-text")  # codes of refusals of one page, in any format

# stands for the address of a site if the export has none
UNKNOWN_SITE = "https://old-site.example/"


def records(
    export: Export, listener: Listener = nobody, unknown: str = UNKNOWN_SITE
) -> Iterator[Item | Problem]:
    """All records of a source: those of its parts in order of name, then the files that none of them names.

    `unknown` is the address that stands for that of a site of which the export says none.
    """
    yield from export.problems
    progress = Progress(listener)
    site = site_first(export, unknown)
    if site:
        yield site
    yield from of_pieces(export, export.pieces, site, progress)
    yield from rest(export, site)


def of_pieces(
    export: Export, pieces: Sequence[Piece], site: Site | None, progress: Progress
) -> Iterator[Item | Problem]:
    """The records of these pieces of an export; see `read_piece` and `with_files`."""
    label = export.source.path.name

    def found() -> Iterator[Item | Problem]:
        nonlocal label
        for piece in pieces:
            label = piece.part.label
            yield from with_files(export, piece, read_piece(export, piece, site, progress))
            progress.next_part()

    yield from in_time(export, found(), lambda: label)


def with_files(
    export: Export, piece: Piece, found: Iterator[Item | Problem]
) -> Iterator[Item | Problem]:
    """The records of a piece, each file's record with the facts of the file that it names.

    A file in the export gives its path, size and digest, and is then counted as used. A record whose file is
    not in the export stays as it is. A site gets the name of the piece's dialect.
    """
    web = WebAddresses(export.site, UNKNOWN_SITE)
    for item in _safe(_filed(piece, found)):
        record = item if isinstance(item, Problem) else web.of(item)
        if isinstance(record, Site) and not record.dialect:
            record = msgspec.structs.replace(record, dialect=piece.dialect.name)
        if isinstance(record, Site) and not record.address and export.site:
            record = msgspec.structs.replace(record, address=export.site)
        elif isinstance(record, Media):
            yield from _with_file(export, record)
            continue
        elif isinstance(record, Mention) and isinstance(record.record, Media):
            found_file = _with_file(export, record.record)
            yield from (
                Mention(file) if isinstance(file, Media) else file for file in found_file
            )
            continue
        yield record


def in_time(
    export: Export, found: Iterator[Item | Problem], label: Callable[[], str]
) -> Iterator[Item | Problem]:
    """The same. Raises BurrowError where the next takes longer than the limit of the source allows.

    `label` gives the label of the part that is being read.
    """
    seconds = export.request.limits.seconds
    try:
        yield from each_within(found, seconds)
    except TimeLimitReached:
        raise refusal(
            "stalled",
            f"Nothing was read for {seconds:,} seconds.",
            "An expression of the dialect may take for ever, or the disk does not answer. If it only takes long, "
            f"allow more: --limit seconds={10 * seconds}.",
            Where(label()),
        ) from None


def _filed(piece: Piece, found: Iterator[Item | Problem]) -> Iterator[Item | Problem]:
    """The same with the categories that are pages of a wiki."""
    for item in found:
        yield from with_categories(item, piece.dialect.wiki.category)


def _safe(found: Iterator[Item | Problem]) -> Iterator[Item | Problem]:
    """The same without addresses that run a script; the findings about them come before."""
    for item in found:
        if isinstance(item, Mention):
            record, problems = _made_safe(item.record)
            yield from problems
            yield item if not problems else Mention(record)
        elif isinstance(item, Record):
            item, problems = _made_safe(item)
            yield from problems
            yield item
        else:
            yield item


def _made_safe(record: R) -> tuple[R, list[Problem]]:
    """The record without what could run a script, and the findings about it."""
    safe, problems = without_unsafe(record)
    clean, more = without_active(safe)
    return clean, [*problems, *more]


def rest(export: Export, site: Site | None = None) -> Iterator[Item | Problem]:
    """The files that no record names and no reader has opened, then those that are listed and not read.

    `site` is the one that its parts are pages of, if any: links to these had addresses on it.
    """
    is_saved = any(piece.format == _SAVED for piece in export.pieces)
    saved_at = site.address if site and is_saved else ""
    for name, part in export.files.items():
        if name not in export.used:
            page_address = _page_address(export, part, saved_at)
            yield from described(_file_of(export, part), part, page_address)
    where = Where(export.source.path.name)
    for answer in export.answers:
        yield FormerAddress(answer.address, answer.target, where)
    if site and is_saved:
        yield from _linked_pages(export, site)
    for source in (export, *export.beside):
        yield from (LeftOutFile(file.name, file.reason) for file in source.left_out)


def _linked_pages(export: Export, site: Site) -> Iterator[FormerAddress]:
    """The addresses of links among the pages: they are further ones of the pages that the links lead to."""
    links = {file.name: file for file in export.left_out if file.target}
    pages = {piece.part.name: piece.part for piece in export.pieces}
    for link in links.values():
        target, steps = link.target, 0
        while target in links and steps < _MOST_STEPS:
            target, steps = links[target].target, steps + 1
        if target not in pages:
            continue
        if export.top:
            place = link.name.removeprefix(f"{export.top}/")
        else:
            place = link.name
        address, leads_to = (
            url.resolve(site.address, quote(name))
            for name in (place, export.place_of(pages[target]))
        )
        yield FormerAddress(address, leads_to, Where(link.label))


def _file_of(export: Export, part: Part) -> Media:
    """The record of a file that no other record names."""
    return Media(
        key=f"file:{part.name}",
        address=part.address,
        entry=export.page_with(part.name),
        source=Where(part.label),
    )


def _page_address(export: Export, part: Part, site: str) -> str:
    """The address that a file of a saved site had; empty where that of the site is not known, or it is no saved one."""
    if site:
        return url.resolve(site, quote(export.place_of(part)))
    return ""


class Progress:
    """Entries read so far, over all parts."""

    def __init__(self, listener: Listener) -> None:
        self.listener, self.before, self.here = listener, 0, 0

    def __call__(self, entries: int) -> None:
        """Tell how many entries of this part were read."""
        self.here = entries
        if (self.before + entries) % 50 == 0:
            self.listener(Event("Reading the export", self.before + entries))

    def next_part(self) -> None:
        """Go on with the next part."""
        self.before, self.here = self.before + self.here, 0


def site_first(export: Export, unknown: str) -> Site | None:
    """The site as plain records say it: their addresses are relative to it, wherever in the export it is."""
    with_maps = [piece for piece in export.pieces if piece.dialect.records]
    for piece in with_maps:
        maps = [
            record
            for record in piece.dialect.records
            if record.of == "site" and matches_file(piece.part.name, record.file)
        ]
        if maps:
            others = _passed_over(piece, maps)
            only = msgspec.structs.replace(piece.dialect, records=[*maps, *others])
            for record in read_piece(
                export,
                msgspec.structs.replace(piece, dialect=only),
                None,
                lambda _entries: None,
            ):
                if isinstance(record, Site):
                    named = msgspec.structs.replace(record, dialect=piece.dialect.name)
                    if url.site_key(named.address):
                        return named
                    shown = _shown_site(export) or Site(key="site")
                    return _addressed(named, shown, export, unknown)
    of_folders = [piece for piece in export.pieces if _is_of_folder(piece)]
    if not with_maps and not of_folders:
        return None
    shown = _shown_site(export) or Site(key="site")
    if shown.front_page and (top := export.top):
        shown = msgspec.structs.replace(
            shown, front_page=shown.front_page.removeprefix(f"{top}/")
        )
    named = msgspec.structs.replace(shown, dialect=(with_maps or of_folders)[0].dialect.name)
    return _addressed(named, shown, export, unknown)


def _addressed(site: Site, shown: Site, export: Export, unknown: str) -> Site:
    """The site with the best address that is known: given, stated, of feeds and sitemaps, of links, or `unknown`.

    `shown` is the site as its pages show it together. Where nobody states the address, `extra` says so.
    """
    by_links = shown.extra.get(LINKED_ADDRESS)
    own = {name: value for name, value in site.extra.items() if name != LINKED_ADDRESS}
    if export.site:
        return msgspec.structs.replace(site, address=export.site, extra=own)
    if shown.address and not by_links:
        return msgspec.structs.replace(site, address=shown.address, extra=own)
    if export.indexed_site:
        return msgspec.structs.replace(site, address=export.indexed_site, extra=own)
    if by_links:
        extra = own | {LINKED_ADDRESS: by_links}
        return msgspec.structs.replace(site, address=shown.address, extra=extra)
    return msgspec.structs.replace(site, address=unknown, extra=own | NOT_STATED)


def _passed_over(piece: Piece, maps: list[RecordMap]) -> list[RecordMap]:
    """The other maps of an XML part, so that an element of the site does not hold their records in memory."""
    return [
        msgspec.structs.replace(record, of=PASSED_OVER, inner=[])
        for record in piece.dialect.records
        if record not in maps and piece.format == "xml"
    ]


def is_manifest(piece: Piece) -> bool:
    """Whether a part says what all other files of its folder are."""
    return bool(plugins.get(plugins.FORMATS, piece.format).manifest)


def _is_of_many_pages(export: Export) -> bool:
    """Whether a site has a file for each page, of which the others can be read without one."""
    pages = (
        piece for piece in export.pieces if plugins.get(plugins.FORMATS, piece.format).is_tree
    )
    return len(list(islice(pages, 2))) == 2


def _is_of_folder(piece: Piece) -> bool:
    """Whether a part is one file of a site in a folder, whose links lead to the files beside it."""
    return is_manifest(piece) or plugins.get(plugins.FORMATS, piece.format).is_tree


def _shown_site(export: Export) -> Site | None:
    """The site as the parts of one format show it together, where a format says that."""
    for name in dict.fromkeys(piece.format for piece in export.pieces):
        format_: Any = plugins.get(plugins.FORMATS, name)
        parts = [piece.part for piece in export.pieces if piece.format == name]
        if site := format_.site_of(parts, export.files.keys()):
            return cast(Site, site)
    return None


def read_piece(
    export: Export, piece: Piece, site: Site | None, progress: Callable[[int], None]
) -> Iterator[Item | Problem]:
    """The records of one part.

    `site` is the site of the export, if it is known before: it is then not yielded again. `progress` gets the
    number of entries read so far. Where each page is a file, a part that is damaged or too large becomes a file that
    cannot be read, after the records that were in it. Raises BurrowError, with an excerpt of the line, if the part
    is not well-formed.
    """
    base, zone, title, front = export.site, "", "", ""
    if site:
        base, zone, title, front = site.address, site.zone, site.title, site.front_page
    format_: Any = plugins.get(plugins.FORMATS, piece.format)
    dialect = piece.dialect
    yield from _encoding_doubts(piece)
    with piece.part.open() as stream:
        source = Input(
            piece.part.label,
            stream,
            dialect,
            piece.root,
            piece.part.name,
            base,
            zone,
            title,
            bool(front) and front in (export.place_of(piece.part), piece.part.name),
            export.top,
            piece.part.address,
            progress=progress,
            known_page=export.known_page,
            sibling=export.opener_for(piece.part),
            share=piece.share,
            has=export.knows_beside(piece.part),
            start_of=export.start_beside(piece.part),
        )
        try:
            # The site was given before, because what follows it depends on its address.
            yield from (
                item
                for item in format_.read(source)
                if site is None or not isinstance(item, Site)
            )
        except BurrowError as error:
            part = piece.part
            if not _is_of_many_pages(export) or error.problem.code not in _UNREAD:
                raise BurrowError(with_excerpt(error.problem, part)) from None
            page_address = _page_address(export, part, base if piece.format == _SAVED else "")
            yield from unreadable(_file_of(export, part), part, error, page_address)


def _encoding_doubts(piece: Piece) -> Iterator[Problem]:
    """What a person should check of the encoding in which a file is read."""
    encoding, where = piece.encoding, Where(piece.part.label)
    if encoding and encoding.guessed:
        yield Problem.at(
            where, "encoding-guessed", file=piece.part.label, encoding=encoding.name
        )
    if encoding and encoding.declared:
        yield Problem.at(
            where,
            "encoding-misstated",
            file=piece.part.label,
            declared=encoding.declared,
            encoding=encoding.name,
        )


def _with_file(export: Export, media: Media) -> Iterator[Media | Problem]:
    """The record with the facts of the file that it names."""
    part = export.part_named(media.path or url.path_of(media.address))
    if part:
        export.used.add(part.name)
    yield from described(media, part)
