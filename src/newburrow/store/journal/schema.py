"""The tables of a journal: those of the plan, those of the outcome, and what a finished one is looked up by."""

from __future__ import annotations

LAYOUT = 3  # of a journal that is kept; increase it with every change of these tables

PLAN = """
CREATE TABLE place (seq INTEGER PRIMARY KEY, key TEXT, kind TEXT, old TEXT, others TEXT, new TEXT,
                    new_key TEXT, wished TEXT, public INTEGER, file TEXT, feeds TEXT,
                    existing INTEGER, aside INTEGER, rank TEXT);
CREATE TABLE ancestor (key TEXT PRIMARY KEY) WITHOUT ROWID;
CREATE TABLE url (old TEXT, new TEXT, status INTEGER, why TEXT, key TEXT PRIMARY KEY, new_key TEXT)
  WITHOUT ROWID;
CREATE INDEX url_in_any_case ON url (lower(key));
CREATE TABLE visit (key TEXT PRIMARY KEY, visits INTEGER) WITHOUT ROWID;
CREATE TABLE file (key TEXT PRIMARY KEY, name TEXT, new TEXT, digest TEXT) WITHOUT ROWID;
CREATE INDEX file_name ON file (name);
CREATE INDEX file_digest ON file (digest);
CREATE INDEX file_new ON file (new);
CREATE TABLE unaddressed_file (last_name TEXT, path TEXT, new TEXT);
CREATE INDEX unaddressed_last_name ON unaddressed_file (last_name COLLATE NOCASE);
CREATE TABLE existing (kind TEXT, key TEXT, title TEXT, published TEXT, address TEXT, id TEXT,
                       login TEXT, email TEXT, PRIMARY KEY (kind, key)) WITHOUT ROWID;
CREATE TABLE id (object TEXT, key TEXT, new TEXT, PRIMARY KEY (object, key)) WITHOUT ROWID;
CREATE UNIQUE INDEX id_new ON id (object, new);
CREATE TABLE edit (key TEXT PRIMARY KEY, line INTEGER, data TEXT) WITHOUT ROWID;
"""
OUTCOME = """
CREATE TABLE outcome.term_list (term TEXT, title TEXT, new TEXT);
CREATE INDEX outcome.term_list_term ON term_list (term);
CREATE TABLE outcome.late_url (old TEXT, new TEXT, status INTEGER, why TEXT, key TEXT PRIMARY KEY,
                               new_key TEXT) WITHOUT ROWID;
CREATE TABLE outcome.data_line (data TEXT);
CREATE TABLE outcome.kept_id (new TEXT, object TEXT, key TEXT);
CREATE TABLE outcome.shown (new TEXT PRIMARY KEY) WITHOUT ROWID;
CREATE TABLE outcome.quiz (data BLOB);
CREATE TABLE outcome.handed (seq INTEGER PRIMARY KEY, key TEXT, new_key TEXT, data BLOB);
CREATE TABLE outcome.handed_site (data BLOB);
CREATE TABLE outcome.handed_file (seq INTEGER PRIMARY KEY, key TEXT, path TEXT, data BLOB);
CREATE TABLE outcome.handed_version (seq INTEGER PRIMARY KEY, new_key TEXT, data BLOB);
CREATE TABLE outcome.led (source TEXT, target TEXT, leads TEXT);
CREATE TABLE outcome.root (key TEXT PRIMARY KEY) WITHOUT ROWID;
CREATE TABLE outcome.node (target TEXT PRIMARY KEY, key TEXT) WITHOUT ROWID;
CREATE TABLE outcome.reached_before (key TEXT PRIMARY KEY) WITHOUT ROWID;
CREATE TABLE outcome.reached_after (key TEXT PRIMARY KEY) WITHOUT ROWID;
CREATE TABLE outcome.fate (object TEXT, key TEXT, kind TEXT, fate TEXT, reason TEXT, title TEXT,
                           old TEXT, new TEXT, nth INTEGER, rank INTEGER,
                           PRIMARY KEY (object, key, nth));
CREATE TABLE outcome.mark (key TEXT PRIMARY KEY, places INTEGER, done TEXT, accepted TEXT, note TEXT)
  WITHOUT ROWID;
CREATE TABLE outcome.follow_up (seq INTEGER PRIMARY KEY, severity TEXT, rank INTEGER, code TEXT,
                                message TEXT, advice TEXT, file TEXT, line INTEGER, object TEXT,
                                key TEXT, detail TEXT);
"""
LOOK_UP = """
CREATE INDEX outcome.handed_key ON handed (key);
CREATE INDEX outcome.handed_at ON handed (new_key);
CREATE INDEX outcome.handed_file_key ON handed_file (key);
CREATE INDEX outcome.handed_version_at ON handed_version (new_key);
CREATE INDEX outcome.follow_up_about ON follow_up (object, key);
"""
