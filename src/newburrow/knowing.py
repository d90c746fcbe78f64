"""Reading what is known of old addresses from files beside the export."""

from __future__ import annotations

from collections.abc import Iterator

from newburrow import address
from newburrow.convert.context import Context
from newburrow.convert.inventory import Inventory, Row
from newburrow.folder import MoveFolder
from newburrow.problem import Problem, stop
from newburrow.redirects import inventory


def learn(folder: MoveFolder, context: Context) -> Inventory:
    """Answer the old addresses that the files of `old.known` tell; those that nothing is known of are left in it."""
    found = Inventory(context.old.address)
    sites = frozenset(filter(None, (address.site_key(site.address) for site in context.sites)))
    for name in context.decisions.old.known:
        path = folder.path / name
        if not path.is_file():
            message = f"There is no file {str(path)!r}."
            raise stop("no-such-file", message, "Correct old.known.", folder.line_in_move(["old", "known"]))
        problems: list[Problem] = []
        for problem in found.add(_rows(inventory.read(path), problems), sites):
            context.journal.follow_up(problem)
        context.journal.follow_up(*problems)
    if context.decisions.old.known:
        found.answer(context)
    return found


def _rows(found: Iterator[inventory.Known | Problem], problems: list[Problem]) -> Iterator[Row]:
    for one in found:
        if isinstance(one, Problem):
            problems.append(one)
        else:
            yield one.address, one.target, one.visits
