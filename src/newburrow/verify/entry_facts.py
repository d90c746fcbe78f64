"""The facts of an entry beside its body: as it was handed over, and as it is in the result."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import datetime

from newburrow.core import url
from newburrow.core.dates import utc
from newburrow.model import Author, Entry, Media, Quiz, QuizSection, Term
from newburrow.model.bundle import Above, Bundle
from newburrow.store.content_store import Store

Facts = dict[str, str]  # what it is called -> its value as text


def handed(bundle: Bundle, parent: Above) -> Facts:
    """The facts of an entry as it was handed over; `parent` is the one that it is under, with empty texts if none."""
    lead = ""
    if bundle.lead_picture:
        lead = url.key(bundle.lead_picture.address)
    return {
        **_own(bundle.entry),
        "address": url.key(bundle.new_address),
        "parent": url.key(parent.address),
        "authors": ", ".join(author.name for author in bundle.authors),
        "terms": _terms(bundle.terms),
        "lead picture": lead,
        "enclosures": " ".join(sorted(url.key(file.address) for file in bundle.enclosures)),
    }


def found(entry: Entry, store: Store, expected: Above) -> Facts:
    """The facts of an entry of the result.

    A parent without an address, as a package has them, is known as the expected one by its title.
    """
    authors = (store.get(Author, key) for key in entry.authors)
    terms = (store.get(Term, key) for key in entry.terms)
    files = (_file_address(word, store) for word in entry.enclosures)
    parent = store.get(Entry, entry.parent)
    return {
        **_own(entry),
        "address": url.key(entry.permalink),
        "parent": _parent(entry, parent, store, expected),
        "authors": ", ".join(author.name for author in authors if author),
        "terms": _terms(term for term in terms if term),
        "lead picture": url.key(_file_address(entry.lead_picture, store)),
        "enclosures": " ".join(sorted(map(url.key, files))),
    }


def _own(entry: Entry) -> Facts:
    """The facts that an entry holds itself."""
    return {
        "title": " ".join(entry.title.split()),
        "kind": entry.kind,
        "state": entry.status,
        "published": utc(entry.published),
        "updated": utc(entry.updated),
        "language": entry.language,
        "summary": " ".join(entry.summary.split()),
        **{f"field {name}": value for name, value in sorted(entry.fields.items())},
        **{f"quiz: {name}": value for name, value in _quiz(entry.quiz)},
    }


def _parent(entry: Entry, parent: Entry | None, store: Store, expected: Above) -> str:
    if parent is None:
        return ""
    if parent.permalink:
        return url.key(parent.permalink)
    if parent.title == expected.title:
        return url.key(expected.address)
    if parent.title == entry.title:
        # a package puts a page that has others under it into a module of its name
        return _parent(entry, store.get(Entry, parent.parent), store, expected)
    return parent.title


def _file_address(word: str, store: Store) -> str:
    """The address of a file that is named by its key, or by its address if it lies elsewhere."""
    media = store.get(Media, word)
    if media is None:
        return word
    return media.address


def _terms(terms: object) -> str:
    names = {f"{term.name} ({term.vocabulary})" for term in terms}  # type: ignore[attr-defined]
    return ", ".join(sorted(names))


def _quiz(quiz: Quiz | None) -> Iterator[tuple[str, str]]:
    """The settings of a quiz: those that are not as in every quiz, then its sections."""
    if quiz is None:
        return
    for name in Quiz.__struct_fields__:
        value = getattr(quiz, name)
        if name == "sections":
            yield "sections", "; ".join(map(_section, value))
            yield "section titles", "; ".join(section.title for section in value)
        elif isinstance(value, datetime):
            yield name, utc(value)
        elif value is None:
            yield name, ""
        else:
            yield name, str(value)


def _section(section: QuizSection) -> str:
    """How a section chooses its questions; empty for one that has them all as they are."""
    if not (section.draw or section.bank or section.shuffle or section.points_each):
        return ""
    facts = {
        "drawn": section.draw,
        "from a bank": bool(section.bank),
        "shuffled": section.shuffle,
        "points each": section.points_each,
    }
    return ", ".join(f"{name} {value}" for name, value in facts.items())
