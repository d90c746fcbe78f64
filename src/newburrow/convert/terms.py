"""Terms: the vocabularies of the old site become those of the new host."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from msgspec.structs import replace

from newburrow.convert.context import Context
from newburrow.convert.decisions import TermChoice
from newburrow.journal import Fate, Settled
from newburrow.model import Bundle, Term
from newburrow.problem import Problem, Severity


def plan(context: Context, used: set[str]) -> None:
    """Decide every term's name on the new host, and settle all of them."""
    first: dict[tuple[str, str], Term] = {}  # new vocabulary and name -> the first term that has them
    nested: list[str] = []
    known = _Known(context.store.all(Term))
    for term in context.store.all(Term):
        choice = context.term_choices.get(term.key, TermChoice())
        term, name = _chosen(term, choice, known)
        fate, reason = Fate.MOVED, ""
        if choice.action == "drop":
            fate, reason, name = Fate.LEFT_OUT, "dropped (terms.csv)", ""
        elif term.key not in used:
            fate, reason, name = Fate.LEFT_OUT, "no entry that moves is filed under it", ""
        vocabulary = context.host.vocabulary_for(term.vocabulary)
        same = first.get((vocabulary, name))
        if name and same:
            fate, reason = Fate.MERGED, f"becomes the same {vocabulary} as the {same.vocabulary} {same.name}"
        if name:
            first.setdefault((vocabulary, name), term)
            parent = term.parent if context.host.terms.nested else ""
            context.terms[term.key] = replace(term, name=name, vocabulary=vocabulary, parent=parent)
        nested += [name] if name and term.parent and not context.host.terms.nested else []
        context.journal.settle(
            Settled(
                "term",
                term.key,
                known.by_key[term.key].vocabulary,
                fate,
                reason,
                known.by_key[term.key].name,
                next(context.old_archives.of_term(term), ""),
                context.new_archives.of_term(name),
            )
        )
        if name and term.description and not context.host.terms.descriptions:
            context.journal.follow_up(_no_description(term))

    if nested:
        context.journal.follow_up(
            Problem(
                Severity.INFO,
                "no-nesting",
                f"{len(nested):,} terms stood under others ({', '.join(nested[:5])}{', …' if nested[5:] else ''}); the "
                f"new host does not nest its {context.host.terms.name}s, so each goes by its own name alone.",
                "Nothing to do, unless a name says too little by itself: rename it in terms.csv.",
            )
        )


def _no_description(term: Term) -> Problem:
    return Problem(
        Severity.INFO,
        "term-description",
        f"The new host has no place for the description of the {term.vocabulary} {term.name}: “{term.description}”",
        "Put it on a page of the new site, if it should be read there.",
        term.source,
        "term",
        term.key,
    )


class _Known:
    """Terms by the words that the table may name them by."""

    def __init__(self, terms: Iterable[Term]) -> None:
        self.by_key = {term.key: term for term in terms}
        self._names: dict[str, str] = {}
        for term in self.by_key.values():
            self._names.setdefault(term.name.casefold(), term.key)

    def find(self, word: str) -> Term | None:
        """The term of a key or a name."""
        return self.by_key.get(word) or self.by_key.get(self._names.get(word.casefold(), ""))


def _chosen(term: Term, choice: TermChoice, known: _Known) -> tuple[Term, str]:
    """The term where the table puts it, and its name there."""
    other = known.find(choice.new_name) if choice.action == "merge" else None
    if other:
        return replace(term, vocabulary=choice.new_vocabulary or other.vocabulary, parent=other.parent), other.name
    vocabulary = choice.new_vocabulary or term.vocabulary
    parent = term.parent
    if choice.new_parent:
        above = known.find(choice.new_parent)
        parent = above.key if above and above.key != term.key else ""
    name = choice.new_name if choice.action in ("rename", "merge") and choice.new_name else term.name
    return replace(term, vocabulary=vocabulary, parent=parent), name


def unknown_words(choices: dict[str, TermChoice], terms: Iterable[Term]) -> Iterator[tuple[str, str]]:
    """Words by which the table names terms that the export has not: the key of the row, and the word."""
    known = _Known(terms)
    for key, choice in choices.items():
        for word in (choice.new_name if choice.action == "merge" else "", choice.new_parent):
            if word not in ("", "-") and known.find(word) is None:
                yield key, word


def made_by_rules(context: Context) -> dict[str, Term]:
    """Terms that only rules name, as they are on the new host."""
    return {
        key: replace(term, vocabulary=context.host.vocabulary_for(term.vocabulary))
        for key, term in context.rules.new_terms.items()
    }


def step(bundle: Bundle, context: Context) -> tuple[Bundle, list[Problem]]:
    """The entry's terms as they are on the new host, each name once."""
    found: dict[tuple[str, str], Term] = {}
    for key in bundle.entry.terms:
        term = context.terms.get(key)
        if term:
            found.setdefault((term.vocabulary, term.name), term)
    return replace(bundle, terms=tuple(found.values())), []
