"""A finished move, opened to be read: what was decided, what was read, what was handed over."""

from __future__ import annotations

from contextlib import ExitStack
from pathlib import Path
from types import TracebackType

from newburrow.core.problem import refusal
from newburrow.decide.move_folder import JOURNAL, STORE, MoveFolder
from newburrow.dialects import loader as dialects
from newburrow.dialects.schema import Dialect
from newburrow.hosts import loader as hosts
from newburrow.model import Site
from newburrow.store.content_store import Store
from newburrow.store.journal.kept_journal import KeptJournal


class FinishedMove:
    """The parts of a finished move. Use as a context manager. Raises BurrowError where the folder has none."""

    def __init__(self, folder: MoveFolder) -> None:
        self.folder, self.decisions = folder, folder.decisions()
        self.host = hosts.load(folder.name_or_path(self.decisions.new.host))
        if not folder.has(STORE):
            raise refusal(
                "not-moved",
                f"{str(folder.path)!r} has no content store.",
                f"Run `newburrow move {folder.path}` again.",
            )
        self._open = ExitStack()
        with ExitStack() as opened:
            self.journal = opened.enter_context(KeptJournal(folder.path / JOURNAL))
            self.store = opened.enter_context(Store(folder.path / STORE))
            self.old_sites = [site.address for site in self.store.all(Site)]
            self.dialects = self._dialects()
            self._open = opened.pop_all()

    def __enter__(self) -> FinishedMove:
        return self

    def __exit__(
        self,
        _type: type[BaseException] | None,
        _error: BaseException | None,
        _trace: TracebackType | None,
    ) -> None:
        self._open.close()

    @property
    def path(self) -> Path:
        """The move folder."""
        return self.folder.path

    @property
    def new_site(self) -> str:
        """The address of the new site."""
        return self.journal.handed.site().site.address

    def _dialects(self) -> list[Dialect]:
        """The dialects that the exports were read in: those that a person named, and those that were recognised."""
        old = self.decisions.old
        if isinstance(old.dialect, str):
            asked = [old.dialect]
        else:
            asked = list(old.dialect)
        names = [self.folder.name_or_path(name) for name in asked if name]
        names += (site.dialect for site in self.store.all(Site) if site.dialect)
        known = set(dialects.DIALECTS.names())
        return [
            dialects.load(name)
            for name in dict.fromkeys(names)
            if name in known or name.endswith(".toml")
        ]
