"""What everybody may do with a journal, in whichever process: look up the plan, note the outcome."""

from __future__ import annotations

from typing import Protocol

from newburrow.core.problem import Problem
from newburrow.store.journal.answers import Answers
from newburrow.store.journal.edits import EditReader
from newburrow.store.journal.existing import ExistingReader
from newburrow.store.journal.files import FileReader
from newburrow.store.journal.ids import IdReader
from newburrow.store.journal.plan import PlanReader
from newburrow.store.journal.rows import LedgerRow


class LedgerSink(Protocol):
    """Takes rows of the ledger."""

    def add(self, *rows: LedgerRow) -> None:
        """Add the fates of objects."""
        ...


class FollowUpSink(Protocol):
    """Takes follow-ups."""

    def add(self, *problems: Problem) -> None:
        """Keep things that a person must still do or know."""
        ...


class TextSink(Protocol):
    """Takes texts: new addresses that are shown, lines of the data file."""

    def add(self, text: str, /) -> None:
        """Keep one text."""
        ...


class LostLinkSink(Protocol):
    """Takes links that lead to nothing on the new site."""

    def add(self, old: str, leads: str) -> None:
        """Note a link to an old address: `gone`, or `unknown`."""
        ...


class TermListSink(Protocol):
    """Takes entries for the page of a term."""

    def add(self, term: str, title: str, new: str) -> None:
        """List an entry on the page of a term."""
        ...


class JournalView(Protocol):
    """The plan to look up, and the outcome to note."""

    @property
    def plan(self) -> PlanReader:
        """Where entries go."""
        ...

    @property
    def files(self) -> FileReader:
        """Where files go."""
        ...

    @property
    def urls(self) -> Answers:
        """The answers to old addresses."""
        ...

    @property
    def existing(self) -> ExistingReader:
        """What the new host holds already."""
        ...

    @property
    def ids(self) -> IdReader:
        """The ids of objects on the new host."""
        ...

    @property
    def edits(self) -> EditReader:
        """What a person's table says of entries."""
        ...

    @property
    def ledger(self) -> LedgerSink:
        """The fates of objects."""
        ...

    @property
    def follow_ups(self) -> FollowUpSink:
        """What a person must still do or know."""
        ...

    @property
    def shown(self) -> TextSink:
        """New addresses that something shows or links to."""
        ...

    @property
    def lost(self) -> LostLinkSink:
        """Links that lead to nothing on the new site."""
        ...

    @property
    def data_lines(self) -> TextSink:
        """Lines of the data file."""
        ...

    @property
    def term_lists(self) -> TermListSink:
        """Entries on the pages of terms."""
        ...
