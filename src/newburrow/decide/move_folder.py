"""The move folder: one folder for each move, with the decisions and what was produced.

Nothing that New Burrow did not write is ever overwritten or deleted: the names of all files written are
kept in `.written`, and a file is named there before it is made.
"""

from __future__ import annotations

import logging
import os
from collections.abc import Iterable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import TYPE_CHECKING, BinaryIO, TextIO

from newburrow.core import atomic_file, csvfile, log_facts, tomlfile
from newburrow.core.problem import refusal
from newburrow.core.suggestions import suggest
from newburrow.decide import entry_edits, folder_lock, out_check
from newburrow.decide.decisions import AuthorChoice, Decisions, OldChoice, TermChoice
from newburrow.intake.budget import ReadingLimits, limits_of
from newburrow.model import Where

if TYPE_CHECKING:
    from newburrow.formats.exports.export import ExportRequest

log = logging.getLogger(__name__)

MOVE, AUTHORS, TERMS, STORE, WRITTEN = (
    "move.toml",
    "authors.csv",
    "terms.csv",
    "content.sqlite",
    ".written",
)
ENTRIES = "entries.csv"
JOURNAL = ".journal.sqlite"  # what a move decided and did, for `verify` and `show`
AUTHOR_COLUMNS = ("author", "name", "email", "entries", "action", "new_name", "why")
TERM_COLUMNS = (
    "term",
    "vocabulary",
    "name",
    "parent",
    "entries",
    "action",
    "new_name",
    "new_vocabulary",
    "new_parent",
)

# Action -> whether it needs a new name.
_FOR_AUTHORS = {"keep": False, "create": False, "assign": True}
_FOR_TERMS = {"keep": False, "rename": True, "merge": True, "page": False, "drop": False}


class MoveFolder:
    """A move folder on disk. Raises BurrowError where the path holds something else."""

    def __init__(self, path: Path) -> None:
        self.path = path
        _in_unicode(str(path.resolve()))
        self._now: set[str] = set()
        self._is_locked = False
        self._notes: TextIO | None = None  # the list of what we wrote, while it grows
        self._folders: set[Path] = set()  # that are there
        self._inside: set[str] = set()  # folders that are known to be within this one
        self._load_names()
        self._made: list[Path] = []  # folders that this run made, the innermost first

    def _load_names(self) -> None:
        """The names of what earlier runs wrote. One that leads elsewhere is not ours, whoever wrote it there."""
        self._written: set[str] = set()
        if (self.path / WRITTEN).is_file():
            names = (self.path / WRITTEN).read_text("utf-8", "surrogateescape").splitlines()
            self._written = {name for name in names if self._is_inside(name)}
        self._before = frozenset(self._written)

    @classmethod
    def existing(cls, path: Path) -> MoveFolder:
        """The move folder at a path. Raises BurrowError if there is none."""
        if not path.is_dir():
            raise refusal(
                "no-such-folder",
                f"There is no move folder {str(path)!r}.",
                "Make one with `newburrow draft PATH... --to HOST --out FOLDER`.",
            )
        if not (path / MOVE).is_file():
            raise refusal(
                "no-move-folder",
                f"{str(path)!r} is not a move folder: it has no {MOVE}.",
                "Make one with `newburrow draft PATH... --to HOST --out FOLDER`.",
            )
        return cls(path)

    @classmethod
    def new(cls, path: Path, read: Iterable[Path] = ()) -> MoveFolder:
        """The move folder at a path, created if it is not there.

        `read` is what the move reads. Raises BurrowError if the path holds anything else, or lies in that.
        """
        out_check.check(read, path)
        if path.exists() and not path.is_dir():
            raise refusal(
                "not-a-folder", f"{str(path)!r} is a file.", "Give another name for --out."
            )
        folder = cls(path)
        if (
            path.is_dir()
            and any(path.iterdir())
            and not folder._written
            and not (path / MOVE).is_file()
        ):
            raise refusal(
                "folder-in-use",
                f"The folder {str(path)!r} holds something else; nothing was written.",
                "Give an empty folder, or a new name, for --out.",
            )
        folder._made = [parent for parent in (path, *path.parents) if not parent.exists()]
        try:
            path.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise refusal(
                "cannot-write",
                f"The folder {str(path)!r} cannot be made: {error.strerror}.",
                "Give another name for --out.",
            ) from None
        return folder

    @contextmanager
    def locked(self) -> Iterator[None]:
        """Let no other process write here. Raises BurrowError, with who does, if one is at it."""
        if self._is_locked:
            yield
            return
        with folder_lock.locked(self.path) as left:
            if left:
                log.warning(
                    "a run of process %s since %s was broken off", left.process, left.since
                )
            self._is_locked = True
            self._load_names()
            try:
                yield
            finally:
                self._close_notes()
                self._is_locked = False

    def check_apart(self, read: Iterable[Path]) -> None:
        """Raises BurrowError if the folder lies in what the move reads."""
        out_check.check(read, self.path)

    def _is_inside(self, name: str) -> bool:
        """Whether a name relative to the folder leads to a place within it, also by links."""
        steps = name.split("/")
        if not name or name.startswith("/") or ".." in steps or "\0" in name:
            return False
        try:
            folder = "/".join(steps[:-1])
            if (
                folder not in self._inside
            ):  # links can lead elsewhere; a folder is followed once
                inside = (self.path / folder).resolve().is_relative_to(self.path.resolve())
                if not inside:
                    return False
                self._inside.add(folder)
            path = self.path / name
            return not path.is_symlink() or path.resolve().is_relative_to(self.path.resolve())
        except (OSError, RuntimeError, ValueError):
            return False

    def _remove(self, name: str) -> None:
        if self._is_inside(name):
            (self.path / name).unlink(missing_ok=True)

    def has(self, name: str) -> bool:
        """Whether a file is in the folder."""
        return (self.path / name).is_file()

    def open(self, name: str) -> BinaryIO:
        """A new file to write, by its name relative to the folder.

        Raises BurrowError for a file that we did not write.
        """
        return self.claim(name).open("wb")

    @contextmanager
    def replacing(self, name: str) -> Iterator[BinaryIO]:
        """A stream for a file that a person may have changed: the old one stays until the new one is whole.

        Raises BurrowError for a file that we did not write.
        """
        with atomic_file.replacing(self.claim(name)) as stream:
            yield stream

    def claim(self, name: str) -> Path:
        """The path of a file that is about to be written, noted as ours."""
        path = self.path / name
        if not self._is_inside(name):
            raise refusal(
                "outside-folder", f"The file name {name!r} leads out of the move folder.", ""
            )
        if path.exists() and name not in self._written:
            raise refusal(
                "file-in-use",
                f"{str(path)!r} was not written by New Burrow; it is left alone.",
                "Move it elsewhere and run the command again.",
            )
        if path.parent not in self._folders:
            path.parent.mkdir(parents=True, exist_ok=True)
            self._folders.add(path.parent)
        if name not in self._written:
            self._note(name)
            self._written.add(name)
        if name not in self._now:
            log_facts.info(log, "writes", file=name)
            self._now.add(name)
        return path

    def _note(self, name: str) -> None:
        """Note a file as ours before it is there, so that a run that is killed leaves nothing unknown."""
        if self._notes is None:
            self._notes = (self.path / WRITTEN).open(
                "a", encoding="utf-8", errors="surrogateescape", buffering=1
            )
        self._notes.write(name + "\n")

    def _close_notes(self) -> None:
        if self._notes is not None:
            self._notes.close()
            self._notes = None

    def has_written(self, name: str) -> bool:
        """Whether this run wrote a file of this name."""
        return name in self._now

    def written_below(self, folder: str) -> list[str]:
        """The names of the files below a folder that this run wrote."""
        return [name for name in self._now if name.startswith(folder)]

    def drop(self, names: Iterable[str]) -> None:
        """Remove files that this run wrote, and the folders that are then empty."""
        folders = set[Path]()
        for name in names:
            self._now.discard(name)
            path = self.path / name
            path.unlink(missing_ok=True)
            folders.update(parent for parent in path.parents if self.path in parent.parents)
        for folder in sorted(folders, key=lambda folder: -len(folder.parts)):
            with suppress(OSError):
                folder.rmdir()
                self._folders.discard(folder)

    def abandon(self) -> None:
        """Remove what this run created, after a run that cannot go on, so that nothing is left behind."""
        self._close_notes()
        for name in sorted(self._now - self._before):
            self._remove(name)
        if not self._before:
            (self.path / WRITTEN).unlink(missing_ok=True)

    def remove_if_empty(self) -> None:
        """Remove the folders that this run made, if nothing is in them; to be called when nothing is locked."""
        with suppress(OSError):
            for folder in self._made:
                folder.rmdir()

    def tidy(self, within: tuple[str, ...]) -> None:
        """Remove the files below these folders that an earlier run wrote and this run did not."""
        for name in sorted(self._written - self._now):
            if name.startswith(within):
                self._remove(name)
                self._written.discard(name)
        self._close_notes()
        names = "".join(f"{name}\n" for name in sorted(self._written))
        with atomic_file.replacing(self.path / WRITTEN) as stream:
            stream.write(names.encode("utf-8", "surrogateescape"))

    # -- decisions -----------------------------------------------------------------------------

    def _text(self, name: str) -> str:
        path = self.path / name
        try:
            return path.read_text("utf-8-sig")
        except (OSError, UnicodeDecodeError) as error:
            raise refusal(
                "unreadable",
                f"The file cannot be read: {error}.",
                "Save it as UTF-8.",
                Where(str(path)),
            ) from None

    def decisions(self) -> Decisions:
        """The decisions in `move.toml`. Raises BurrowError, with the line, if they are not valid."""
        return tomlfile.load(self._text(MOVE), str(self.path / MOVE), Decisions)

    def relative(self, path: Path) -> str:
        """A path relative to the move folder, as it is kept in `move.toml`, so that both can be moved together.

        Raises BurrowError for a name that is not UTF-8.
        """
        return _in_unicode(os.path.relpath(path.resolve(), self.path.resolve()))

    def exports(self, old: OldChoice) -> ExportRequest:
        """The exports that the decisions name, with their paths and dialects relative to here."""
        if isinstance(old.dialect, str):
            dialects = [old.dialect]
        else:
            dialects = old.dialect
        from newburrow.formats.exports.export import (
            ExportRequest,  # heavy: not all commands read
        )

        return ExportRequest(
            [self.path / path for path in old.paths],
            [self.name_or_path(dialect) for dialect in dialects],
            old.address,
            old.content,
            self._limits(old),
        )

    def _limits(self, old: OldChoice) -> ReadingLimits:
        try:
            return limits_of(old.limits)
        except ValueError as error:
            raise refusal(
                "wrong-value",
                f"old.limits: {error}.",
                "Correct it.",
                Where(str(self.path / MOVE)),
            ) from None

    def name_or_path(self, word: str) -> str:
        """A host or dialect in the form that `move.toml` has it: a name, or a path relative to the folder."""
        if word.endswith(".toml"):
            return str(self.path / word)
        return word

    def line_in_move(self, keys: list[str]) -> Where:
        """The file and line of a key in `move.toml`."""
        return Where(str(self.path / MOVE), tomlfile.line_of(self._text(MOVE), keys))

    def author_rows(self) -> dict[str, tuple[str, ...]]:
        """The rows of `authors.csv` by author, unchanged; none if there is no table."""
        return self._rows(AUTHORS, AUTHOR_COLUMNS)

    def term_rows(self) -> dict[str, tuple[str, ...]]:
        """The rows of `terms.csv` by term, unchanged; none if there is no table."""
        return self._rows(TERMS, TERM_COLUMNS)

    def _rows(self, name: str, columns: tuple[str, ...]) -> dict[str, tuple[str, ...]]:
        if not self.has(name):
            return {}
        rows = csvfile.read(self.path / name, columns)
        return {
            cells[columns[0]]: tuple(cells[column] for column in columns)
            for _line, cells in rows
        }

    def entry_rows(self) -> Iterator[tuple[int, dict[str, str]]]:
        """The rows of `entries.csv` with their lines, streamed; none if there is no table."""
        if not self.has(ENTRIES):
            return
        yield from csvfile.read(self.path / ENTRIES, entry_edits.COLUMNS)

    def author_choices(self) -> dict[str, AuthorChoice]:
        """The choice in `authors.csv` for each author, by key."""
        return {
            cells[AUTHOR_COLUMNS[0]]: AuthorChoice(action, name)
            for cells, action, name in self._choices(AUTHORS, AUTHOR_COLUMNS, _FOR_AUTHORS)
        }

    def term_choices(self) -> dict[str, TermChoice]:
        """The choice in `terms.csv` for each term, by key."""
        return {
            cells[TERM_COLUMNS[0]]: TermChoice(
                action, name, cells["new_vocabulary"].strip(), cells["new_parent"].strip()
            )
            for cells, action, name in self._choices(TERMS, TERM_COLUMNS, _FOR_TERMS)
        }

    def _choices(
        self, name: str, columns: tuple[str, ...], actions: dict[str, bool]
    ) -> Iterator[tuple[dict[str, str], str, str]]:
        """Cells, action and new name of each row of a decision table."""
        for line, cells in self._table(name, columns):
            action, new_name = cells["action"].strip() or "keep", cells["new_name"].strip()
            where = Where(str(self.path / name), line)
            if action not in actions:
                raise refusal(
                    "wrong-value",
                    f"There is no action {action!r}.",
                    suggest(action, actions, "The actions are"),
                    where,
                )
            if actions[action] and not new_name:
                raise refusal(
                    "no-new-name",
                    f"For the action {action}, new_name must say to what.",
                    "Fill in new_name, or use the action keep.",
                    where,
                )
            yield cells, action, new_name

    def _table(self, name: str, columns: tuple[str, ...]) -> list[tuple[int, dict[str, str]]]:
        if self.has(name):
            return list(csvfile.read(self.path / name, columns))
        return []


def _in_unicode(name: str) -> str:
    """The name. Raises BurrowError for one that is not UTF-8: no table and no database can hold it."""
    try:
        name.encode("utf-8")
    except UnicodeEncodeError:
        raise refusal(
            "unreadable-name",
            f"The name {os.fsencode(name)!r} holds bytes that are not UTF-8.",
            "Rename that file or folder.",
        ) from None
    return name
