"""What all items of a feed share: the dialect, the site's address and zone, the authors and terms named."""

from __future__ import annotations

import re
from datetime import datetime

from lxml import etree

from newburrow.core import plugins, url
from newburrow.core.dates import parse_date, zone_named
from newburrow.dialects.schema import NOTHING, Dialect
from newburrow.dialects.selector import Index
from newburrow.formats.feed.feed_map import CompiledDialect, FeedSelectors
from newburrow.formats.people import People
from newburrow.formats.slug_text import decoded_slug
from newburrow.model import Term, Where

_WORD = re.compile(r"[^\W\d_][\w -]*")
_OURS = {"tags": "tag", "categories": "category", "keyword": "tag", "keywords": "tag"}


class Shared:
    """The memory of one pass over a feed. Authors and terms are few; everything else is streamed."""

    def __init__(self, label: str, dialect: Dialect, speech: FeedSelectors, lines: int) -> None:
        self.label, self.dialect, self.lines = label, dialect, lines
        self.maps = CompiledDialect(dialect, speech)
        self.markups = plugins.names(plugins.MARKUPS)
        self.unnamed = 0  # items so far without an id; several can be in one line
        self.base = ""  # the site's address, as soon as it is known
        self.zone = zone_named("")
        self._zones = {fact: zone_named(name) for fact, name in dialect.dates.zones.items()}
        # name, e-mail and address of the authors of the feed itself, whose entries may name none
        self.feed_people: list[tuple[str, str, str]] = []
        # those that entries name; a declaration in the feed takes precedence
        self.people = People()
        self.terms: dict[str, Term] = {}

    def vocabulary(self, theirs: str) -> str:
        """Our name for a vocabulary of the export."""
        if theirs:
            return self.dialect.value("vocabulary", theirs)
        return self.dialect.term.default_vocabulary

    def name_term(self, element: etree._Element, name: str, slug: str = "") -> str:
        """The key of the term that a category element of an entry names; empty if it names none.

        Its vocabulary is where the dialect says; else that of its `domain` (RSS 2.0) or `scheme` (RFC 4287
        4.2.2.2). The term is remembered and yielded at the end, unless the feed declares it.
        """
        children: Index = {}
        slug = decoded_slug(self.maps.entry_slug.first(element, children) or slug or name)
        if not slug:
            return ""
        stated = self.maps.entry_vocabulary.first(element, children)
        if not self.maps.entry_vocabulary:
            stated = (element.get("domain") or element.get("scheme") or "").strip()
            if stated not in self.dialect.values.get("vocabulary", {}):
                stated = _word_of(stated, slug)
        vocabulary = self.vocabulary(stated)
        if vocabulary == NOTHING:
            return ""
        key = f"{vocabulary}/{slug}"
        if key not in self.terms:
            where = self.where(element)
            self.terms[key] = Term(
                key=key, vocabulary=vocabulary, slug=slug, name=name or slug, source=where
            )
        return key

    def where(self, element: etree._Element) -> Where:
        """The place of an element."""
        line = element.sourceline
        return Where(self.label, line + self.lines if isinstance(line, int) else 0)

    def date(self, text: str, fact: str = "") -> datetime | None:
        """The date in a text, aware; None if the text is not a date. `fact` is what it is the date of."""
        if text:
            zone = self._zones.get(fact, self.zone)
            return parse_date(text, zone, self.dialect.dates.forms)
        return None

    def names_in(self, text: str) -> list[str]:
        """The terms that one category element names."""
        mark = self.dialect.term.split
        return [name.strip() for name in (text.split(mark) if mark else [text])]


def _word_of(scheme: str, slug: str) -> str:
    """The vocabulary that a scheme or domain names; empty for one that only says whose term it is.

    A word means itself; an address means its fragment or last name, unless that is the term's own.
    """
    if "/" in scheme:
        parts = url.split(scheme)
    else:
        parts = None
    word = scheme
    if parts:
        word = parts.fragment or parts.path.rstrip("/").rpartition("/")[2]
    if not _WORD.fullmatch(word) or word == slug:
        return ""
    return _OURS.get(word.lower(), word.lower())
