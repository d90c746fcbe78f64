"""The tables of the content store, and of the journal of a move: its plan, and what came of it."""

from __future__ import annotations

import sqlite3

from newburrow.model.record import Record
from newburrow.model.record_types import all_types, table_of

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
CREATE INDEX relation_entry ON relation (entry, seq);
"""


def sql_table(record: type[Record]) -> str:
    """The name of the table that holds the records of a class."""
    return f"record_{table_of(record)}"


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


PLAN = """
CREATE TABLE place (seq INTEGER PRIMARY KEY, key TEXT, kind TEXT, old TEXT, others TEXT, new TEXT,
                    new_key TEXT, wished TEXT, public INTEGER, file TEXT, feeds TEXT, held INTEGER, at TEXT);
CREATE TABLE address (old TEXT, new TEXT, status INTEGER, why TEXT, key TEXT PRIMARY KEY, new_key TEXT) WITHOUT ROWID;
CREATE TABLE visit (key TEXT PRIMARY KEY, visits INTEGER) WITHOUT ROWID;
CREATE TABLE file (key TEXT PRIMARY KEY, name TEXT, new TEXT, digest TEXT) WITHOUT ROWID;
CREATE INDEX file_name ON file (name);
CREATE INDEX file_digest ON file (digest);
CREATE INDEX file_new ON file (new);
CREATE TABLE beside (base TEXT, path TEXT, new TEXT);
CREATE INDEX beside_base ON beside (base);
CREATE TABLE held (kind TEXT, key TEXT, title TEXT, at TEXT, address TEXT, id TEXT, PRIMARY KEY (kind, key))
  WITHOUT ROWID;
CREATE TABLE id (object TEXT, key TEXT, new TEXT, PRIMARY KEY (object, key)) WITHOUT ROWID;
CREATE UNIQUE INDEX id_new ON id (object, new);
CREATE TABLE above (key TEXT PRIMARY KEY) WITHOUT ROWID;
CREATE TABLE edit (key TEXT PRIMARY KEY, line INTEGER, data TEXT) WITHOUT ROWID;
"""
OUTCOME = """
CREATE TABLE outcome.filed (term TEXT, title TEXT, new TEXT);
CREATE INDEX outcome.filed_term ON filed (term);
CREATE TABLE outcome.found (old TEXT, new TEXT, status INTEGER, why TEXT, key TEXT PRIMARY KEY, new_key TEXT)
  WITHOUT ROWID;
CREATE TABLE outcome.aside (data TEXT);
CREATE TABLE outcome.kept (new TEXT, object TEXT, key TEXT);
CREATE TABLE outcome.shown (new TEXT PRIMARY KEY) WITHOUT ROWID;
CREATE TABLE outcome.fate (object TEXT, key TEXT, kind TEXT, fate TEXT, reason TEXT, title TEXT, old TEXT, new TEXT,
                           nth INTEGER, rank INTEGER, PRIMARY KEY (object, key, nth));
CREATE TABLE outcome.follow_up (seq INTEGER PRIMARY KEY, severity TEXT, rank INTEGER, code TEXT, message TEXT,
                                advice TEXT, file TEXT, line INTEGER, object TEXT, key TEXT);
"""
