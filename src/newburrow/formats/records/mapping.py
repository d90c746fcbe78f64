"""From plain records to the content model, by what a dialect says of them."""

from __future__ import annotations

import sys
from collections.abc import Callable, Iterator
from typing import Any

from newburrow.core import url, url_pattern
from newburrow.core.dates import date_within, is_unset, parse_date, zone_named
from newburrow.core.problem import Problem
from newburrow.dialects.file_pattern import matches_file
from newburrow.dialects.record_facts import FACTS
from newburrow.dialects.schema import NOTHING, RecordMap
from newburrow.formats.base import Input
from newburrow.formats.records.record_facts import CompiledMap, RecordFacts
from newburrow.formats.records.record_view import RecordView
from newburrow.formats.slug_text import decoded_slug
from newburrow.formats.value_problems import no_date, no_number, not_content, unknown_value
from newburrow.model import (
    COMMENT_KINDS,
    COMMENT_STATES,
    ENTRY_KINDS,
    ENTRY_STATES,
    Author,
    Body,
    Comment,
    Entry,
    Media,
    MenuItem,
    Revision,
    Site,
    Term,
    Where,
)
from newburrow.model.reading import Item, Mention, Relation

FRONT_PAGE = "(front page)"  # stands for the name of its file
_YES = ("true", "yes", "1", "minor")


def maps_for(source: Input, format_name: str) -> list[RecordMap]:
    """The record maps of the dialect that are for a file of this name and format."""
    return [
        record
        for record in source.dialect.records
        if (record.format or source.dialect.format) == format_name
        and (matches_file(source.name, record.file) or _is_front(source, record))
    ]


def _is_front(source: Input, record: RecordMap) -> bool:
    """Whether the record is of the site's front page, which is read."""
    return record.file == FRONT_PAGE and source.is_front_page


class Mapper:
    """Makes the records of one part."""

    def __init__(self, source: Input) -> None:
        self.dialect, self.label, self.base = source.dialect, source.label, source.base
        self.zone = zone_named(self.dialect.dates.zone or source.zone)
        self._zones = {
            fact: zone_named(name) for fact, name in self.dialect.dates.zones.items()
        }
        self.problems: list[Problem] = []
        self.number = 0
        self.makers: dict[str, Callable[[RecordFacts, str], Iterator[Item]]] = {
            "site": self._site,
            "author": self._author,
            "term": self._term,
            "entry": self._entry,
            "revision": self._revision,
            "comment": self._comment,
            "media": self._media,
            "menu": self._menu,
            "relation": self._relation,
        }

    def records(
        self, rules: CompiledMap, view: RecordView, within: str = "", parent: str = ""
    ) -> Iterator[Item | Problem]:
        """The record that a view describes, its relations, and the records within it.

        `within` is the key of the record around it, such as the entry of a comment. What the dialect does not
        take goes into `extra`. Yields problems for values that cannot be read.
        """
        self.number += 1
        facts = RecordFacts(rules, view, Where(self.label, view.line), self.number)
        key = facts.key(within)
        inner = [
            (inner_map, found)
            for inner_map in rules.inner
            for found in (view.inner(inner_map.each) if inner_map.each else [view])
        ]
        # a thread nests in itself
        if rules.of == "comment" and within:
            answers = view.inner(rules.each)
        else:
            answers = []
        facts.parent = parent
        yield from self.makers[rules.of](facts, within)
        yield from self.problems
        self.problems.clear()
        for compiled, found in inner:
            yield from self.records(compiled, found, key if rules.of == "entry" else within)
        for found in answers:
            yield from self.records(rules, found, within, key)

    # -- one maker for each type ---------------------------------------------------------------

    def _site(self, facts: RecordFacts, _within: str) -> Iterator[Item]:
        given: dict[str, Any] = {name: facts.one(name) for name in FACTS["site"]}
        yield Site(key="site", **given, extra=facts.left(), source=facts.where)

    def _author(self, facts: RecordFacts, within: str) -> Iterator[Item]:
        given = {name: facts.one(name) for name in FACTS["author"] if name != "id"}
        key = facts.one("id") or given["login"] or given["name"] or given["email"]
        if not key:
            return
        given["name"] = given["name"] or given["login"] or key
        author = Author(key=key, **given, extra=facts.left(), source=facts.where)
        if within:
            yield Mention(author)
            yield Relation(within, "author", key, source=facts.where)
        else:
            yield author

    def _term(self, facts: RecordFacts, within: str) -> Iterator[Item]:
        given = {name: facts.one(name) for name in ("slug", "name", "description")}
        word = facts.one("id") or given["slug"] or given["name"]
        if not word:
            return
        vocabulary = self._vocabulary(facts.one("vocabulary"))
        if vocabulary == NOTHING:
            return
        given |= {
            "name": given["name"] or given["slug"] or word,
            "slug": decoded_slug(given["slug"]) or given["name"] or word,
        }
        parent = facts.one("parent")
        term = Term(
            key=f"{vocabulary}/{word}",
            vocabulary=vocabulary,
            **given,
            parent=f"{vocabulary}/{parent}" if parent not in ("", "0") else "",
            extra=facts.left(),
            source=facts.where,
        )
        if within:
            yield Mention(term)
            yield Relation(within, "term", word, vocabulary, facts.where)
        else:
            yield term

    def _entry(self, facts: RecordFacts, _within: str) -> Iterator[Item]:
        key = facts.key()
        theirs = facts.one("kind")
        if self.dialect.value("kind", theirs) == NOTHING:
            self.problems.append(not_content(theirs, facts.where))
            return
        published = self._date(facts, "published", key)
        permalink = self._permalink(facts, published)
        kind = self._known("kind", theirs or "post", ENTRY_KINDS, "document", facts, key)
        status = self._known(
            "status", facts.one("status") or "published", ENTRY_STATES, "private", facts, key
        )
        pattern = [
            url_pattern.expand(id_address, {"id": facts.one("id")})
            for id_address in self.dialect.entry.id_addresses
        ]
        others = [*facts.each("other_addresses"), *(pattern if facts.one("id") else [])]
        related = list(self._relations(facts, key))
        yield Entry(
            key=key,
            kind=kind,
            title=facts.one("title"),
            slug=decoded_slug(facts.one("slug")),
            permalink=permalink,
            guid=facts.one("guid"),
            addresses=tuple(
                dict.fromkeys(
                    address for address in map(self._resolved, others) if address != permalink
                )
            ),
            status=status,
            published=published,
            updated=self._date(facts, "updated", key),
            enclosures=tuple(map(self._resolved, facts.each("enclosures"))),
            summary=facts.one("summary"),
            body=self._body(facts, self.dialect.entry.markup),
            position=self._number(facts, "position", key),
            language=facts.one("language"),
            fields=facts.fields(),
            extra=facts.left(),
            source=facts.where,
        )
        yield from related
        mark = self.dialect.wiki.parent_mark
        above, found, _own = facts.one("title").rpartition(mark) if mark else ("", "", "")
        if found and above.strip():
            yield Relation(key, "above", above.strip(), source=facts.where)

    def _relations(self, facts: RecordFacts, key: str) -> Iterator[Relation]:
        """What an entry names by words whose meaning is known only when all is read."""
        for word in facts.each("author"):
            yield Relation(key, "author", word, source=facts.where)
        for word in facts.each("terms"):
            yield Relation(key, "term", word, self._vocabulary(""), facts.where)
        for vocabulary, selectors in facts.rules.terms.items():
            for word in facts.parted(vocabulary, facts.texts(selectors)):
                yield Relation(key, "term", word, vocabulary, facts.where)
        parents = [word for word in facts.each("parent") if word not in ("", "0")]
        for of, word in zip(("parent", *("above" for _ in parents[1:])), parents, strict=False):
            yield Relation(key, of, word, source=facts.where)
        if (picture := facts.one("lead_picture")) not in ("", "0"):
            yield Relation(key, "lead_picture", picture, source=facts.where)

    def _revision(self, facts: RecordFacts, within: str) -> Iterator[Item]:
        entry = within or facts.one("entry")
        number = self._number(facts, "number", entry) or 0
        key = facts.one("id") or f"{entry}@{number or facts.where}"
        writer = facts.one("author")
        yield Revision(
            key=key,
            entry=entry,
            number=number,
            published=self._date(facts, "published", entry),
            title=facts.one("title"),
            note=facts.one("note"),
            minor=facts.one("minor").lower() in _YES,
            body=self._body(facts, self.dialect.entry.markup),
            extra=facts.left(),
            source=facts.where,
        )
        if writer:
            yield Relation(key, "revision_author", writer, source=facts.where)

    def _comment(self, facts: RecordFacts, within: str) -> Iterator[Item]:
        key = facts.key(within)
        parent = facts.one("parent")
        entry = within or facts.one("entry")
        yield Comment(
            key=key,
            entry=entry,
            parent=parent if parent not in ("", "0") else facts.parent,
            kind=self._known(
                "comment_kind",
                facts.one("kind") or "comment",
                COMMENT_KINDS,
                "comment",
                facts,
                entry,
            ),
            author_name=facts.one("author_name"),
            email=facts.one("email"),
            address=facts.one("address"),
            published=self._date(facts, "published", entry),
            status=self._known(
                "comment_status",
                facts.one("status") or "approved",
                COMMENT_STATES,
                "pending",
                facts,
                entry,
            ),
            body=self._body(
                facts, self.dialect.comment.markup if self.dialect.comment else "html"
            ),
            extra=facts.left(),
            source=facts.where,
        )
        if writer := facts.one("author"):
            yield Relation(key, "comment_author", writer, source=facts.where)

    def _media(self, facts: RecordFacts, within: str) -> Iterator[Item]:
        names = ("path", "media_type", "title", "alternative_text", "caption")
        given: dict[str, Any] = {name: facts.one(name) for name in names}
        yield Media(
            key=facts.key(),
            address=self._resolved(facts.one("address")),
            addresses=tuple(map(self._resolved, facts.each("other_addresses"))),
            **given,
            entry=within or facts.one("entry"),
            extra=facts.left(),
            source=facts.where,
        )

    def _menu(self, facts: RecordFacts, _within: str) -> Iterator[Item]:
        key = facts.one("id") or f"menu/{self.number}"
        given = {name: facts.one(name) for name in ("menu", "label", "target", "parent")}
        yield MenuItem(
            key=key,
            **given,
            position=self._number(facts, "position", key),
            extra=facts.left(),
            source=facts.where,
        )

    def _relation(self, facts: RecordFacts, _within: str) -> Iterator[Item]:
        entry = facts.one("entry")
        for of in ("author", "term", "lead_picture", "parent"):
            for word in facts.each(of):
                if of == "term":
                    vocabulary = facts.one("vocabulary")
                else:
                    vocabulary = ""
                yield Relation(
                    entry,
                    of,
                    word,
                    self._vocabulary(vocabulary) if vocabulary else "",
                    facts.where,
                )
        if name := facts.one("name"):
            yield Relation(entry, "field", facts.one("value"), name, facts.where)

    # -- facts -----------------------------------------------------------------------------------

    def _permalink(self, facts: RecordFacts, published: Any) -> str:
        permalinks = facts.one("permalink")
        if permalinks or not facts.rules.rules.address:
            return self._resolved(permalinks)
        if published:
            local = published.astimezone(self.zone)
        else:
            local = None
        variables = {
            "id": facts.one("id"),
            "slug": facts.one("slug"),
            "folder": facts.one("folder"),
            **(
                {"year": f"{local:%Y}", "month": f"{local:%m}", "day": f"{local:%d}"}
                if local
                else {}
            ),
        }
        # An empty folder leaves no double slash.
        return self._resolved(
            url_pattern.expand_names(facts.rules.rules.address, variables).replace("//", "/")
        )

    def _resolved(self, text: str) -> str:
        if text:
            return url.resolve(self.base, text)
        return ""

    def _vocabulary(self, theirs: str) -> str:
        if theirs:
            return self.dialect.value("vocabulary", theirs)
        return self.dialect.term.default_vocabulary

    def _body(self, facts: RecordFacts, otherwise: str) -> Body:
        named = self.dialect.value("markup", facts.one("markup"))
        text = "\n".join(facts.markup("body"))
        return Body(
            text,
            # interned: what is encoded leaves out a default only if it is the same object
            sys.intern(named if named in facts.markups else otherwise),
            self._resolved(facts.one("base")),
        )

    def _known(
        self,
        fact_name: str,
        theirs: str,
        known: tuple[str, ...],
        otherwise: str,
        facts: RecordFacts,
        key: str,
    ) -> str:
        value = self.dialect.value(fact_name, theirs)
        if value in known:
            return value
        self.problems.append(unknown_value(fact_name, value, otherwise, facts.where, key))
        return otherwise

    def _date(self, facts: RecordFacts, name: str, key: str) -> Any:
        text = facts.one(name)
        zone = self._zones.get("comment" if facts.rules.of == "comment" else name, self.zone)
        if text:
            date = parse_date(text, zone, self.dialect.dates.forms) or date_within(
                text, zone, is_last=name == "updated"
            )
        else:
            date = None
        if text and date is None and not is_unset(text):
            self.problems.append(no_date(name, text, facts.where, key))
        return date

    def _number(self, facts: RecordFacts, name: str, key: str) -> int | None:
        text = facts.one(name)
        try:
            if text:
                return int(text)
            return None
        except ValueError:
            self.problems.append(no_number(name, text, facts.where, key))
            return None
