"""The tables of the content store."""

from __future__ import annotations

SCHEMA = """
CREATE TABLE meta (name TEXT PRIMARY KEY, value TEXT);
CREATE TABLE tally (tbl TEXT, kind TEXT, status TEXT, found INTEGER, PRIMARY KEY (tbl, kind, status));
CREATE TABLE extra (name TEXT PRIMARY KEY, found INTEGER, example TEXT);
CREATE TABLE problem (seq INTEGER PRIMARY KEY, data BLOB);
CREATE TABLE twice (seq INTEGER PRIMARY KEY, tbl TEXT, key TEXT, kind TEXT, differs INTEGER, why TEXT, data BLOB);
CREATE TABLE site (seq INTEGER PRIMARY KEY, key TEXT UNIQUE, data BLOB);
CREATE TABLE author (seq INTEGER PRIMARY KEY, key TEXT UNIQUE, data BLOB);
CREATE TABLE term (seq INTEGER PRIMARY KEY, key TEXT UNIQUE, data BLOB);
CREATE TABLE media (seq INTEGER PRIMARY KEY, key TEXT UNIQUE, data BLOB);
CREATE TABLE entry (seq INTEGER PRIMARY KEY, key TEXT UNIQUE, data BLOB);
CREATE TABLE comment (seq INTEGER PRIMARY KEY, key TEXT UNIQUE, entry TEXT, data BLOB);
CREATE TABLE menuitem (seq INTEGER PRIMARY KEY, key TEXT UNIQUE, data BLOB);
CREATE TABLE mention (key TEXT PRIMARY KEY, address TEXT, data BLOB);
CREATE TABLE at (address TEXT, key TEXT);
CREATE TABLE relation (seq INTEGER PRIMARY KEY, entry TEXT, data BLOB);
CREATE INDEX relation_entry ON relation (entry, seq);
"""
