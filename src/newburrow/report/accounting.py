"""The accounting identity: found = moved + merged + left-out + failed, for every kind of object."""

from __future__ import annotations

import msgspec
from msgspec import Struct

from newburrow.core.problem import NOWHERE, Problem
from newburrow.formats.exports.file_counts import FileCounts
from newburrow.model.record_types import FILE_KIND, ledger_order
from newburrow.store.content_store import Store
from newburrow.store.journal.journal import Journal
from newburrow.store.journal.rows import Fate


class Account(Struct, frozen=True, rename="kebab"):
    """How many objects of one kind were found, and what became of them."""

    found: int
    moved: int = 0
    merged: int = 0
    left_out: int = 0
    failed: int = 0

    @property
    def balances(self) -> bool:
        """Whether every object has a fate."""
        return self.found == self.moved + self.merged + self.left_out + self.failed


def accounts(store: Store, journal: Journal) -> dict[str, Account]:
    """The account of each kind of object: found, moved, merged, left out, failed.

    `found` is what the readers counted, before anything was merged; the fates come from the ledger. The
    two are counted independently, so that a lost object shows.
    """
    found, fates = store.tally(), journal.ledger.count()
    order = ledger_order()
    kinds = sorted(
        {*found, *((object_, kind) for object_, kind, _fate in fates)},
        key=lambda pair: (order.index(pair[0]), pair[1]),
    )
    return {
        kind: Account(
            found.get((table, kind), 0),
            **{fate.replace("-", "_"): fates.get((table, kind, fate), 0) for fate in Fate},
        )
        for table, kind in kinds
    }


def file_counts(store: Store) -> FileCounts:
    """What became of the files that the sources list."""
    return msgspec.json.decode(store.meta("files") or "{}", type=FileCounts)


def check(counted: dict[str, Account], files: FileCounts) -> list[Problem]:
    """The problems of an account that does not balance, which is a fault of this program."""
    problems = []
    if not files.balances:
        taken = files.content + files.media + files.archives + files.left_out
        problems.append(
            Problem.at(NOWHERE, "account", found=files.listed, kind=FILE_KIND, settled=taken)
        )
    for kind, account in counted.items():
        if not account.balances:
            settled = account.moved + account.merged + account.left_out + account.failed
            problem = Problem.at(
                NOWHERE, "account", found=account.found, kind=kind, settled=settled
            )
            problems.append(problem)
    return problems
