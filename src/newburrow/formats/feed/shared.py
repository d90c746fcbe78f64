"""What all items of a feed share: the dialect, the site's address and zone, the authors and terms named."""

from __future__ import annotations

import re
from datetime import datetime

from lxml import etree

from newburrow.core import plugins
from newburrow.core.dates import parse_date, zone_named
from newburrow.dialects.schema import Dialect
from newburrow.dialects.selector import Index
from newburrow.formats.feed.feed_map import CompiledDialect, FeedSelectors
from newburrow.model import Author, Term, Where

_MAILBOX = re.compile(r"(\S+@\S+)\s*\((.+)\)\s*")


class Shared:
    """The memory of one pass over a feed. Authors and terms are few; everything else is streamed."""

    def __init__(self, label: str, dialect: Dialect, speech: FeedSelectors, lines: int) -> None:
        self.label, self.dialect, self.lines = label, dialect, lines
        self.maps = CompiledDialect(dialect, speech)
        self.markups = plugins.names(plugins.MARKUPS)
        self.unnamed = 0  # items so far without an id; several can be in one line
        self.base = ""  # the site's address, as soon as it is known
        self.zone = zone_named("")
        # name, e-mail and address of the authors of the feed itself, whose entries may name none
        self.feed_people: list[tuple[str, str, str]] = []
        # those that entries name; a declaration in the feed takes precedence
        self.named: dict[str, Author | Term] = {}

    def vocabulary(self, theirs: str) -> str:
        """Our name for a vocabulary of the export."""
        if theirs:
            return self.dialect.value("vocabulary", theirs)
        return self.dialect.term.default_vocabulary

    def name_author(self, text: str, where: Where) -> str:
        """The key of an author that an entry names, by name or as a mailbox (RSS 2.0, author)."""
        mailbox = _MAILBOX.fullmatch(text)
        if mailbox:
            return self.name_person(mailbox[2], mailbox[1], "", where)
        return self.name_person(text, "", "", where)

    def name_person(self, name: str, email: str, home: str, where: Where) -> str:
        """The key of an author of whom an entry says name, e-mail and address."""
        key = name.strip()
        if (mark := f"Author {key}") not in self.named:
            self.named[mark] = Author(
                key=key, name=key, email=email, address=home, source=where
            )
        return key

    def name_term(self, element: etree._Element, name: str, slug: str = "") -> str:
        """The key of the term that a category element of an entry names; empty if it names none.

        The term is remembered and yielded at the end, unless the feed declares it.
        """
        children: Index = {}
        slug = self.maps.entry_slug.first(element, children) or slug or name
        if not slug:
            return ""
        vocabulary = self.vocabulary(self.maps.entry_vocabulary.first(element, children))
        key = f"{vocabulary}/{slug}"
        if (mark := f"Term {key}") not in self.named:
            where = self.where(element)
            self.named[mark] = Term(
                key=key, vocabulary=vocabulary, slug=slug, name=name or slug, source=where
            )
        return key

    def where(self, element: etree._Element) -> Where:
        """The place of an element."""
        line = element.sourceline
        return Where(self.label, line + self.lines if isinstance(line, int) else 0)

    def date(self, text: str) -> datetime | None:
        """The date in a text, aware; None if the text is not a date."""
        if text:
            return parse_date(text, self.zone, self.dialect.dates.forms)
        return None
