"""The catalogue of problem codes: each code once, with its severity, what it means, and what to do.

A severity says what happens if nobody looks:

- `note`     nothing is lost; good to know
- `warning`  something moved but reads or looks differently, or a link is dead
- `error`    an object could not be moved, or an answer is not what it was: the exit status is 1
- `fatal`    the run cannot go on: the exit status is 2

Messages are templates: `{fact}` stands for a fact that is given with the problem. `docs/problems.md`
is made from this table.
"""

from __future__ import annotations

from collections.abc import Mapping
from enum import StrEnum

from msgspec import Struct


class Severity(StrEnum):
    """How bad a problem is, from the mildest to the worst."""

    NOTE = "note"
    WARNING = "warning"
    ERROR = "error"
    FATAL = "fatal"


class Code(Struct, frozen=True):
    """What is true of all problems of one code."""

    severity: Severity
    meaning: str  # one sentence for the documentation
    action: str  # what a person does about it, for the documentation
    message: str = "{message}"  # template of the message
    advice: str = ""  # template of the advice; empty: `action`


_NOTE, _WARNING, _ERROR, _FATAL = Severity

_NOTHING = "Nothing."
_BY_HAND = "Enter it by hand on the new host."

_READING = {
    "comments-missing": Code(
        _WARNING,
        "The export states more comments than it has.",
        "Check whether the old host can export its comments separately.",
        "The export says that this entry has {stated} comments; it has {found}.",
    ),
    "encoding-guessed": Code(
        _WARNING,
        "A text file is not in UTF-8 and does not declare its encoding, which was guessed.",
        "Check its accented letters. Name the right encoding in the dialect, as `encoding`.",
        "{file} is not in UTF-8; by its letters it was read as {encoding}.",
    ),
    "encoding-mixed": Code(
        _WARNING,
        "A page has bytes that mean nothing in its encoding; each became U+FFFD.",
        "Look at these places on the old site, and correct them on the new one.",
        "{file} has bytes that mean nothing in its encoding ({number} times); each became U+FFFD.",
    ),
    "encoding-misstated": Code(
        _WARNING,
        "A file declares an encoding that it is not in.",
        "Check its accented letters.",
        "{file} declares the encoding {declared}, and is in {encoding}; it was read as that.",
    ),
    "file-unopened": Code(
        _WARNING,
        "A file among those of the site could not be opened; it stays a file of the site.",
        "Open it, and check that it is whole and harmless.",
        "{file} could not be opened: {reason}. It is a file of the site, byte for byte.",
    ),
    "file-unreadable": Code(
        _ERROR,
        "A file of the site is locked or damaged; it cannot move.",
        "Get it from the old site, or download the export again.",
        "{file} cannot be read: {reason}.",
    ),
    "bag-as-files": Code(
        _WARNING,
        "A bag lies among the files of the site; its files are files of the site.",
        "If its content is to move, hand it in by itself.",
        "{folder} is a BagIt bag and lies among other files: what is in it is not read.",
    ),
    "unsafe-address": Code(
        _WARNING,
        "An address runs a script when somebody follows it, and is left out.",
        "Look whose it is: it may be an attack.",
        "An address ({place}) runs a script when somebody follows it; it is left out.",
    ),
    "script-in-text": Code(
        _WARNING,
        "A description holds a script, which was removed.",
        "Look whose it is: it may be an attack.",
        "A text ({place}) held a script, which was removed.",
    ),
    "script-like-name": Code(
        _WARNING,
        "A name or title looks like a script to a host that takes it for HTML.",
        "See on the new host that it is shown as text; else change it.",
        "A text ({place}) would be a script to a host that takes it for HTML; it stays as it is.",
    ),
    "file-with-script": Code(
        _WARNING,
        "A drawing or page among the files of the site holds a script; it moves as it is.",
        "See that it is harmless, or leave it out.",
        "{file} holds a script; it moves as it is.",
    ),
    "content-as-file": Code(
        _WARNING,
        "A file looks like content and lies among the files of the site; it is one of them.",
        "Look into it. If its entries belong to the site, name it with --content.",
        "{file} looks like content ({format}) and lies among other files: it is a file of the site, and its "
        "entries are not read.",
        "If they are to move, name it: --content {file!r}.",
    ),
    "cartridge-version": Code(
        _WARNING,
        "A cartridge is of a version that is not known.",
        "Look at what was read.",
        "The cartridge is of version {version}, which is not known; it was read as version 1.3.",
    ),
    "manifest-missing": Code(
        _WARNING,
        "A quiz is in a file of its own, and no manifest says what else belongs to it.",
        "Hand in the whole package as the old host exported it, if you have it.",
        "{file} holds questions, and the source has no manifest (imsmanifest.xml).",
    ),
    "manifest-within": Code(
        _WARNING,
        "A manifest holds another manifest, which is not read.",
        "Hand in the package within the package by itself.",
        "The manifest holds another one, which was not read.",
    ),
    "organisation-unread": Code(
        _WARNING,
        "A manifest has several organisations of its contents; only the default one, or the first, is read.",
        "Check whether the others show anything that the tree of modules lacks.",
        "The manifest arranges its contents in {number} more ways (organisations), which were not read.",
    ),
    "resource-missing": Code(
        _WARNING,
        "The tree of a course names a resource that the manifest does not list.",
        "Export the course again, or add it by hand.",
        "“{title}” stands for the resource {resource}, which the manifest does not list.",
    ),
    "package-file-missing": Code(
        _WARNING,
        "A manifest lists a file that is not in the package.",
        "Find the file on the old host, and add it by hand.",
        "The file {file} of {of} is not in the package.",
    ),
    "resource-unread": Code(
        _WARNING,
        "A resource is of a type that is not read.",
        "Add it by hand; its files are moved as they are.",
        "The resource {resource} is of the type {type}, which is not read.",
    ),
    "page-alone": Code(
        _WARNING,
        "A single web page was handed in: it may have been saved instead of the export.",
        "If you meant the export, download it from the old host itself; you may have to log in first.",
        "{file} is a single web page. It is read as a page of the site.",
    ),
    "namespace-missing": Code(
        _WARNING,
        "A dialect names a namespace that no part of the export has.",
        "Compare its address in [namespaces] of the dialect with the one in the export.",
        "The dialect {dialect} names the namespace {uri} (prefix {prefix}), which {export} does not have: "
        "what the dialect says of it was not read.",
    ),
    "front-matter": Code(
        _WARNING,
        "The front matter of a text cannot be read.",
        "Correct it in the file, and run the command again.",
    ),
    "no-item": Code(
        _WARNING,
        "An item of a feed is not an object.",
        "Correct it in the export.",
        "Item {number} is not an object but {value!r}.",
    ),
    "unknown-value": Code(
        _WARNING,
        "A value is not one that the dialect maps.",
        "Add the value to [values] of the dialect.",
        "The dialect does not map the {fact} {value!r}; it is read as {otherwise!r}.",
        "Add {value!r} to [values.{fact}] of the dialect.",
    ),
    "not-content": Code(
        _NOTE,
        "The dialect says that items of a kind are not content of the site.",
        "If they are, map the kind in [values.kind] of the dialect.",
        "An item of the kind {kind!r} is not content, as the dialect says; it was not read.",
        "If it is content, map {kind!r} in [values.kind] of the dialect to one of our kinds.",
    ),
    "no-date": Code(
        _WARNING,
        "A date cannot be read.",
        "Set the date by hand on the new host, or correct it in the export.",
        "The {name} date {text!r} is not a date.",
    ),
    "no-number": Code(_NOTE, "A number cannot be read, and is left out.", _NOTHING),
    "unread-element": Code(
        _NOTE,
        "The export has something that the content model has no place for.",
        "Its values are kept in content.sqlite. If it matters, name it in the dialect.",
        advice="{advice}",
    ),
    "relation-without-entry": Code(
        _WARNING,
        "A table relates something to an entry that is not in the export.",
        "Check whether a part of the export is missing.",
        "{number} rows say something ({facts}) about the entry {entry!r}, "
        "which is not in the export.",
    ),
    "lacked": Code(
        _NOTE,
        "One of several exports lacked something that another had; it was filled in.",
        _NOTHING,
        "{file} lacked the {fact} of {objects} that another export has, {such} “{example}”.",
    ),
    "twice": Code(
        _WARNING,
        "Two records of one key differ; the first was kept.",
        "Compare the two.",
        "The {kind} {why}{first}.",
        "Compare it with the second: {second}.",
    ),
}

_DECISIONS = {
    "unknown-row": Code(
        _WARNING,
        "A decision table has a row for something that is not in the export.",
        "Remove the row, or correct its first cell.",
        "{table} has a row for {key!r}, which is not in the export; it has no effect.",
        "{advice}",
    ),
    "rule": Code(_NOTE, "How many entries a rule changed.", _NOTHING),
    "rule-unused": Code(
        _WARNING,
        "A rule matched no entry.",
        "Check its `when` in move.toml, or remove it.",
        "{rule} matched no entry.",
    ),
    "account": Code(
        _ERROR,
        "Not every object that was read has a fate.",
        "This is a fault in New Burrow. Do not rely on this move; report it with the log (--log FILE).",
        "Of {found} objects of the kind {kind}, {settled} have a fate.",
    ),
    "fault": Code(
        _ERROR,
        "A fault in New Burrow kept one entry from being moved.",
        "Move it by hand, and report the fault with the log (--log FILE).",
        "The entry was not moved: {reason}.",
    ),
    "not-written": Code(
        _ERROR,
        "The new host's format refuses a record.",
        "Change what it refuses, or enter it by hand.",
        "{object} was not written: {reason}.",
        "{advice}",
    ),
    "type-not-moved": Code(
        _ERROR,
        "No step moves objects of this kind yet.",
        "They are kept in content.sqlite. Create them by hand on the new host.",
        "{number:,} objects of the kind {kind} were not moved: {reason}.",
    ),
    "dropped": Code(
        _WARNING,
        "The new host's format has no place for a fact.",
        _BY_HAND,
        advice="{advice}",
    ),
    "dropped-detail": Code(
        _NOTE, "The new host's format has no place for a detail of a file.", _NOTHING
    ),
    "host-limit": Code(
        _ERROR,
        "The move is larger than the new host accepts.",
        "Choose fewer entries in move.toml, or ask the host for a larger plan.",
    ),
}

_FILES = {
    "missing-file": Code(
        _ERROR,
        "A file is not in the export.",
        "Fetch it from the old site while that is still up, put it where the export names it, "
        "and move again.",
        "The file {file} is not in the export.",
    ),
    "missing-lead": Code(
        _WARNING,
        "The lead picture of an entry is not in the export.",
        "Choose another on the new host.",
        "The lead picture {file} is not in the export.",
    ),
    "file-not-taken": Code(
        _ERROR,
        "The new host does not accept a file.",
        "Make it smaller, convert it, or put it elsewhere; then correct what leads to it.",
        "The file {file} does not move: {reason}.",
    ),
}

_ADDRESSES = {
    "address-taken": Code(
        _NOTE,
        "Two entries want the same address; the one that stood there gets it, else the older one.",
        "Nothing, unless you want another address: then change the slug.",
        "{wanted} is the address of another entry; this one goes to {new}.",
    ),
    "address-held": Code(
        _NOTE,
        "The new host already has another entry at this address.",
        "Nothing, unless you want another address: then change the slug.",
        "The new host has another entry at {wanted}, or with its slug; this one goes to {new}.",
    ),
    "held-by-address": Code(
        _WARNING,
        "The new host has a page of which only the address is known.",
        "Check that it is this entry. If it is not, change the slug of this entry and move again.",
        "The new host already has a page at {address}. Only its address is known, so it is counted "
        "as this entry.",
    ),
    "same-title": Code(
        _NOTE,
        "The new host has another entry with the same title.",
        "Check whether the two are the same; if so, leave one of them out.",
        "The new host already has another entry with this title: {other}.",
    ),
    "address-conflict": Code(
        _WARNING,
        "An old address has more than one meaning.",
        "Decide what readers of this address should find.",
        advice="{advice}",
    ),
    "comment-links": Code(
        _NOTE,
        "Links from other sites to single comments lead to the top of the page.",
        "Nothing: no server sees this part of an address.",
        "Links from other sites to single comments ({old}) lead to the top of the page: {now}. "
        "Links between entries are corrected.",
    ),
    "redirect-not-written": Code(
        _WARNING,
        "A server's configuration cannot express some redirects.",
        "Check whether anybody visits these addresses.",
        "{number:,} old addresses cannot be expressed in the configuration of {server}.",
        "They are listed at the end of its files in redirects/{server}. Check whether anybody visits them.",
    ),
    "unknown-address": Code(
        _WARNING,
        "An old address is known from elsewhere, and the export has nothing there.",
        "Find out what it was. If readers should find something, add a line to redirects/addresses.csv.",
        "Nothing in the export has the address {address}{visits}.",
    ),
    "redirect-loop": Code(
        _WARNING,
        "Redirects of the old site go in a circle.",
        "Decide what readers of this address should find.",
        "The redirects of the old site go in a circle at {address}.",
    ),
    "old-rule": Code(
        _WARNING,
        "A redirect rule of the old server is not carried over as it is.",
        "Add lines to redirects/addresses.csv for addresses that it answered.",
        advice="{advice}",
    ),
    "known-file": Code(
        _WARNING,
        "A file of known old addresses has something that cannot be read.",
        "Correct the file, or fetch it again.",
        advice="{advice}",
    ),
    "known-skipped": Code(_NOTE, "Some known addresses were not used.", _NOTHING),
}

_SITE = {
    "front-page": Code(
        _WARNING,
        "The import cannot set the front page.",
        "Choose the front page on the new host.",
        "The front page of the old site was “{title}”, which {now}.",
        "{advice}",
    ),
    "menu": Code(
        _WARNING,
        "The import has no place for a menu.",
        "Create it by hand on the new host.",
        "The import has no place for the menu “{menu}”. Its items: {items}.",
    ),
    "menu-target": Code(
        _WARNING,
        "A menu item leads to something that is left out or unknown.",
        "Remove the item, or choose another target.",
        "The item “{label}” of the menu “{menu}” leads to something that is left out or unknown.",
    ),
    "site-address-unknown": Code(
        _WARNING,
        "The export does not state the web address of the old site.",
        "Give it with --site ADDRESS, or as old.address in move.toml, and move again: redirects and links need it.",
        "The export does not state the web address of the old site: {address} stands in for it in all redirects.",
    ),
    "site-address-by-links": Code(
        _NOTE,
        "The export does not state the web address of the old site; it was inferred from links among its pages.",
        "If it is wrong, give the right one with --site ADDRESS, or as old.address in move.toml, and move again.",
        "The export does not state the web address of the old site; {address} was inferred from links among its pages.",
    ),
    "site-settings": Code(
        _NOTE,
        "The old site showed its dates in another time zone than the new host's.",
        "Set the same time zone on the new host before the import.",
        "The old site showed its dates in the time zone {zone}.",
    ),
}


def catalogue(
    rows: Mapping[str, tuple[str, ...]], refusals: Mapping[str, tuple[str, str]]
) -> dict[str, Code]:
    """All codes: those of this page, and those of the pages on entries and on refusals.

    `rows` have severity, meaning, action and templates; `refusals` have meaning and action.
    """
    codes = _READING | _DECISIONS | _FILES | _ADDRESSES | _SITE
    for code, (severity, *about) in rows.items():
        codes[code] = Code(Severity(severity), *about)
    for code, (meaning, action) in refusals.items():
        codes[code] = Code(_FATAL, meaning, action, advice="{advice}")
    return codes
