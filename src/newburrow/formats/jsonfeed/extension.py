"""Our own extension of JSON Feed: what the format has no words for, so that a feed can hold a whole site.

In an item `_new_burrow` has `id`, `kind`, `status`, `slug`, `parent` (an id), `position`, `fields`, `terms` (with their
vocabularies), `people` (what JSON Feed has no place for of its authors) and `comments`; of the feed it has `front_page`
(an id) and `menus`; after the items `_new_burrow_files` lists the files.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from newburrow.core.dates import parse_date
from newburrow.core.problem import Problem
from newburrow.formats.records.record_view import text_of_value
from newburrow.formats.value_problems import unknown_value
from newburrow.model import (
    COMMENT_KINDS,
    COMMENT_STATES,
    ENTRY_KINDS,
    ENTRY_STATES,
    Body,
    Comment,
    MenuItem,
    Where,
)

OWN, FILES = "_new_burrow", "_new_burrow_files"
LINE_FACTS = ("menu", "label", "target", "parent", "key")
PEOPLE_FACTS = ("name", "login", "email", "about")
FILE_FACTS = ("address", "path", "media_type", "title", "alternative_text", "caption")


def own_facts(
    own: dict[str, Any], where: Where, key: str
) -> tuple[dict[str, Any], list[Problem]]:
    """The facts of an entry in our extension of JSON Feed 1.1, and what to report about them.

    `own` is the object under the extension's key. A kind that is not known becomes a document, a state that
    is not known becomes private; both are reported.
    """
    facts: dict[str, Any] = {
        name: text for name in ("slug", "parent") if (text := text_of_value(own.get(name)))
    }
    problems = []
    for name, known, otherwise in (
        ("kind", ENTRY_KINDS, "document"),
        ("status", ENTRY_STATES, "private"),
    ):
        value = text_of_value(own.get(name))
        if value and value not in known:
            problems.append(unknown_value(name, value, otherwise, where, key))
        if value:
            if value in known:
                facts[name] = value
            else:
                facts[name] = otherwise
    position = own.get("position")
    if isinstance(position, int) and abs(position) < 1 << 31:
        facts["position"] = position
    return facts, problems


def own_fields(own: object) -> dict[str, str]:
    """Named metadata."""
    if isinstance(own, dict):
        fields = own.get("fields")
    else:
        fields = None
    if isinstance(fields, dict):
        return {str(name): text_of_value(value) for name, value in fields.items()}
    return {}


def own_menus(own: object, where: Where) -> Iterator[MenuItem]:
    """The lines of the menus, in their order."""
    if isinstance(own, dict):
        lines = own.get("menus")
    else:
        lines = None
    for number, line in enumerate(lines if isinstance(lines, list) else [], 1):
        if isinstance(line, dict):
            facts = {name: text_of_value(line.get(name)) for name in LINE_FACTS}
            facts["key"] = facts["key"] or f"menu/{number}"
            yield MenuItem(**facts, position=number, source=where)  # type: ignore[arg-type]


def own_people(own: object) -> dict[str, list[dict[str, str]]]:
    """What is known of authors besides name and address, by name; several of one name in their order."""
    if isinstance(own, dict):
        people = own.get("people")
    else:
        people = None
    found = [
        person
        for person in (people if isinstance(people, list) else [])
        if isinstance(person, dict)
    ]
    people_by_name: dict[str, list[dict[str, str]]] = {}
    for person in found:
        facts = {name: text_of_value(person.get(name)) for name in PEOPLE_FACTS[1:]}
        people_by_name.setdefault(text_of_value(person.get("name")), []).append(facts)
    return people_by_name


def own_comments(own: object, entry: str, where: Where) -> Iterator[Comment]:
    """The comments on an entry."""
    if isinstance(own, dict):
        comments = own.get("comments")
    else:
        comments = None
    for number, comment in enumerate(comments if isinstance(comments, list) else [], 1):
        if not isinstance(comment, dict):
            continue
        kind, status = text_of_value(comment.get("kind")), text_of_value(comment.get("status"))
        yield Comment(
            key=text_of_value(comment.get("id")) or f"{entry}#{number}",
            entry=entry,
            parent=text_of_value(comment.get("parent")),
            kind=kind if kind in COMMENT_KINDS else "comment",
            status=status if status in COMMENT_STATES else "pending",
            author_name=text_of_value(comment.get("author_name")),
            email=text_of_value(comment.get("email")),
            address=text_of_value(comment.get("address")),
            published=parse_date(text_of_value(comment.get("published"))),
            body=Body(text_of_value(comment.get("content_html"))),
            source=where,
        )
