"""The catalogue of problem codes: each code once, with its severity, what it means, and what to do.

A severity says what happens if nobody looks:

- `info`     nothing is lost; good to know
- `warning`  something looks or reads differently than before
- `error`    readers miss something, or a link is dead
- `fatal`    the run cannot go on

Messages are templates: `{fact}` stands for a fact that is given with the problem. `docs/problems.md`
is made from this table.
"""

from __future__ import annotations

from enum import StrEnum

from msgspec import Struct


class Severity(StrEnum):
    """How bad a problem is, from the mildest to the worst."""

    INFO = "info"
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


_INFO, _WARNING, _ERROR, _FATAL = Severity

_NOTHING = "Nothing."
_BY_HAND = "Enter it by hand on the new host."

_READING = {
    "comments-missing": Code(
        _WARNING,
        "The export states more comments than it holds.",
        "Check whether the old host can export its comments separately.",
        "The export says that this entry has {stated} comments; it holds {found}.",
    ),
    "encoding": Code(
        _WARNING,
        "A file is not in the encoding that it should be in.",
        "Check its accented letters.",
        "The file is not in UTF-8; it was read as Windows-1252.",
    ),
    "front-matter": Code(
        _ERROR,
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
    "no-date": Code(
        _WARNING,
        "A date cannot be read.",
        "Set the date by hand on the new host, or correct it in the export.",
        "The {name} date {text!r} is not a date.",
    ),
    "no-number": Code(_INFO, "A number cannot be read, and is left out.", _NOTHING),
    "unread-element": Code(
        _INFO,
        "The export holds something that the content model has no place for.",
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
        _INFO,
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
    "rule": Code(_INFO, "How many entries a rule changed.", _NOTHING),
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
    "too-large": Code(
        _ERROR,
        "Something is larger than the new host accepts in one file.",
        "Shorten it, or enter it by hand.",
    ),
    "dropped": Code(
        _WARNING,
        "The new host's format has no place for a fact.",
        _BY_HAND,
        advice="{advice}",
    ),
    "dropped-detail": Code(
        _INFO, "The new host's format has no place for a detail of a file.", _NOTHING
    ),
    "host-limit": Code(
        _ERROR,
        "The move is larger than the new host accepts.",
        "Choose fewer entries in move.toml, or ask the host for a larger plan.",
    ),
}

_ENTRIES = {
    "no-kind": Code(
        _ERROR,
        "The new host has no kind for an entry.",
        "Say in [kinds] of move.toml what it becomes, or remove it from choose.kinds.",
        "{reason}.",
        "Say in [kinds] of move.toml what a {kind} becomes, or remove it from choose.kinds.",
    ),
    "no-tree": Code(
        _WARNING,
        "The new host does not place pages under one another.",
        "Link it from its former parent, or from the new site's menu.",
        "It stood under {parent}; the new host has no tree of {kind}s.",
    ),
    "parent-left-out": Code(
        _WARNING,
        "The parent of an entry is left out.",
        "Let the parent move too, or put the entry where it belongs on the new host.",
        "Its parent is left out. {now}",
    ),
    "no-order": Code(
        _INFO,
        "The new host keeps no order of entries.",
        "Set the order in the new site's menu.",
        "Its position was {position}; the new host keeps no order of {kind}s.",
    ),
    "state-changed": Code(
        _WARNING,
        "The new host has no such state; the entry gets another.",
        "Check that this is what you want.",
        "It was {old} and becomes {new}.",
        "{advice}",
    ),
    "date-too-early": Code(
        _WARNING,
        "An entry is dated before there was a web.",
        "Correct its date: in entries.csv (`newburrow draft … --entries`), or on the new host.",
        "It is dated {day}, before there was a web.",
    ),
    "date-in-future": Code(
        _WARNING,
        "A published entry is dated in the future.",
        "Correct its date: in entries.csv (`newburrow draft … --entries`), or on the new host.",
        "It counts as published, but is dated {day}, in the future.",
    ),
    "undated": Code(
        _WARNING,
        "An entry has no date, and the new host's addresses contain one.",
        "Give it a date in the export or on the new host.",
        "The entry has no date, so its address is built without one.",
    ),
    "new-slug": Code(
        _INFO,
        "An entry has no slug, or one that the new host does not accept.",
        "Nothing, unless you want another slug: then set it in entries.csv.",
        "{reason}; it gets {slug!r}.",
    ),
    "title-cut": Code(
        _WARNING,
        "A title is longer than the new host accepts.",
        "Give it a shorter title: in entries.csv, or on the new host.",
        "The title has {length} characters, and the host accepts {most}. It was cut; "
        "before, it was: “{title}”",
    ),
    "field-dropped": Code(
        _WARNING,
        "A field has no place on the new host.",
        "Map it to another in [[fields]] of move.toml, or enter it by hand.",
        "The field {field} ({value}) has no place on the new host.",
    ),
    "field-value": Code(
        _WARNING,
        "The value of a field is not one that the new host accepts.",
        "Say in `values` of its [[fields]] in move.toml what it becomes.",
        "The field {field} is {value!r}, which is not {expected}{becomes}.",
    ),
    "field-missing": Code(
        _WARNING,
        "The new host requires a field that an entry does not have.",
        "Give [[fields]] in move.toml a default for it, or enter it by hand.",
        "The new host requires the field {field}, and the entry has none.",
    ),
    "no-author": Code(
        _INFO,
        "An entry has no author.",
        "Set one on the new host, or set authors.of_unsigned in move.toml.",
        "The entry has no author.",
    ),
    "authors-left": Code(
        _WARNING,
        "An entry has more authors than the new host accepts.",
        "Name them in the text if readers should know.",
        "The new host accepts {most} author(s) per entry. Left out: {names}.",
    ),
    "author-profile": Code(
        _INFO,
        "The new host has no place for the text about an author.",
        "Put it on a page of the new site if readers should see it.",
        "The new host has no place for the text about {author}: “{text}”",
    ),
    "author-to-make": Code(
        _WARNING,
        "Entries are assigned to somebody who is not an author of the new host.",
        "Create that author there before the import.",
        "The entries of {author} are assigned to {name}, who is not an author of the new host yet.",
    ),
    "terms-left": Code(
        _WARNING,
        "An entry has more terms than the new host accepts.",
        "Drop terms that say little in terms.csv, or choose others on the new host.",
        "The new host accepts {most} terms per entry. Left out: {names}.",
    ),
    "no-nesting": Code(
        _INFO,
        "The new host does not nest its terms.",
        "Nothing, unless a name says too little by itself: rename it in terms.csv, "
        'or set terms.nested_names = "path" in move.toml.',
        "{number:,} terms stood under others ({names}); the new host does not nest its "
        "{vocabulary}s, so each goes by its own name alone.",
    ),
    "term-description": Code(
        _INFO,
        "The new host has no place for the description of a term.",
        "Put it on a page of the new site if readers should see it.",
        "The new host has no place for the description of the {vocabulary} {name}: “{text}”",
    ),
    "comments-skipped": Code(
        _WARNING,
        "The new host already has an entry, but not all of its comments.",
        'To add them there, set new.already_there = "update" in move.toml.',
        "The new host already has this entry, but not {number:,} of its comments.",
    ),
    "lead-once": Code(
        _INFO,
        "The new host shows the lead picture by itself, so it was taken out of the body.",
        _NOTHING,
        "In {number:,} entries the first picture of the body was the lead picture, which the new "
        "host shows by itself; it now stands there once.",
    ),
}

_BODIES = {
    "macro": Code(
        _ERROR,
        "A body holds a macro that no dialect maps; the new host shows it as text.",
        "Put in its place what it stood for.",
        "The body holds {macro}. The new host shows it as text.",
    ),
    "macro-replaced": Code(
        _INFO, "A macro was removed, or replaced by the text in it.", _NOTHING
    ),
    "script": Code(
        _INFO,
        "A script, a style or a template was removed from a body.",
        "Nothing, unless the page needs what it did.",
    ),
    "element": Code(
        _INFO,
        "The new host does not accept an element; its words stay.",
        _NOTHING,
        "The new host does not accept <{tag}>; its words stay.",
    ),
    "form": Code(
        _ERROR,
        "A form was removed from a body.",
        "Create the form again with what the new host offers.",
        "A form was removed from the body; its fields: {fields}.",
    ),
    "embed": Code(
        _WARNING,
        "An embed became a link.",
        "Embed the video or frame again with what the new host offers.",
        "An embed of {address} became a link to it.",
    ),
    "picture-out": Code(
        _WARNING,
        "The new host accepts no pictures in this text.",
        "Attach the picture with what the new host offers.",
        "The new host does not accept the picture {address}; its alternative text stands in its place.",
    ),
    "missing-picture": Code(
        _ERROR,
        "A picture is not in the export.",
        "Fetch it from the old site while that is still up, and insert it on the new host.",
    ),
    "dead-link": Code(
        _WARNING,
        "A link leads to an address of the old site where nothing in the export stands.",
        "Find out what stood there; correct the link or remove it.",
        "A link leads to {address}, where nothing in the export stands.",
    ),
    "link-to-left-out": Code(
        _WARNING,
        "A link leads to something that is left out.",
        "Remove the link, or let its target move too.",
        "A {thing} leads to {address}, which is left out.",
    ),
    "no-alternative-text": Code(
        _INFO,
        "A picture has no alternative text.",
        'Describe in it what the picture shows; an empty one (alt="") is right for mere decoration.',
        "Pictures without alternative text: {names}.",
    ),
    "too-deep": Code(
        _ERROR,
        "A body is nested too deep to be read; its links are unchanged.",
        "Look at the body on the old site and write it again.",
        "The body is nested too deep to be read; its links are unchanged.",
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
        _ERROR,
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
        _INFO,
        "Two entries want the same address; the older one gets it.",
        "Nothing, unless you want another address: then change the slug.",
        "{wanted} is already the address of an older entry; this one goes to {new}.",
    ),
    "address-held": Code(
        _INFO,
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
        _INFO,
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
        _INFO,
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
        "An old address is known from elsewhere, and nothing in the export stands there.",
        "Find out what it was. If readers should find something, add a line to redirects/addresses.csv.",
        "Nothing in the export stands at {address}{visits}.",
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
        "A file of known old addresses holds something that cannot be read.",
        "Correct the file, or fetch it again.",
        advice="{advice}",
    ),
    "known-skipped": Code(_INFO, "Some known addresses were not used.", _NOTHING),
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
    "site-settings": Code(
        _INFO,
        "The old site showed its dates in another time zone than the new host's.",
        "Set the same time zone on the new host before the import.",
        "The old site showed its dates in the time zone {zone}.",
    ),
}


def _fatal(meaning: str, action: str) -> Code:
    return Code(_FATAL, meaning, action, advice="{advice}")


_REFUSALS = {
    "ambiguous": _fatal(
        "Several readers would take a file.", "Name the dialect with --dialect."
    ),
    "another-move": _fatal("The folder holds another move.", "Name another folder for --out."),
    "bag-not-whole": _fatal("A bag is not complete.", "Copy it again from where it was kept."),
    "csv": _fatal("A table is not valid CSV.", "Save it as CSV (UTF-8) again."),
    "cannot-write": _fatal("A folder cannot be made.", "Name another folder for --out."),
    "damaged": _fatal("A file is damaged.", "Download the export again."),
    "empty-file": _fatal("A file is empty.", "Download the export again."),
    "encrypted": _fatal(
        "A zip is locked with a password.", "Unpack it, and hand in the folder."
    ),
    "entity-declaration": _fatal(
        "An XML file declares entities, which New Burrow does not expand.",
        "If you trust the file, remove its DOCTYPE.",
    ),
    "exists": _fatal("Something stands where a new folder should.", "Name a new folder."),
    "file-in-use": _fatal(
        "A file that New Burrow did not write stands in the way.", "Move it elsewhere."
    ),
    "file-vanished": _fatal(
        "A file is no longer in the export.", "Hand in the export as it was for the draft."
    ),
    "folder-in-use": _fatal("A folder holds something else.", "Name an empty or new folder."),
    "is-a-folder": _fatal("A folder was named where a file is needed.", "Name a file in it."),
    "many-files": _fatal(
        "An archive holds too many files.", "Unpack it, and hand in the folder."
    ),
    "missing-column": _fatal("A table lacks a column.", "Add the column."),
    "no-answer": _fatal("A question got no answer.", "Run the command again."),
    "no-dialect": _fatal(
        "No dialect that ships describes an export.",
        "Draft one with `newburrow dialects --draft-from`.",
    ),
    "no-export": _fatal(
        "A file is not an export that can be read.", "Hand in the export itself."
    ),
    "no-such-item": _fatal("No item matches.", "Name an item by its id."),
    "no-move-folder": _fatal(
        "A folder is not a move folder.", "Make one with `newburrow draft`."
    ),
    "no-new-name": _fatal("An action needs a new name.", "Fill in new_name."),
    "no-server": _fatal("No server answers.", "Start the server, or correct the address."),
    "no-such-file": _fatal(
        "A file or folder does not exist.", "Check the spelling of the path."
    ),
    "no-such-folder": _fatal("A folder does not exist.", "Check the spelling of the path."),
    "not-a-folder": _fatal("A file was named where a folder is needed.", "Name a folder."),
    "not-mended": _fatal(
        "A file cannot be mended.", "Export the site again, or correct the file by hand."
    ),
    "not-moved": _fatal("A move folder holds no result yet.", "Run `newburrow move` first."),
    "not-well-formed": _fatal("A file is not well-formed.", "Run `newburrow mend` on it."),
    "nothing-to-draft": _fatal("An export needs no dialect.", "Run `newburrow survey`."),
    "nothing-to-mend": _fatal("A file is neither XML nor JSON.", "Hand in the export itself."),
    "outside-folder": _fatal(
        "A name leads out of its folder.", "Rename the file in the export."
    ),
    "process-ended": _fatal(
        "A process of the run was ended from outside.", "Run it again with a smaller --jobs."
    ),
    "several-items": _fatal("Several items match.", "Name one by its id."),
    "template": _fatal("A template of a host profile is wrong.", "Correct it (Jinja2)."),
    "too-large-text": _fatal("A text is too large to be read.", "Remove it from the export."),
    "toml": _fatal("A file is not valid TOML.", "Correct that line."),
    "two-answers": _fatal("An old address has two answers.", "Remove one of the two lines."),
    "unknown-name": _fatal(
        "There is nothing of this name.", "Use one of the names in the message."
    ),
    "unreadable": _fatal("A file cannot be read.", "Check its permissions and its encoding."),
    "usage": _fatal("The command line is wrong.", "See `newburrow COMMAND --help`."),
    "wrong-column": _fatal("A table has an unknown column.", "Correct the name of the column."),
    "wrong-dialect": _fatal("A dialect is for another format.", "Name another dialect."),
    "wrong-key": _fatal("A file has an unknown key.", "Correct the name of the key."),
    "wrong-row": _fatal("A row of a table is wrong.", "Correct the row."),
    "wrong-value": _fatal("A value is not allowed.", "Use one of the values in the message."),
    "zip-bomb": _fatal(
        "A file unpacks to far too much.", "Unpack it yourself if you trust it."
    ),
}

CODES: dict[str, Code] = {
    code: about
    for group in (
        _READING,
        _DECISIONS,
        _ENTRIES,
        _BODIES,
        _FILES,
        _ADDRESSES,
        _SITE,
        _REFUSALS,
    )
    for code, about in group.items()
}
