"""How a host says in RSS what RSS itself cannot: its dialect, written instead of read."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from typing import TypeVar

from newburrow.core.dates import iso
from newburrow.dialects.schema import Dialect, Selectors
from newburrow.formats.xml_output import attribute, text
from newburrow.model import Author, Comment, Entry, Media, MenuItem, Term
from newburrow.model.bundle import Bundle
from newburrow.model.keys import bare

R = TypeVar("R", Comment, MenuItem)

# A selector that can be written: a child element, an attribute, or an attribute of a child element.
_PLACE = re.compile(
    r"(?P<element>[\w.-]+(?::[\w.-]+)?)?(?:/?@(?P<attribute>[\w.-]+(?::[\w.-]+)?))?"
)


class DialectElements:
    """How the host says what RSS itself cannot."""

    def __init__(self, dialect: Dialect) -> None:
        self.dialect = dialect
        self.theirs = {
            of: {ours: theirs for theirs, ours in reversed(pairs.items())}
            for of, pairs in dialect.values.items()
        }

    def value(self, of: str, ours: str) -> str:
        """A word of the content model as the host has it."""
        return self.theirs.get(of, {}).get(ours, ours)

    def element(self, selectors: Selectors, value: str) -> str | None:
        """The value as the element that a selector names; None where the dialect has no place that can be written."""
        if isinstance(selectors, str):
            first = selectors
        else:
            first = next(iter(selectors), "")
        found = _PLACE.fullmatch(first)
        if not value:
            return ""
        if not first or not found or not found["element"]:
            return None
        name = found["element"]
        if found["attribute"]:
            return f"<{name} {found['attribute']}={attribute(value)}/>\n"
        return f"<{name}>{text(value)}</{name}>\n"

    def attributes_and_elements(
        self, values: dict[str, tuple[Selectors, str]]
    ) -> tuple[str, str]:
        """The values as attributes of an element, and as elements within it."""
        attributes = elements = ""
        for selectors, value in values.values():
            if isinstance(selectors, str):
                first = selectors
            else:
                first = next(iter(selectors), "")
            if value and first.startswith("@") and _PLACE.fullmatch(first):
                attributes += f" {first[1:]}={attribute(value)}"
            elif made := self.element(selectors, value):
                elements += made
        return attributes, elements

    def facts(self, entry: Entry, bundle: Bundle) -> tuple[str, list[str]]:
        """The elements and attributes for facts that the dialect has a place for.

        Also gives the names of those that it has no place for, for the follow-ups.
        """
        rules = self.dialect.entry
        lead = bundle.lead_picture
        facts_by_name: dict[str, tuple[Selectors, str, bool]] = {
            "id": (rules.id, bare(entry.key), False),
            "kind": (rules.kind, self.value("kind", entry.kind), entry.kind != "post"),
            "state": (
                rules.status,
                self.value("status", entry.status),
                entry.status != "published",
            ),
            "slug": (rules.slug, entry.slug, False),
            "change": (
                rules.updated or ["a:updated"],
                iso(entry.updated),
                False,
            ),
            "parent": (rules.parent, bare(entry.parent), True),
            "position": (
                rules.position,
                "" if entry.position is None else str(entry.position),
                True,
            ),
            "language": (rules.language or ["dc:language"], entry.language, False),
            "lead picture": (
                rules.lead_picture,
                bare(lead.key) or lead.address if lead else "",
                True,
            ),
        }
        made, dropped = "", []
        for name, (selectors, value, matters) in facts_by_name.items():
            element = self.element(selectors, value)
            made += element or ""
            if element is None and matters and value:
                dropped += [name]
        for name, value in entry.fields.items():
            pair = next(iter(rules.fields), None)
            if pair:
                place = _PLACE.fullmatch(pair.name)
            else:
                place = None
            if (
                pair
                and place
                and place["attribute"]
                and not place["element"]
                and pair.value == "."
            ):
                made += f"<{pair.element} {place['attribute']}={attribute(name)}>{text(value)}</{pair.element}>\n"
            else:
                dropped.append(f"field {name}")
        return made, dropped

    def comments(self, comments: tuple[Comment, ...]) -> str:
        """The comments in the element of the dialect, answers within what they answer."""
        rules = self.dialect.comment
        if rules is None or not rules.element:
            return ""
        answers: dict[str, list[Comment]] = {}
        known = {comment.key for comment in comments}
        nested = not rules.parent
        for comment in comments:
            answers.setdefault(
                comment.parent if nested and comment.parent in known else "", []
            ).append(comment)

        def opened(comment: Comment) -> str:
            attributes, elements = self.attributes_and_elements(
                {
                    "id": (rules.id, bare(comment.key)),
                    "parent": (rules.parent, bare(comment.parent)),
                    "kind": (rules.kind, self.value("comment_kind", comment.kind)),
                    "status": (rules.status, self.value("comment_status", comment.status)),
                    "author_name": (rules.author_name, comment.author_name),
                    "email": (rules.email, comment.email),
                    "address": (rules.address, comment.address),
                    "published": (
                        rules.published,
                        iso(comment.published),
                    ),
                    "body": (rules.body, comment.body.text),
                }
            )
            return f"<{rules.element}{attributes}>\n{elements}"

        return _nested(answers, opened, rules.element)

    def menus(self, items: Sequence[MenuItem]) -> str:
        """The menus in the element of the dialect, items within their parents."""
        rules = self.dialect.menu
        if not rules.element:
            return ""
        inner: dict[str, list[MenuItem]] = {}
        for item in items:
            inner.setdefault(item.parent, []).append(item)

        def opened(menu_item: MenuItem) -> str:
            attributes, elements = self.attributes_and_elements(
                {
                    "menu": (rules.menu, menu_item.menu),
                    "label": (rules.label, menu_item.label),
                    "target": (rules.target, menu_item.target),
                }
            )
            return f"<{rules.element}{attributes}>{elements}"

        return _nested(inner, opened, rules.element)

    def author_name(self, author: Author) -> str:
        """How an item names an author: by login, where the dialect declares authors by it."""
        if self.dialect.author.element:
            return author.login or author.name
        return author.name

    def author(self, author: Author) -> str:
        """The author as the dialect declares one; empty where it does not."""
        rules = self.dialect.author
        if not rules.element:
            return ""
        attributes, elements = self.attributes_and_elements(
            {
                "login": (rules.login, author.login or author.name),
                "name": (rules.name, author.name),
                "email": (rules.email, author.email),
                "address": (rules.address, author.address),
                "about": (rules.about, author.about),
            }
        )
        return f"<{rules.element}{attributes}>\n{elements}</{rules.element}>\n"

    def category(self, term: Term) -> str:
        """A term on an item."""
        rules = self.dialect.term
        attributes, _elements = self.attributes_and_elements(
            {
                "vocabulary": (
                    rules.entry_vocabulary,
                    self.value("vocabulary", term.vocabulary),
                ),
                "slug": (rules.entry_slug, term.slug),
            }
        )
        return f"<category{attributes}>{text(term.name)}</category>\n"

    def term(self, term: Term) -> str:
        """The term as the dialect declares one; empty where it does not."""
        rules = self.dialect.term
        if not rules.element:
            return ""
        attributes, elements = self.attributes_and_elements(
            {
                "slug": (rules.slug, term.slug),
                "name": (rules.name, term.name),
                "vocabulary": (rules.vocabulary, self.value("vocabulary", term.vocabulary)),
                "parent": (rules.parent, term.parent.partition("/")[2]),
                "description": (rules.description, term.description),
            }
        )
        return f"<{rules.element}{attributes}>\n{elements}</{rules.element}>\n"

    def media(self, media: Media) -> str:
        """A file as an item; empty where the dialect has no such items."""
        rules, entry = self.dialect.media, self.dialect.entry
        kind = self.element(entry.kind, self.value("kind", rules.kind))
        if not kind or not rules.path:
            return ""
        _attributes, elements = self.attributes_and_elements(
            {
                "id": (entry.id, bare(media.key)),
                "path": (rules.path, media.path),
                "address": (rules.address, media.address),
                "media_type": (rules.media_type, media.media_type),
                "caption": (rules.caption, media.caption),
                "alternative_text": (rules.alternative_text, media.alternative_text),
                "entry": (rules.entry, bare(media.entry)),
            }
        )
        return (
            f"<item>\n<title>{text(media.title)}</title>\n<link>{text(media.address)}</link>\n"
            f'<guid isPermaLink="false">{text(media.address)}</guid>\n{kind}{elements}</item>\n'
        )


def _nested(inner: dict[str, list[R]], opened: Callable[[R], str], element: str) -> str:
    """Records as elements within one another; `inner` has those under each key, and those on top under none."""
    made: list[str] = []
    # A stack, not recursion: an export can nest threads to any depth. An empty entry closes an element.
    waiting: list[R | None] = list(reversed(inner.get("", [])))
    while waiting:
        comment = waiting.pop()
        if comment is None:
            made.append(f"</{element}>\n")
            continue
        made.append(opened(comment))
        waiting.append(None)
        waiting += reversed(inner.get(comment.key, []))
    return "".join(made)
