"""The answers of a move, as everything that is made of them takes them."""

from __future__ import annotations

from collections.abc import Callable, Iterable

from newburrow.store.journal.rows import OldAddress

# Yields all answers on each call, in the same order.
AllAnswers = Callable[[], Iterable[OldAddress]]
