"""Conditions as tests of entries."""

from __future__ import annotations

import fnmatch
import html
import re
from collections.abc import Callable
from datetime import date, datetime

from newburrow.core import url
from newburrow.decide.condition import Condition
from newburrow.model.author import Author
from newburrow.model.entry import COPY_OF, OUTSIDE_SITEMAP, Entry
from newburrow.model.keys import bare
from newburrow.model.lookup import RecordLookup
from newburrow.model.term import Term

_TAG = re.compile(r"<!--.*?-->|<[^>]*>", re.DOTALL)
_WITHIN_WORDS = re.compile(
    r"</?(?:a|abbr|b|code|del|em|i|ins|mark|s|small|span|strong|sub|sup|u|wbr)\b[^>]*>", re.I
)
_DEEPEST = 100  # entries above an entry


Test = Callable[[Entry], bool]


def compiled(
    condition: Condition, store: RecordLookup, local: Callable[[datetime], datetime]
) -> Test:
    """A condition as a function from an entry to whether it matches.

    An entry must match every key of the condition, and any value of a key. Terms are looked up once, with
    those nested in them. `local` gives a date as the site shows it.
    """
    authors, terms = _authors(condition.authors, store), _terms(condition.terms, store)
    first, last = condition.since or date.min, condition.until or date.max
    words = re.compile(
        "|".join(rf"\b{re.escape(word)}\b" for word in condition.words), re.IGNORECASE
    )
    tests: dict[str, Test] = {
        "kinds": lambda entry: entry.kind in condition.kinds,
        "states": lambda entry: entry.status in condition.states,
        "authors": lambda entry: not authors.isdisjoint(entry.authors),
        "terms": lambda entry: not terms.isdisjoint(entry.terms),
        "fields": lambda entry: all(
            _has_field(entry, name, value) for name, value in condition.fields.items()
        ),
        "addresses": lambda entry: any(
            _has_address(entry, pattern) for pattern in condition.addresses
        ),
        "items": lambda entry: any(_is_named(entry, word) for word in condition.items),
        "under": lambda entry: _stands_under(entry, condition.under, store),
        "words": lambda entry: bool(words.search(_visible(entry))),
        "outside_sitemap": lambda entry: OUTSIDE_SITEMAP in entry.extra,
        "copies": lambda entry: COPY_OF in entry.extra,
        "since": lambda entry: (
            entry.published is not None and first <= local(entry.published).date()
        ),
        "until": lambda entry: (
            entry.published is not None and local(entry.published).date() <= last
        ),
    }
    asked = [tests[name] for name in condition.names()]
    return lambda entry: all(test(entry) for test in asked)


def _visible(entry: Entry) -> str:
    words = _TAG.sub(" ", _WITHIN_WORDS.sub("", entry.body.text))
    return f"{entry.title}\n{html.unescape(words)}"


def unknown(condition: Condition, store: RecordLookup) -> list[tuple[str, str, list[str]]]:
    """Words that match nothing in the export: the setting, the word, and the words that would match."""
    found = []
    for word in condition.authors:
        if not _authors((word,), store):
            found.append(("authors", word, [author.name for author in store.all(Author)]))
    for word in condition.terms:
        if not _terms((word,), store):
            found.append(("terms", word, [term.name for term in store.all(Term)]))
    return found


def author_named(word: str, store: RecordLookup) -> Author | None:
    """The author that a word of the decisions means; None if it means nobody.

    The word is a key, login, name or e-mail address, without regard to letter case. If several authors fit,
    it means the first of them in the export.
    """
    found = _authors((word,), store)
    return next((author for author in store.all(Author) if author.key in found), None)


def _authors(words: tuple[str, ...], store: RecordLookup) -> set[str]:
    sought = {word.casefold() for word in words}
    return {
        author.key
        for author in store.all(Author)
        if sought
        & {
            text.casefold()
            for text in (author.key, bare(author.key), author.login, author.name, author.email)
            if text
        }
    }


def _terms(words: tuple[str, ...], store: RecordLookup) -> set[str]:
    """The terms that words mean, with all that is nested in them."""
    sought = {word.casefold() for word in words}
    all_terms = list(store.all(Term))
    found = {
        term.key
        for term in all_terms
        if sought
        & {text.casefold() for text in (term.key, bare(term.key), term.slug, term.name) if text}
    }
    before = -1
    while len(found) != before:
        before = len(found)
        found |= {term.key for term in all_terms if term.parent in found}
    return found


def _has_field(entry: Entry, name: str, value: str) -> bool:
    field_value = entry.fields.get(name)
    return field_value is not None and (
        value == "*" or field_value.strip().casefold() == value.strip().casefold()
    )


def _has_address(entry: Entry, pattern: str) -> bool:
    for old_url in filter(None, (entry.permalink, *entry.addresses)):
        parts = url.split(old_url)
        if parts and fnmatch.fnmatchcase(
            parts.path + (f"?{parts.query}" if parts.query else ""), pattern
        ):
            return True
    return False


def _is_named(entry: Entry, word: str) -> bool:
    if word in (entry.key, bare(entry.key), entry.slug):
        return True
    sought = url.key(word) or url.key(url.resolve(entry.permalink, word))
    return "/" in word and sought in {
        url.key(address) for address in (entry.permalink, *entry.addresses) if address
    }


def _stands_under(entry: Entry, words: tuple[str, ...], store: RecordLookup) -> bool:
    for _level in range(_DEEPEST):
        if entry.parent:
            parent = store.get(Entry, entry.parent)
        else:
            parent = None
        if parent is None:
            return False
        if any(_is_named(parent, word) for word in words):
            return True
        entry = parent
    return False
