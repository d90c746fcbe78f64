"""The tables of the content store, and of the journal of a move: its plan, and what came of it."""

from __future__ import annotations

import sqlite3

from newburrow.model.record_types import all_types, sql_table

# Beside these, each type of record has a table of its own: see `record_tables`.
_TABLES = """
CREATE TABLE meta (name TEXT PRIMARY KEY, value TEXT);
CREATE TABLE tally (tbl TEXT, kind TEXT, status TEXT, found INTEGER, PRIMARY KEY (tbl, kind, status));
CREATE TABLE uses (word TEXT PRIMARY KEY, entries INTEGER);
CREATE TABLE extra (name TEXT PRIMARY KEY, found INTEGER, example TEXT);
CREATE TABLE problem (seq INTEGER PRIMARY KEY, data BLOB);
CREATE TABLE double (seq INTEGER PRIMARY KEY, tbl TEXT, key TEXT, kind TEXT, differs INTEGER, why TEXT,
                     data BLOB);
CREATE TABLE mention (key TEXT PRIMARY KEY, address TEXT, data BLOB);
CREATE TABLE media_address (address TEXT, key TEXT);
CREATE TABLE relation (seq INTEGER PRIMARY KEY, entry TEXT, data BLOB);
CREATE TABLE left_out_file (name TEXT, reason TEXT);
CREATE TABLE former_address (key TEXT PRIMARY KEY, address TEXT, target TEXT, data BLOB);
CREATE INDEX relation_entry ON relation (entry, seq);
"""


def create_tables(db: sqlite3.Connection) -> None:
    """Make the tables of an empty content store: `data` is a record as JSON, `seq` the order read."""
    for statement in _TABLES.split(";"):
        db.execute(statement)
    for record_type in all_types():
        columns = "".join(f"{column} TEXT, " for column in record_type.columns)
        db.execute(
            f"CREATE TABLE {sql_table(record_type.record)} "
            f"(seq INTEGER PRIMARY KEY, key TEXT UNIQUE, {columns}data BLOB)"
        )


def index_columns(db: sqlite3.Connection) -> None:
    """Index the columns that records are looked up by. Faster when all records are in."""
    for record_type in all_types():
        table = sql_table(record_type.record)
        for column in record_type.columns:
            name = f"{record_type.table}_{column}"
            db.execute(f"CREATE INDEX IF NOT EXISTS {name} ON {table} ({column}, seq)")
