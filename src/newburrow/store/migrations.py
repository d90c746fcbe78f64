"""The schema of the content store as named, ordered steps.

A store says which steps were taken. One of an earlier version takes those that it lacks, in one
transaction; one whose steps are not the beginning of ours cannot be used, and is filled again.
To change the schema, add a step at the end; never change one.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Callable
from enum import StrEnum

from newburrow.store.schema import create_tables, index_columns
from newburrow.store.views import create_views

Step = tuple[str, Callable[[sqlite3.Connection], None]]

# Tables come before the records, indexes and views after them.
TABLES: Step = ("tables of records, questions by entry", create_tables)
AFTER_FILLING: tuple[Step, ...] = (
    ("indexes of columns", index_columns),
    ("views of records", create_views),
)
_NOTE = "INSERT INTO schema_step (name) VALUES (?)"
STEPS: tuple[Step, ...] = (TABLES, *AFTER_FILLING)


class State(StrEnum):
    """What `bring_up_to_date` found."""

    CURRENT = "current"
    MIGRATED = "migrated"
    UNUSABLE = "unusable"


def finish(db: sqlite3.Connection) -> None:
    """Apply the steps that follow the records of a new store, and record all steps in it."""
    db.execute("CREATE TABLE schema_step (number INTEGER PRIMARY KEY, name TEXT)")
    db.execute(_NOTE, (TABLES[0],))
    for step in AFTER_FILLING:
        _take(db, step)


def bring_up_to_date(db: sqlite3.Connection) -> State:
    """Take the named steps that a store of an earlier version lacks, all in one transaction.

    `db` must not be in a transaction. Gives whether the store was current, was migrated, or is unusable and
    must be filled anew, as one of another version is.
    """
    applied = _steps_taken(db)
    names = [name for name, _take_step in STEPS]
    if applied == names:
        return State.CURRENT
    if not applied or applied != names[: len(applied)]:
        return State.UNUSABLE
    db.execute("BEGIN")
    try:
        for step in STEPS[len(applied) :]:
            _take(db, step)
    except BaseException:
        db.execute("ROLLBACK")
        raise
    db.execute("COMMIT")
    return State.MIGRATED


def _steps_taken(db: sqlite3.Connection) -> list[str]:
    """The names of the steps taken; none in a store of before there were any, or in another file."""
    try:
        rows = db.execute("SELECT name FROM schema_step ORDER BY number").fetchall()
    except sqlite3.DatabaseError:
        return []
    return [name for (name,) in rows]


def _take(db: sqlite3.Connection, step: Step) -> None:
    name, take = step
    take(db)
    db.execute(_NOTE, (name,))
