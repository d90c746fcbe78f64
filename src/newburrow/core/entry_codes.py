"""The codes of what is reported about entries and their bodies. A part of the catalogue in `codes`.

Each has severity, meaning, action, and where they are not the general ones the templates of message and
advice: see `codes.Code`.
"""

from __future__ import annotations

ENTRY_CODES: dict[str, tuple[str, ...]] = {
    "no-kind": (
        "error",
        "The new host has no kind for an entry.",
        "Say in [kinds] of move.toml what it becomes, or remove it from choose.kinds.",
        "{reason}.",
        "Say in [kinds] of move.toml what a {kind} becomes, or remove it from choose.kinds.",
    ),
    "unreached-page": (
        "note",
        "No menu of the site names a page, and nothing that moves links to it.",
        "Put it into a menu of the new site, or link to it.",
        "No menu names it, and nothing that moves links to it.",
    ),
    "host-own-page": (
        "note",
        "The new host creates pages of its own on every new site.",
        "Remove them before you import, if you do not want them.",
        "The new host creates pages of its own on every new site: {addresses}.",
    ),
    "comment-apart": (
        "warning",
        "A comment belongs to no entry that is in the export.",
        "Its text is in content.sqlite. Export its entry too, or add the comment by hand.",
        "A comment by {author} was not moved: {reason}.",
    ),
    "no-tree": (
        "warning",
        "The new host does not place pages under one another.",
        "Link it from its former parent, or from the new site's menu.",
        "It stood under {parent}; the new host has no tree of {kind}s.",
    ),
    "parent-left-out": (
        "warning",
        "The parent of an entry is left out.",
        "Let the parent move too, or put the entry where it belongs on the new host.",
        "Its parent is left out. {now}",
    ),
    "no-order": (
        "note",
        "The new host keeps no order of entries.",
        "Set the order in the new site's menu.",
        "The new host keeps no order of {kind}s: the position is lost.",
    ),
    "state-changed": (
        "warning",
        "The new host has no such state; the entry gets another.",
        "Check that this is what you want.",
        "It was {old} and becomes {new}.",
        "{advice}",
    ),
    "date-too-early": (
        "warning",
        "An entry is dated before there was a web.",
        "Correct its date: in entries.csv (`newburrow draft … --entries`), or on the new host.",
        "It is dated {day}, before there was a web.",
    ),
    "date-in-future": (
        "warning",
        "A published entry is dated in the future.",
        "Correct its date: in entries.csv (`newburrow draft … --entries`), or on the new host.",
        "It counts as published, but is dated {day}, in the future.",
    ),
    "undated": (
        "warning",
        "An entry has no date, and the new host's addresses contain one.",
        "Give it a date in the export or on the new host.",
        "The entry has no date, so its address is built without one.",
    ),
    "new-slug": (
        "note",
        "An entry has no slug, or one that the new host does not accept.",
        "Nothing, unless you want another slug: then set it in entries.csv.",
        "{reason}; the entry gets a new one.",
    ),
    "untitled": (
        "note",
        "An entry has no title, and the new host shows its name instead.",
        "Give it a title: in entries.csv, or on the new host.",
        "The entry has no title; the new host shows its name.",
    ),
    "title-cut": (
        "warning",
        "A title is longer than the new host accepts.",
        "Give it a shorter title: in entries.csv, or on the new host.",
        "The title is longer than the {most:,} characters that the host accepts; it was cut.",
    ),
    "field-dropped": (
        "warning",
        "A field has no place on the new host.",
        "Map it to another in [[fields]] of move.toml, or enter it by hand.",
        "The field {field} ({value}) has no place on the new host.",
    ),
    "field-value": (
        "warning",
        "The value of a field is not one that the new host accepts.",
        "Say in `values` of its [[fields]] in move.toml what it becomes.",
        "The field {field} is {value!r}, which is not {expected}{becomes}.",
    ),
    "field-missing": (
        "warning",
        "The new host requires a field that an entry does not have.",
        "Give [[fields]] in move.toml a default for it, or enter it by hand.",
        "The new host requires the field {field}, and the entry has none.",
    ),
    "no-author": (
        "note",
        "An entry has no author.",
        "Set one on the new host, or set authors.of_unsigned in move.toml.",
        "The entry has no author.",
    ),
    "authors-left": (
        "warning",
        "An entry has more authors than the new host accepts.",
        "Name them in the text if readers should know.",
        "The new host accepts {most} author(s) per entry. The others are left out.",
    ),
    "author-profile": (
        "note",
        "The new host has no place for the text about an author.",
        "Put it on a page of the new site if readers should see it.",
        "The new host has no place for the text about {author}: “{text}”",
    ),
    "author-login": (
        "note",
        "The new host has no place for the name that an author logs in with.",
        "Keep it if the same person is to log in on the new host.",
        "The new host has no place for the login of {author}: {login}",
    ),
    "same-name": (
        "warning",
        "Two persons of one name moved; one has a new name, so that they stay two.",
        "Correct the name in authors.csv, or assign one to the other if they are the same person.",
        "Another author is also called {author}, with another login or e-mail address; "
        "this one is now {name}.",
    ),
    "author-to-make": (
        "warning",
        "Entries are assigned to somebody who is not an author of the new host.",
        "Create that author there before the import.",
        "The entries of {author} are assigned to {name}, who is not an author of the new host yet.",
    ),
    "terms-left": (
        "warning",
        "An entry has more terms than the new host accepts.",
        "Drop terms that say little in terms.csv, or choose others on the new host.",
        "The new host accepts {most} terms per entry. The others are left out.",
    ),
    "no-nesting": (
        "note",
        "The new host does not nest its terms.",
        "Nothing, unless a name says too little by itself: rename it in terms.csv, "
        'or set terms.nested_names = "path" in move.toml.',
        "{number:,} terms stood under others ({names}); the new host does not nest its "
        "{vocabulary}s, so each goes by its own name alone.",
    ),
    "term-description": (
        "note",
        "The new host has no place for the description of a term.",
        "Put it on a page of the new site if readers should see it.",
        "The new host has no place for the description of the {vocabulary} {name}: “{text}”",
    ),
    "category-text": (
        "note",
        "A page became the description of a category, and has more than words.",
        'Set terms.category_pages = "pages" in move.toml to keep it as a page.',
        "The text of this page now describes the category {name}. "
        "Its links, pictures, lists or tables are plain text there.",
    ),
    "comments-skipped": (
        "warning",
        "The new host already has an entry, but not all of its comments.",
        'To add them there, set new.already_there = "update" in move.toml.',
        "The new host already has this entry, but not {number:,} of its comments.",
    ),
    "fact-without-place": (
        "warning",
        "The new host has no place for a fact of an entry of this kind.",
        "Add it by hand, if it matters; follow-up-places.csv has it.",
        "Entries of the kind {kind} have no place for {fact} on the new host.",
    ),
    "older-version": (
        "note",
        "A link leads to an older version of a page.",
        "Nothing, if the page as it is now will do. Else quote the older words in the text.",
        "A link asked for an older version of a page; it leads to the page as it is now.",
    ),
    "remote-file": (
        "warning",
        "An entry shows pictures or films that are on another site.",
        "Fetch them while they are there (follow-up-places.csv has the addresses), and upload them to the new host.",
        "Pictures or films are shown from {host}, which is not the old site: they are gone when that is.",
        "Fetch them while they are there (follow-up-places.csv has their addresses), and upload them to the new host.",
    ),
    "file-not-content": (
        "note",
        "Files that belong to software, and archives, are left out unless something shows them.",
        'See them in ledger.csv. To move them too, set media.files in move.toml to "all".',
        "{number:,} files of the export are settings, databases, programs, themes or archives that nothing "
        "shows; they are left out.",
    ),
    "lead-once": (
        "note",
        "The new host shows the lead picture by itself, so it was removed from the body.",
        "Nothing.",
        "In {number:,} entries the first picture of the body was the lead picture, which the new "
        "host shows by itself; it is now shown once.",
    ),
}

BODY_CODES: dict[str, tuple[str, ...]] = {
    "copy-of-page": (
        "note",
        "A page names another page of the site as its original, as print versions do.",
        "Look at some of these pages. To leave them out: [[choose.leave]] copies = true. "
        "Their addresses then lead to the originals.",
        "The page names another one as its original; it keeps its own address.",
    ),
    "outside-sitemap": (
        "note",
        "The site has a sitemap that does not list a page, which may be a list, a search or a draft.",
        "Look at some of these pages. To leave them out: [[choose.leave]] outside_sitemap = true.",
        "The sitemap of the old site does not list this page.",
    ),
    "page-without-body": (
        "warning",
        "Nothing on a page was found that is its text.",
        "Look at the page; say in the dialect where its text is, or leave the page out.",
        "Nothing on the page {file} was found that is its text.",
    ),
    "included": (
        "note",
        "A page shows another within it; on the new site its words stand in both.",
        "Nothing, or replace the words by a link where the new host cannot include pages.",
        "The text of the page “{page}” was copied into it, since the old wiki showed it here.",
    ),
    "include-circle": (
        "warning",
        "A page includes itself, by way of others.",
        "Look at the page: a link stands in place of what went in a circle.",
        "The page includes “{page}” in a circle; a link to it stands there instead.",
    ),
    "include-missing": (
        "warning",
        "A page includes one that is not in the export.",
        "Write what belongs there, or remove the gap.",
        "The page includes “{page}”, which is not in the export.",
    ),
    "redirect-to-nothing": (
        "note",
        "The old site redirected an address to one at which the export has nothing.",
        "Nothing, unless you know where it should lead: add it to a table in old.known.",
        "The old site redirected {address} to {target}, where the export has nothing.",
    ),
    "file-apart": (
        "note",
        "A file belongs to a page that is not in the export.",
        "Put it on a page of the new site, or leave it.",
        "The file {file} belongs to the page “{page}”, which is not in the export; it moves without a page.",
    ),
    "red-link": (
        "warning",
        "A link leads to a page that the old wiki did not have.",
        "Write the page, or leave it: the words of the link stay.",
        "A link to the page “{page}”, which the old wiki did not have, became plain words.",
    ),
    "section-lost": (
        "note",
        "A link leads to a place within a page that the new host cannot mark.",
        "Nothing, or put a heading there and link to it.",
        "The new host marks headings alone: a link to another place within a page leads to the top of that page.",
    ),
    "structure-changed": (
        "note",
        "The markup of the new host cannot express how some of a text is built.",
        "Look at the page: all its words are there.",
        "Some lists, tables or blocks are built in another way, since the new host's markup has no such thing.",
    ),
    "history-changed": (
        "note",
        "Something in earlier versions of a page had to change.",
        "Nothing.",
        "In earlier versions of the page: {what}",
    ),
    "macro": (
        "warning",
        "A body has a macro that no dialect maps; the new host shows it as text.",
        "Replace it with what it stood for.",
        "The body has {macro}. The new host shows it as text.",
    ),
    "macro-like": (
        "warning",
        "A body has something that looks like a macro and that no dialect names.",
        "If it is one, add it to [[macros]] of the dialect; else nothing.",
        "The body has {macro}, which looks like a macro that no dialect names. The new host shows it as text.",
    ),
    "macro-replaced": (
        "note",
        "A macro was removed, or replaced by the text in it.",
        "Nothing.",
    ),
    "script": (
        "note",
        "A script, a style or a template was removed from a body.",
        "Nothing, unless the page needs what it did.",
    ),
    "script-handler": (
        "note",
        "A script in an attribute was removed from a body.",
        "Nothing, unless the page needs what it did.",
        "A script in an attribute ({name}) was removed.",
    ),
    "script-link": (
        "note",
        "A link that runs a script was removed from a body; its words stay.",
        "Nothing, unless the page needs what it did.",
        "A link that runs a script was removed; its words stay.",
    ),
    "link-without-words": (
        "note",
        "A link that shows no words, such as an icon of the layout, has no place in the new host's markup.",
        "Nothing, unless readers need it: then add a link with words.",
        "Links that show no words were left out ({number}): the new host's markup has no place for them.",
    ),
    "link-in-code": (
        "note",
        "A link stands in a block of code, where the new host's markup has no links; its words stay.",
        "Nothing, unless readers need it: then put the link beside the code.",
        "Links in blocks of code are words now ({number}): the new host's markup has no links there.",
    ),
    "element": (
        "note",
        "The new host does not accept an element; its words stay.",
        "Nothing.",
        "The new host does not accept <{tag}>; its words stay.",
    ),
    "attribute": (
        "note",
        "An attribute was removed from a body: it could run a script, or no standard knows it.",
        "Nothing, unless the page needs what it did.",
        "{name} was removed: it could run a script, or no standard knows it.",
    ),
    "attributes-cut": (
        "warning",
        "An element has more attributes than any page needs; the others were left out.",
        "Look at the body on the old site, and compare.",
        "An element <{tag}> has more than {most} attributes; the others were left out.",
    ),
    "macro-failed": (
        "warning",
        "The template of a macro gives nothing; the macro stays as text.",
        "Correct the template in the dialect.",
        "The template of {macro} gives nothing: {reason}. The macro stays as text.",
    ),
    "markup-unread": (
        "warning",
        "A body cannot be read in its markup; it stays as plain text.",
        "Look at it on the old site and write it again.",
        "The body cannot be read as {markup}: {reason}. It stays as plain text.",
    ),
    "words-out": (
        "warning",
        "Words stood where no host shows any, and were removed with what held them.",
        "Write them again if readers should see them.",
        "Words stood where no host shows any, and were removed.",
    ),
    "form": (
        "warning",
        "A body has a form: it was removed, or what it was sent to is no longer there.",
        "Create the form again with what the new host offers.",
        "{what}; its fields: {fields}.",
    ),
    "embed": (
        "warning",
        "An embed became a link.",
        "Embed the video or frame again with what the new host offers.",
        "An embed of {address} became a link to it.",
    ),
    "picture-out": (
        "warning",
        "The new host accepts no pictures in this text.",
        "Attach the picture with what the new host offers.",
        "The new host does not accept the picture {address}; its alternative text takes its place.",
    ),
    "missing-picture": (
        "warning",
        "A picture is not in the export.",
        "Fetch it from the old site while that is still up, and insert it on the new host.",
    ),
    "dead-link": (
        "warning",
        "A link leads to an address of the old site where the export has nothing.",
        "Find out what was there; correct the link or remove it.",
        "A link leads to {address}, where the export has nothing.",
    ),
    "link-to-left-out": (
        "warning",
        "A link leads to something that is left out.",
        "Remove the link, or let its target move too.",
        "A {thing} leads to {address}, which is left out.",
    ),
    "no-alternative-text": (
        "note",
        "A picture has no alternative text.",
        'Describe in it what the picture shows; an empty one (alt="") is right for mere decoration.',
        "Pictures have no alternative text.",
    ),
    "too-deep": (
        "warning",
        "A body is nested deeper than any parser reads; its innermost elements were taken out.",
        "Look at the body on the old site, and compare.",
        "The body is nested deeper than any parser reads; its innermost elements were taken out, their words stay.",
    ),
}
