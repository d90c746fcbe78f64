"""The context of a move, as its folder decides it."""

from __future__ import annotations

from collections.abc import Sequence

from msgspec.structs import replace

from newburrow.convert.context import Context
from newburrow.decide.decisions import Decisions
from newburrow.decide.move_folder import MoveFolder
from newburrow.dialects.schema import Dialect
from newburrow.hosts.profile import Profile
from newburrow.store.content_store import Store
from newburrow.store.journal.journal import Journal


def context_of(
    folder: MoveFolder,
    decisions: Decisions,
    host: Profile,
    store: Store,
    journal: Journal,
    dialects: Sequence[Dialect],
) -> Context:
    """One move: what was read in these dialects, what is decided, and what the host takes.

    Raises BurrowError where a decision table of the folder is wrong.
    """
    old = store.site()
    return Context(
        store=store,
        journal=journal,
        host=host,
        dialects=tuple(dialects),
        decisions=decisions,
        author_choices=folder.author_choices(),
        term_choices=folder.term_choices(),
        old=old,
        new=replace(old, address=decisions.new.address),
    )
