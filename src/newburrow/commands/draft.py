"""Drafting: a move folder is made, with every decision filled in."""

from __future__ import annotations

from pathlib import Path

from newburrow.core import workers
from newburrow.core.progress import Listener, nobody
from newburrow.decide import draft
from newburrow.decide.draft import DraftRequest
from newburrow.decide.move_folder import MoveFolder
from newburrow.decide.questions import Ask


def draft_move(
    plan: DraftRequest,
    out: Path,
    listener: Listener = nobody,
    ask: Ask | None = None,
    jobs: int | None = None,
) -> MoveFolder:
    """Make the move folder at `out`, or bring one up to date.

    What a person decided stays, what is new in the export is added. `ask` is asked every open
    question, and gives the words of the answer; None takes what is proposed. Raises BurrowError,
    with nothing written, where the export cannot be read or the folder is in use.
    """
    return draft.draft(plan, out, listener, ask, jobs or workers.available())
