"""The parts of a source, sorted into those with content and files of the site."""

from __future__ import annotations

import mimetypes
import posixpath
from collections.abc import Callable, Iterator, Sequence

from msgspec import Struct
from msgspec.structs import replace

from newburrow.core import plugins
from newburrow.core.file_names import without_query
from newburrow.core.problem import BurrowError, Problem
from newburrow.formats.exports import site_index
from newburrow.formats.exports.piece import Piece
from newburrow.intake import archives, bags
from newburrow.intake.budget import Budget
from newburrow.intake.head import Head, head_of
from newburrow.intake.part import UNREADABLE, Contents, LeftOut, Part, folders_around
from newburrow.intake.web_answer import WebAnswer
from newburrow.model import Where

_MEDIA = ("image/", "audio/", "video/", "application/pdf")
# Refusals that end the run only where they are about the content itself, not about an uploaded file.
_OF_CONTENT = ("ambiguous", "wrong-dialect", "entity-declaration")
_TOO_MUCH = ("zip-bomb", "many-files")
_MOST_GIVEN_UP = 8  # archives that are kept as files because they cost too much; with more the source is refused


_BLOCK = 1 << 18
_XML = (".xml", ".rss", ".atom", ".rdf")
_TEXTS = (".xml", ".html", ".htm", ".xhtml")


class _Archive(Struct, frozen=True):
    """An archive within the source that was opened."""

    part: Part
    inner: tuple[Part, ...]
    left_out: tuple[LeftOut, ...]
    is_compressed: bool  # whether it is one file that was compressed by itself
    answers: tuple[WebAnswer, ...] = ()  # of a web archive


class SortedParts:
    """Filled by `add` with each part of a source; `choose` then says which of them are its content."""

    def __init__(self, piece_of: Callable[[Head], Piece | None], budget: Budget) -> None:
        """`piece_of` says how a part is read, None for one without content."""
        self.pieces: list[Piece] = []
        self.files: dict[str, Part] = {}
        self.said: list[tuple[str, Problem]] = []  # names of files, and what to report of them
        self.left_out: list[LeftOut] = []
        # names of files, and why they are not read; an error itself would keep files open
        self.refused: list[tuple[str, Problem]] = []
        self.unpacked: list[str] = []  # names of archives whose files are files of the site
        self._piece_of, self._budget = piece_of, budget
        self._given_up = 0  # archives that would have cost too much
        self._bytes: dict[str, Part] = {}  # pieces as they are in the source
        self._archives: dict[str, _Archive] = {}  # by name

    def add_all(self, contents: Contents, looks_into_all: bool) -> None:
        """Sort all parts of a source.

        Texts that a manifest describes are files. To look into each of them takes long, and changes nothing but
        where a person names further content.
        """
        self.left_out += contents.left_out
        parts = contents.parts
        for part in () if looks_into_all else _manifests(parts):
            self.add(part)
        is_described = any(map(_is_manifest, self.pieces))
        done = {piece.part.name for piece in self.pieces} | self.files.keys()
        for part in parts:
            if part.name in done:
                continue
            if is_described and part.name.lower().endswith(_TEXTS):
                self.files[part.name] = part
            else:
                self.add(part)

    def add(self, part: Part, depth: int = 0) -> None:
        """Sort a part, or the parts of an archive; `depth` counts the archives around it."""
        try:
            head = head_of(part)
            piece = self._piece_of(head)
        except BurrowError as error:
            if error.problem.code in _TOO_MUCH:
                raise
            if error.problem.code in UNREADABLE:  # said when it is read as a file
                self.files[part.name] = part
                self.refused.append((part.name, error.problem))
                return
            if error.problem.code in _OF_CONTENT and _may_be_content(part):
                self.refused.append((part.name, error.problem))
            self._keep(part, error)
            return
        if piece:
            self.pieces.append(piece)
            self._bytes[part.name] = part
            return
        self.files[part.name] = part
        if kind := archives.kind_of(head.start):
            self._add_archive(part, kind, depth + 1)

    def _add_archive(self, part: Part, kind: str, depth: int) -> None:
        if depth > self._budget.limits.depth:
            reason = f"archives are opened {self._budget.limits.depth} levels deep"
            self._say_unopened(part, f"{reason}; allow more with --limit depth={2 * depth}")
            return
        spent = self._budget.spent
        try:
            contents = archives.unpacked(part, kind, self._budget)
        except BurrowError as error:
            if error.problem.code in _TOO_MUCH:
                self._given_up += 1
                if self._given_up > _MOST_GIVEN_UP:
                    raise
                self._budget.spent = spent
            self._keep(part, error)
            return
        if kind == "zip" and archives.is_document(contents.parts):
            return
        inner = tuple(
            replace(inner_part, name=f"{part.name}/{inner_part.name}")
            for inner_part in contents.parts
        )
        left_out = tuple(
            replace(
                file,
                name=f"{part.name}/{file.name}",
                target=file.target and f"{part.name}/{file.target}",
            )
            for file in contents.left_out
        )
        del self.files[part.name]
        is_compressed = archives.is_one_file(kind, part.name, contents)
        self._archives[part.name] = _Archive(
            part, inner, left_out, is_compressed, contents.answers
        )
        for inner_part in inner:
            self.add(inner_part, depth)

    def _keep(self, part: Part, error: BurrowError) -> None:
        """Keep a part that cannot be opened as a file of the site, byte for byte."""
        self.files[part.name] = part
        self._say_unopened(part, error.problem.message.rstrip("."))

    def _say_unopened(self, part: Part, reason: str) -> None:
        problem = Problem.at(Where(part.label), "file-unopened", file=part.name, reason=reason)
        self.said.append((part.name, problem))

    def say_bags(self, parts: Sequence[Part]) -> None:
        """Report each bag (RFC 8493) that is a folder of files because it is not the whole source."""
        for part in parts:
            if bags.is_mark(part):
                where = Where(part.label)
                folder = part.name.removesuffix("bagit.txt").rstrip("/")
                self.said.append((part.name, Problem.at(where, "bag-as-files", folder=folder)))

    @property
    def archives(self) -> list[str]:
        """Names of the archives within the source that could be opened."""
        return list(self._archives)

    def choose(self, chosen: list[Piece]) -> None:
        """Keep these pieces as the content of the source; what only looks like it is a file, and a finding.

        An archive without content is a file as a whole. Raises BurrowError where a part cannot be read that
        lies as high as the content.
        """
        highest = min((piece.part.name.count("/") for piece in chosen), default=-1)
        described = [_folder_of(piece) for piece in chosen if _is_manifest(piece)]
        for name, problem in self.refused:
            is_high = name.count("/") <= highest and not name.startswith(tuple(described))
            if is_high and problem.code in _OF_CONTENT:
                raise BurrowError(problem)
        names = {piece.part.name for piece in chosen}
        for piece in self.pieces:
            if piece.part.name in names:
                continue
            if piece.part.name.startswith(tuple(described)):  # its manifest says what it is
                self.files[piece.part.name] = self._bytes[piece.part.name]
            else:
                self._make_file(piece)
        self.pieces = chosen
        self._close_archives()
        self.left_out += [
            file for name in self.opened for file in self._archives[name].left_out
        ]

    def _make_file(self, piece: Piece) -> None:
        self.files[piece.part.name] = self._bytes[piece.part.name]
        self._say_as_file(piece.part, plugins.get(plugins.FORMATS, piece.format).title)

    def _say_as_file(self, part: Part, title: str) -> None:
        where = Where(part.label)
        problem = Problem.at(where, "content-as-file", file=part.name, format=title)
        self.said.append((part.name, problem))

    def _close_archives(self) -> None:
        """Make the archives without content files again; in them nothing was found but what looks like it."""
        around = {folder for piece in self.pieces for folder in folders_around(piece.part.name)}
        closed = self._archives.keys() - around
        self.files = {
            name: part
            for name, part in self.files.items()
            if closed.isdisjoint(folders_around(name))
        }
        self.said = [
            (name, problem)
            for name, problem in self.said
            if problem.code == "content-as-file" or closed.isdisjoint(folders_around(name))
        ]
        for name in closed:
            if closed.isdisjoint(folders_around(name)):
                self.files[name] = self._archives[name].part
        self.files = dict(sorted(self.files.items()))

    def place_unpacked(self) -> None:
        """Let what is in a compressed file stand in its place, since servers show `pear.html.gz` as `pear.html`.

        A compressed copy of a file that is there too is left out.
        """
        unpacked = {file.name for archive in self._compressed() for file in archive.inner}
        parts = {piece.part.name: piece.part for piece in self.pieces} | self.files
        pieces = []
        for piece in self.pieces:
            part = piece.part
            if part.name not in unpacked:
                pieces.append(piece)
                continue
            packed, _slash, last = part.name.rpartition("/")
            folder, slash, _last = packed.rpartition("/")
            place = f"{folder}{slash}{last}"
            if place not in parts:
                parts[place] = replace(part, name=place)
                pieces.append(replace(piece, part=parts[place]))
            elif _is_copy(part, parts[place]):
                reason = f"is a compressed copy of {place}"
                self.left_out.append(LeftOut(part.name, part.label, reason))
            else:
                pieces.append(piece)
        self.pieces = pieces

    def _compressed(self) -> list[_Archive]:
        return [archive for archive in self._archives.values() if archive.is_compressed]

    def open_media_archives(self) -> None:
        """Take apart the archives beside the content that hold its pictures and the like."""
        folders = {_folder(piece.part.name) for piece in self.pieces} | {""}
        for name, archive in self._archives.items():
            if _folder(name) in folders and name in self.files and _is_media(archive.inner):
                del self.files[name]
                self.files |= {part.name: part for part in archive.inner}
                self.left_out += archive.left_out
                self.unpacked.append(name)

    def take_index(self) -> list[Part]:
        """The feeds and sitemaps of a site that is read as pages; they are told as read for what they say of these."""
        if not any(
            plugins.get(plugins.FORMATS, piece.format).layout_files for piece in self.pieces
        ):
            return []
        found = []
        unpacked = {archive.part.name: archive.inner[0] for archive in self._compressed()}
        for name, part in list(self.files.items()):
            kind = self._kind_of_index(unpacked.get(name, part))
            if kind:
                found.append(unpacked.get(name, part))
                del self.files[name]
                reason = (
                    f"is a {kind} of the old site: dates and people of pages were taken from it"
                )
                self.left_out.append(LeftOut(name, part.label, reason))
        names = {part.name for part in found}
        self.said = [
            (name, problem)
            for name, problem in self.said
            if not (name in names and problem.code == "content-as-file")
        ]
        return found

    @staticmethod
    def _kind_of_index(part: Part) -> str:
        if not (part.name.lower().endswith(_XML) or part.address):
            return ""
        try:
            prolog = head_of(part).prolog
        except BurrowError:
            return ""
        if prolog:
            return site_index.kind_of(prolog.root)
        return ""

    def leave_out_layout(self) -> None:
        """Leave out the styles, scripts and fonts of a site that is read as pages: the new host has its own."""
        endings = tuple(
            ending
            for name in {piece.format for piece in self.pieces}
            for ending in plugins.get(plugins.FORMATS, name).layout_files
        )
        if endings:
            layout = [
                name for name in self.files if without_query(name.lower()).endswith(endings)
            ]
        else:
            layout = []
        for name in layout:
            part = self.files.pop(name)
            reason = "belongs to the layout of the old site (styles, scripts, fonts)"
            self.left_out.append(LeftOut(name, part.label, reason))

    @property
    def listed(self) -> int:
        """How many files the opened archives list."""
        found = (self._archives[name] for name in self.opened)
        return sum(len(archive.inner) + len(archive.left_out) for archive in found)

    @property
    def answers(self) -> tuple[WebAnswer, ...]:
        """What addresses answered besides pages and files, in the web archives among the parts."""
        opened = (self._archives[name] for name in self.opened)
        return tuple(answer for archive in opened for answer in archive.answers)

    @property
    def opened(self) -> list[str]:
        """Names of the archives whose files stand for them."""
        files = self.files.keys()
        return [
            name
            for name in self._archives
            if name not in files and files.isdisjoint(folders_around(name))
        ]


def _manifests(parts: Sequence[Part]) -> Iterator[Part]:
    """Those that are called as a manifest is, and in whose folder all others lie."""
    formats = (plugins.get(plugins.FORMATS, name) for name in plugins.names(plugins.FORMATS))
    names = {format_.manifest for format_ in formats} - {""}
    for part in parts:
        folder, name = posixpath.split(part.name)
        inside = f"{folder}/" if folder else ""
        if name in names and all(other.name.startswith(inside) for other in parts):
            yield part


def _folder(name: str) -> str:
    return name.rpartition("/")[0]


def _is_copy(part: Part, other: Part) -> bool:
    """Whether two files have the same bytes."""
    with part.open() as stream, other.open() as other_stream:
        while block := stream.read(_BLOCK):
            if block != other_stream.read(_BLOCK):
                return False
        return not other_stream.read(1)


def _is_media(parts: Sequence[Part]) -> bool:
    """Whether most files of an archive are pictures, sounds, films or documents."""
    types = [mimetypes.guess_type(without_query(part.name))[0] or "" for part in parts]
    return 2 * sum(type_.startswith(_MEDIA) for type_ in types) > len(types)


def _may_be_content(part: Part) -> bool:
    """Whether a part that is refused can be an export rather than a drawing among uploaded files."""
    return (
        part.name.lower().endswith((".xml", ".rss", ".atom", ".rdf", ".json"))
        or "." not in part.name
    )


def _folder_of(piece: Piece) -> str:
    """The folder of a piece with its slash; empty at the top, where every name begins with it."""
    folder, slash, _last = piece.part.name.rpartition("/")
    return folder + slash


def _is_manifest(piece: Piece) -> bool:
    return bool(plugins.get(plugins.FORMATS, piece.format).manifest)
