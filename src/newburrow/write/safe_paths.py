"""Paths that an export gives, made fit for a folder: none leads out, none meets another, none is too long."""

from __future__ import annotations

import hashlib
import re
from collections.abc import Iterable

_LONGEST = 150  # bytes of one name; most file systems take 255
_CONTROL = re.compile(r"[\x00-\x1f\x7f]")


class SafePaths:
    """Gives each path a place of its own. What stands there already stays as it is, wherever that can be."""

    def __init__(self, taken: Iterable[str] = ()) -> None:
        """`taken` are paths of files that are there already."""
        self._files: set[str] = set()
        self._folders: set[str] = set()
        for path in taken:
            self._take(path)

    def place(self, path: str) -> str:
        """The path for a file: the same if it is safe and free, else one that is like it."""
        steps = [_safe_name(step) for step in path.split("/") if step not in ("", ".")]
        wanted = "/".join(steps) or "file"
        found, number = wanted, 1
        while not self._is_free(found):
            number += 1
            found = _numbered(wanted, number)
        self._take(found)
        return found

    def _is_free(self, path: str) -> bool:
        """Whether nothing has this path, in either letter case, and no file stands where it needs a folder."""
        path = path.casefold()
        return not (
            path in self._files
            or path in self._folders
            or any(folder in self._files for folder in _folders(path))
        )

    def _take(self, path: str) -> None:
        path = path.casefold()
        self._files.add(path)
        self._folders.update(_folders(path))


def _folders(path: str) -> list[str]:
    steps = path.split("/")[:-1]
    return ["/".join(steps[: n + 1]) for n in range(len(steps))]


def _safe_name(name: str) -> str:
    name = _CONTROL.sub("_", name.encode("utf-8", "replace").decode("utf-8"))
    if name == "..":
        return "_up"
    if len(name.encode("utf-8")) <= _LONGEST:
        return name
    stem, dot, extension = name.rpartition(".")
    if not stem or len(extension) > 10:
        stem, dot, extension = name, "", ""
    mark = hashlib.sha256(name.encode("utf-8")).hexdigest()[:10]
    short = stem.encode("utf-8")[: _LONGEST - 25].decode("utf-8", "ignore")
    return f"{short}-{mark}{dot}{extension}"


def _numbered(path: str, number: int) -> str:
    """A path whose every step has a number, so that neither a file nor a folder is in its way."""
    folder, slash, name = path.rpartition("/")
    stem, dot, extension = name.rpartition(".")
    if not stem:
        stem, dot, extension = name, "", ""
    if folder:
        folder = "/".join(f"{step} ({number})" for step in folder.split("/"))
    return f"{folder}{slash}{stem} ({number}){dot}{extension}"
