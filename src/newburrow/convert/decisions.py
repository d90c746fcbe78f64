"""The administrator's decisions, as they stand in the move folder: `move.toml` and its tables."""

from __future__ import annotations

from typing import Literal

from msgspec import Struct

from newburrow.convert.conditions import Condition
from newburrow.model import COMMENT_STATES, ENTRY_KINDS, ENTRY_STATES


class Old(Struct, frozen=True, forbid_unknown_fields=True):
    """The old site: what was handed in."""

    paths: list[str]
    dialect: str = ""  # empty: recognised


class New(Struct, frozen=True, forbid_unknown_fields=True):
    """The new site."""

    host: str
    address: str  # where it will stand, with scheme and host


class Choose(Struct, frozen=True, forbid_unknown_fields=True):
    """What moves."""

    kinds: tuple[str, ...] = ENTRY_KINDS
    states: tuple[str, ...] = tuple(state for state in ENTRY_STATES if state != "removed")
    comment_states: tuple[str, ...] = tuple(state for state in COMMENT_STATES if state in ("approved", "pending"))
    starter_content: Literal["leave-out", "move"] = "leave-out"
    only: Condition = Condition()  # what moves, of all that; a condition that says nothing is for everything
    leave: list[Condition] = []  # what stays behind, of that


class Redirects(Struct, frozen=True, forbid_unknown_fields=True):
    """What the redirects are written for."""

    servers: tuple[str, ...] = ("nginx",)


class Change(Struct, frozen=True, forbid_unknown_fields=True):
    """What a rule sets. What is not said stays."""

    kind: str = ""
    state: str = ""
    author: str = ""  # key, login, name or e-mail address of one of the export
    title: str = ""
    add_terms: tuple[str, ...] = ()  # "category/Cider"; a word alone is a tag
    drop_terms: tuple[str, ...] = ()  # key, slug or name
    fields: dict[str, str] = {}  # named metadata; an empty value takes one out


class Rule(Struct, frozen=True, forbid_unknown_fields=True):
    """One rule: where all of `when` holds, `set` is done."""

    when: Condition = Condition()
    set: Change = Change()
    about: str = ""  # for the person who reads it


class Decisions(Struct, frozen=True, forbid_unknown_fields=True):
    """The whole of `move.toml`."""

    old: Old
    new: New
    choose: Choose = Choose()
    states: dict[str, str] = {}  # state -> what it becomes
    addresses: dict[str, str] = {}  # kind on the new host -> permalink pattern
    redirects: Redirects = Redirects()
    rules: list[Rule] = []


class AuthorChoice(Struct, frozen=True):
    """One row of `authors.csv`."""

    action: str = "keep"  # or `assign`
    new_name: str = ""  # under which the entries go; empty keeps the old one


class TermChoice(Struct, frozen=True):
    """One row of `terms.csv`."""

    action: str = "keep"  # or `rename`, `merge`, `drop`
    new_name: str = ""  # of `merge`: the key or name of the term that it becomes
    new_vocabulary: str = ""  # empty: its own
    new_parent: str = ""  # key or name of a term; "-" for none; empty: its own
