"""Which parts of a source are its content, where other files look like content too.

Among uploaded files there can be feeds, texts and whole exports: backups, themes, downloads that the site
offers. They are files of the site and are never published as entries, unless a person names them.

Content is what lies highest in the source, in the format that says most about itself. What lies deeper is
a part of it if it is in the same dialect and not among other files.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from posixpath import commonpath, dirname

from newburrow.core import plugins, url
from newburrow.dialects.file_pattern import matches_file
from newburrow.formats.exports.piece import Piece
from newburrow.intake.part import folders_around

# Folders that hold uploaded files, by the names that most sites use.
_UPLOADS = frozenset(
    ("uploads", "upload", "files", "media", "assets", "attachments", "static", "images", "img", "pictures")
)  # fmt: skip
# Files of themes and programs: an archive with any of them is no export.
_SOFTWARE = (
    ".css",
    ".scss",
    ".less",
    ".js",
    ".ts",
    ".php",
    ".tpl",
    ".twig",
    ".liquid",
    ".mustache",
    ".py",
    ".rb",
)
_FEW = 3  # pages that are not yet a site
_LOOSE, _FEED, _TEXTS, _NAMED, _MANIFEST = range(5)  # how much a format says about itself


class Candidates:
    """What looks like content in one source."""

    def __init__(
        self, pieces: Sequence[Piece], files: Iterable[str], archives: Iterable[str]
    ) -> None:
        """`files` are the names of all other files, `archives` of those that were taken apart."""
        self.pieces = pieces
        files = list(files)
        self._archives = set(archives)
        self._software = {
            self._archive_of(name) for name in files if name.lower().endswith(_SOFTWARE)
        } - {""}
        self._beside = {
            folder
            for name in files
            if not self._archive_of(name)
            for folder in folders_around(name)
        }

    def content(self, patterns: Sequence[str]) -> list[Piece]:
        """The pieces that are content, in their order; `patterns` name further ones, as dialects name files."""
        main = self._main()
        if not main:
            return []
        names = {_last_name(piece) for piece in main}
        stems = {_stem(name) for name in names}
        group = {_group(piece) for piece in main}
        chosen = {piece.part.name for piece in main}
        for piece in self.pieces:
            name = _last_name(piece)
            is_numbered = _stem(name) in stems and name not in names
            is_part = _group(piece) in group and (is_numbered or self._is_alone(piece))
            if (is_part and not self._is_upload(piece)) or any(
                matches_file(piece.part.name, pattern) for pattern in patterns
            ):
                chosen.add(piece.part.name)
        return [piece for piece in self.pieces if piece.part.name in chosen]

    def _main(self) -> list[Piece]:
        """What lies highest and says most about itself."""
        outside = [piece for piece in self.pieces if not self._is_upload(piece)]
        groups: dict[tuple[str, str], list[Piece]] = {}
        for piece in outside or self.pieces:
            groups.setdefault(_group(piece), []).append(piece)
        ranks = {key: self._rank(group) for key, group in groups.items()}
        best = min(ranks.values(), default=(0, 0, 0, 0))
        return [
            piece
            for key, group in groups.items()
            if ranks[key] == best
            for piece in group
            if _is_tree(piece) or self._depth(piece) == best[1]
        ]

    def _rank(self, group: list[Piece]) -> tuple[int, int, int, int]:
        """The least ranks first: loose texts last, then by depth, then by what the format says about itself.

        Of loose texts in two formats, which say nothing, those count of which there are more.
        """
        strength = _strength(group)
        if _is_tree(group[0]):
            top = commonpath([self._without_archives(piece.part.name) for piece in group])
            if len(group) == 1:
                top = dirname(top)
            is_site = _is_site_of_pages(group)
            depth = len(folders_around(f"{top}/x" if top or not is_site else "x"))
            if strength == _NAMED:
                depth = max(0, depth - 1)  # the dialect names the folder of its texts
        else:
            depth = min(self._depth(piece) for piece in group)
        is_loose = strength == _LOOSE
        return int(is_loose), depth, -strength, -len(group) if is_loose else 0

    def _depth(self, piece: Piece) -> int:
        return len(folders_around(self._without_archives(piece.part.name)))

    def _without_archives(self, name: str) -> str:
        """The path as if what is in an archive lay in the archive's folder."""
        place, path = name, ""
        while place:
            place, _slash, last = place.rpartition("/")
            path = f"{last}/{path}"
            while place in self._archives:  # it stands for its folder
                place = place.rpartition("/")[0]
        return path[:-1]

    def _among_uploads(self, piece: Piece) -> bool:
        folders = dirname(self._without_archives(piece.part.name)).lower().split("/")
        return not _UPLOADS.isdisjoint(folders) and not _names_its_folder(piece)

    def _is_alone(self, piece: Piece) -> bool:
        """Whether no other files lie in the folder of a piece, or below it."""
        folder = dirname(self._without_archives(piece.part.name))
        return _is_tree(piece) or folder not in self._beside

    def _is_upload(self, piece: Piece) -> bool:
        return self._among_uploads(piece) or self._in_software(piece)

    def _in_software(self, piece: Piece) -> bool:
        return self._archive_of(piece.part.name) in self._software

    def _archive_of(self, name: str) -> str:
        """The innermost archive that a file is in; empty outside of any."""
        return next((f for f in reversed(folders_around(name)) if f in self._archives), "")


def _strength(group: list[Piece]) -> int:
    dialect = group[0].dialect
    if plugins.get(plugins.FORMATS, group[0].format).manifest:
        return _MANIFEST
    if dialect != plugins.get(plugins.FORMATS, group[0].format).plain():
        return _NAMED
    if not _is_tree(group[0]):
        return _FEED
    if _is_site_of_pages(group):
        return _TEXTS
    fronted = sum(_has_front_matter(piece) for piece in group)
    if 2 * fronted > len(group):
        return _TEXTS
    return _LOOSE


def _is_site_of_pages(group: list[Piece]) -> bool:
    """Whether HTML pages are a site: from a web archive, or several with a front page that lies as high as any."""
    if any(piece.part.address for piece in group):
        return True
    depths = [piece.part.name.count("/") for piece in group]
    return (
        group[0].format == "html"
        and len(group) >= _FEW
        and any(
            _last_name(piece) in url.FRONT_FILES and piece.part.name.count("/") == min(depths)
            for piece in group
        )
    )


def _has_front_matter(piece: Piece) -> bool:
    if piece.root:  # it is XML
        return False
    with piece.part.open() as stream:
        return stream.read(8).lstrip(b"\xef\xbb\xbf").startswith((b"---", b"+++", b"{"))


def _is_tree(piece: Piece) -> bool:
    """Whether the format has a file for each entry, or the dialect says where its files are."""
    format_ = plugins.get(plugins.FORMATS, piece.format)
    return format_.is_tree or bool(piece.dialect.records)


def _names_its_folder(piece: Piece) -> bool:
    """Whether the dialect says in which folder its texts are, so that its name does not matter."""
    return bool(piece.dialect.records) or "/" in piece.dialect.recognise.file


def _group(piece: Piece) -> tuple[str, str]:
    if piece.dialect.records:  # tables in several formats can be one export
        return "", piece.dialect.name
    return piece.format, piece.dialect.name


def _last_name(piece: Piece) -> str:
    return piece.part.name.rpartition("/")[2].lower()


def _stem(name: str) -> str:
    """A name without its numbers: parts of one export differ in nothing else."""
    return re.sub(r"[\d\s._()-]+", "", name)
