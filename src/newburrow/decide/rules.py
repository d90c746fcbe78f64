"""Rules of `move.toml`: what an entry becomes where a condition holds, before anything else is decided of it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable, Iterator, Sequence
from datetime import datetime

from msgspec.structs import replace

from newburrow.core.problem import NOWHERE, Problem
from newburrow.decide.conditions import Test, author_named, compiled
from newburrow.decide.decisions import Change, Rule
from newburrow.model.entry import Entry
from newburrow.model.lookup import RecordLookup
from newburrow.model.term import Term


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

    def changed(self, entry: Entry) -> tuple[Entry, list[int]]:
        """The entry as the rules make it, and which of them touched it."""
        touched = []
        for number, (test, rule) in enumerate(self.rules):
            if test(entry):
                entry = self._set(entry, rule.set)
                touched.append(number)
        return entry, touched

    def count(self, touched: Iterable[int]) -> None:
        """Count that rules touched an entry; the terms that they name are made."""
        for number in touched:
            self.touched[number] += 1
            for word in (
                self.rules[number][1].set.add_terms if self.touched[number] == 1 else ()
            ):
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


def _words(term: Term) -> tuple[str, ...]:
    """What a rule may call a term, in lower case."""
    return tuple(
        word.casefold()
        for word in (term.name, term.slug, f"{term.vocabulary}/{term.name}", term.key)
        if word
    )
