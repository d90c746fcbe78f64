"""The answers of a move, as all that is made of them takes them."""

from __future__ import annotations

from collections.abc import Callable, Iterable

from newburrow.store.journal.rows import OldAddress

# gives all answers anew each time, in a stable order
Answers = Callable[[], Iterable[OldAddress]]
