"""Guesses about plain records: what a table holds, and what a field means."""

from __future__ import annotations

import re
from collections.abc import Iterable

from newburrow.assess.dialect_draft.observations import (
    ENUMERATION,
    Observed,
    words_in,
)
from newburrow.assess.dialect_draft.tables import Table
from newburrow.markup.guess import guess

# Words in the name of a field -> the fact it may be, the most telling first.
WORDS: dict[str, tuple[str, ...]] = {
    "id": ("id", "key", "uid", "uuid", "number", "nr", "no"),
    "kind": ("kind", "type", "sort"),
    "status": ("status", "state", "visibility"),
    "title": ("title", "headline", "heading", "subject", "name"),
    "slug": ("slug",),
    "permalink": ("permalink", "url", "link", "address", "href"),
    "guid": ("guid",),
    "other_addresses": ("formerly", "redirect", "old"),
    "published": (
        "published",
        "date",
        "pubdate",
        "posted",
        "publish",
        "out",
        "created",
        "made",
        "at",
        "time",
        "when",
    ),
    "updated": ("updated", "modified", "changed", "edited"),
    "summary": ("summary", "excerpt", "abstract", "teaser", "description", "intro", "lead"),
    "body": ("body", "content", "text", "html", "markdown", "said", "message", "words"),
    "markup": ("markup", "format"),
    "author": ("author", "writer", "creator", "by", "user", "owner"),
    "parent": ("parent", "within", "under", "answers", "above", "below", "up"),
    "position": ("position", "order", "rank", "weight"),
    "language": ("language", "lang", "locale"),
    "lead_picture": ("lead", "cover", "thumbnail", "image", "picture", "photo"),
    "enclosures": ("enclosure", "attachment"),
    "author_name": ("name", "author", "by", "user", "from"),
    "email": ("email", "mail", "contact"),
    "address": ("url", "address", "src", "source", "web", "website", "site", "link", "href"),
    "login": ("login", "username", "nick", "account", "handle", "signs"),
    "name": ("name", "label", "title", "display", "full", "word"),
    "about": ("about", "bio", "biography", "vita", "description"),
    "vocabulary": ("vocabulary", "taxonomy", "type", "kind"),
    "description": ("description", "about"),
    "path": ("path", "file", "filename"),
    "media_type": ("mime", "type"),
    "alternative_text": ("alt", "alternative"),
    "caption": ("caption",),
    "zone": ("zone", "timezone"),
    "generator": ("generator",),
}
VOCABULARY = {"tag": ("tag", "label", "keyword", "topic"), "category": ("category", "section")}
_IDS = ("id", "@id", "key", "@key", "uid", "@uid", "nr", "@nr", "no", "@no", "slug", "login")
_PAIR = (("name", "key", "property"), ("value", "text", "content"))
DATES, _ADDRESSES = ("published", "updated"), ("permalink", "address")
EPOCHS = {"unix": r"\d{9,10}(?:\.\d+)?", "unix-ms": r"\d{12,13}"}
_PARTED = r"[^,;|]+(?:{0}[^,;|]+)+"
TYPES = {
    "comment": ("comment", "reply", "response", "answer", "remark"),
    "author": (
        "author",
        "user",
        "person",
        "human",
        "people",
        "member",
        "writer",
        "contributor",
        "creator",
        "owner",
    ),
    "term": ("tag", "category", "term", "label", "topic", "keyword", "section", "subject"),
    "media": (
        "media",
        "file",
        "image",
        "picture",
        "photo",
        "attachment",
        "asset",
        "upload",
        "cover",
        "thumbnail",
    ),
    "entry": (
        "post",
        "article",
        "entry",
        "page",
        "item",
        "story",
        "news",
        "document",
        "content",
        "text",
        "record",
    ),
    "site": ("site", "setting", "info", "channel"),
}


def type_by_name(name: str) -> str:
    """The type of record that the name of a table suggests; empty where it suggests none."""
    words = [singular(word) for word in words_in(name)]
    return next(
        (of for of, theirs in TYPES.items() if any(word in theirs for word in reversed(words))),
        "",
    )


def ids_of(table: Table) -> set[str]:
    """The values by which other tables refer to the records of this one."""
    return {
        value for name in _IDS if name in table.columns for value in table.columns[name].values
    }


def singular(word: str) -> str:
    """A word without the ending of its plural."""
    if word.endswith("ies"):
        return word[:-3] + "y"
    if word.endswith("s") and not word.endswith(("ss", "us", "news", "alias")):
        return word[:-1]
    return word


def score(fact: str, selector: str, seen: Observed) -> int:
    """How clearly a field is a fact, such as `title` or `permalink`.

    `fact` is the name of a setting of the dialect. 0 if the field cannot be that fact; of several fields
    with a positive score the highest is proposed. Both the field's name and its values count.
    """
    words = words_in(selector)
    places = [place for place, word in enumerate(WORDS[fact]) if word in words]
    if not places or not values_fit(fact, seen):
        return 0
    if [WORDS[fact][places[0]]] == words:
        length_score = 40
    else:
        length_score = 0
    return 60 + length_score - 3 * places[0] - 5 * len(words)


def values_fit(fact: str, seen: Observed) -> bool:
    """Whether the values of a field can be those of a fact."""
    unique = not seen.many and seen.mostly_different
    checks = {
        "id": unique,
        "kind": len(seen.values) <= ENUMERATION,
        "status": len(seen.values) <= ENUMERATION,
        "position": seen.all(r"-?\d+"),
        "slug": seen.all(r"[^\s/?]*"),
        "parent": seen.all(r"\S+"),
        "email": seen.all(r"\S+@\S+"),
        "markup": len(seen.values) <= ENUMERATION,
        "language": seen.all(r"[\w-]{2,12}"),
        "lead_picture": seen.all(r"\S+"),
    }
    if fact in DATES:
        return seen.dates() or any(seen.all(shape) for shape in EPOCHS.values())
    if fact in _ADDRESSES:
        return seen.all(r"(?:https?:)?/\S*|\S+\.\w+\S*")
    return checks.get(fact, True)


def vocabulary_of(name: str) -> str:
    """The vocabulary that the name of a table or field suggests."""
    words = [singular(word) for word in words_in(name)]
    return next(
        (ours for ours, theirs in VOCABULARY.items() if any(word in theirs for word in words)),
        words[-1] if words else "tag",
    )


def mark_between(seen: Observed) -> str:
    """The character that separates several terms in one text; empty if none does."""
    for mark in ",;|":
        if any(re.fullmatch(_PARTED.format(re.escape(mark)), value) for value in seen.values):
            return mark
    return ""


def key_and_value(columns: list[str]) -> tuple[str, str] | None:
    """The columns of name and value among some; None where there are not both."""
    names = [
        next((column for column in columns if column.lstrip("@") in words), "")
        for words in _PAIR
    ]
    if all(names):
        return (names[0], names[1])
    return None


def pair_of(table: Table) -> tuple[str, str] | None:
    """The selectors of name and value if the records are named metadata; else None."""
    if len(table.columns) == 2 and not table.inner:
        return key_and_value(list(table.columns))
    return None


def markup_of(bodies: Iterable[Observed]) -> str:
    """The markup that most texts of a field are written in."""
    texts = [value for seen in bodies for value in list(seen.values)[:50] if value.strip()]
    found = [guess(text) for text in texts]
    if found:
        return max(sorted(set(found)), key=found.count)
    return "html"
