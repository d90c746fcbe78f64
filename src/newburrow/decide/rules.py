"""Rules of `move.toml`: what an entry becomes where a condition holds, before anything else is decided of it."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Callable, Iterable, Iterator, Sequence
from datetime import datetime

from msgspec import Struct
from msgspec.structs import replace

from newburrow.core.problem import NOWHERE, Problem
from newburrow.decide.conditions import Test, author_named, compiled
from newburrow.decide.decisions import Change, Rule
from newburrow.model.entry import Entry
from newburrow.model.lookup import RecordLookup
from newburrow.model.term import Term

_PLACE = re.compile(
    r"\{\{|\}\}|\{([^{}]+)\}"
)  # of a value; a brace of the text is written twice


class Ruled(Struct, frozen=True):
    """What rules have made of an entry."""

    entry: Entry
    touched: list[int]  # rules, by number
    words: list[str]  # for the terms that they add


class Rules:
    """The rules of a move, ready to be used. They are used in their order, each on what the ones before have made."""

    def __init__(
        self, rules: Sequence[Rule], store: RecordLookup, local: Callable[[datetime], datetime]
    ) -> None:
        self.store = store
        self.rules: list[tuple[Test, Rule]] = [
            (compiled(rule.when, store, local), rule) for rule in rules
        ]
        self.touched: Counter[int] = Counter()
        self.new_terms: dict[str, Term] = {}  # that rules name and the export has not
        self._keys: dict[str, str] = {}  # word for a term, in lower case -> its key
        for term in store.all(Term) if self.rules else ():
            for word in _words(term):
                self._keys.setdefault(word, term.key)

    def changed(self, entry: Entry) -> Ruled:
        """The entry as the rules make it."""
        touched, words = list[int](), list[str]()
        for number, (test, rule) in enumerate(self.rules):
            if test(entry):
                change = filled(rule.set, entry)
                entry = self._set(entry, change)
                touched.append(number)
                words += change.add_terms
        return Ruled(entry, touched, words)

    def count(self, touched: Iterable[int], words: Iterable[str]) -> None:
        """Count that rules touched an entry; the terms that they name are made."""
        self.touched.update(touched)
        for word in words:
            self._term(word)

    def _set(self, entry: Entry, change: Change) -> Entry:
        changes: dict[str, object] = {}
        if change.kind:
            changes["kind"] = change.kind
        if change.state:
            changes["status"] = change.state
        if change.title:
            changes["title"] = change.title
        if change.author and (author := author_named(change.author, self.store)):
            changes["authors"] = (author.key,)
        if change.add_terms or change.drop_terms:
            dropped = {self._keys.get(word.casefold(), word) for word in change.drop_terms}
            remaining = [key for key in entry.terms if key not in dropped]
            changes["terms"] = tuple(
                dict.fromkeys((*remaining, *map(self._term, change.add_terms)))
            )
        if change.fields:
            fields = {**entry.fields, **change.fields}
            changes["fields"] = {name: value for name, value in fields.items() if value}
        return replace(entry, **changes)

    def _term(self, word: str) -> str:
        """The key of a term that a rule names; one that the export has not is made."""
        known = self._keys.get(word.casefold())
        if known:
            return known
        vocabulary, slash, name = word.partition("/")
        if slash:
            vocabulary, name = (vocabulary, name)
        else:
            vocabulary, name = ("tag", word)
        key = f"{vocabulary}/{name}"
        self.new_terms.setdefault(
            key, Term(key=key, vocabulary=vocabulary, slug=name, name=name)
        )
        return key

    def problems(self) -> Iterator[Problem]:
        """How many entries each rule touched; one that touched none is a warning."""
        for number, (_test, rule) in enumerate(self.rules):
            name = f"Rule {number + 1}" + (f" ({rule.about})" if rule.about else "")
            touched = self.touched[number]
            if touched:
                if touched == 1:
                    many = "entry"
                else:
                    many = "entries"
                yield Problem.at(NOWHERE, "rule", message=f"{name} changed {touched:,} {many}.")
            else:
                yield Problem.at(NOWHERE, "rule-unused", rule=name)


def filled(change: Change, entry: Entry) -> Change:
    """A change with the values of an entry in the places that name a field: `{soil}`, `{entry.title}`.

    What names a field that the entry lacks is not set.
    """
    return replace(
        change,
        title=_filled(change.title, entry) or "",
        add_terms=tuple(word for text in change.add_terms if (word := _filled(text, entry))),
        fields={
            name: value
            for name, text in change.fields.items()
            if (value := _filled(text, entry)) is not None
        },
    )


def names_in(text: str) -> list[str]:
    """The fields that a text of a rule names."""
    return [found[1].strip() for found in _PLACE.finditer(text) if found[1]]


def _filled(text: str, entry: Entry) -> str | None:
    """A text with its places filled; None where the entry lacks one of the values."""
    values = {name: _value(name, entry) for name in names_in(text)}
    if not all(values.values()):
        return None
    return _PLACE.sub(
        lambda found: values[found[1].strip()] if found[1] else found[0][0], text
    ).strip()


def _value(name: str, entry: Entry) -> str:
    if name.startswith("entry."):
        return str(getattr(entry, name.removeprefix("entry."), "")).strip()
    return entry.fields.get(name, "").strip()


def _words(term: Term) -> tuple[str, ...]:
    """What a rule may call a term, in lower case."""
    return tuple(
        word.casefold()
        for word in (term.name, term.slug, f"{term.vocabulary}/{term.name}", term.key)
        if word
    )
