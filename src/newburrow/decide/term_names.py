"""Terms by the words that `terms.csv` names them by, and where that table puts them."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping

from msgspec.structs import replace

from newburrow.decide.decisions import TermChoice
from newburrow.model.term import Term

_PATH = " / "


class TermNames:
    """Terms by the words that the table may name them by."""

    def __init__(self, terms: Iterable[Term]) -> None:
        self.by_key = {term.key: term for term in terms}
        self._names: dict[str, str] = {}
        for term in self.by_key.values():
            self._names.setdefault(term.name.casefold(), term.key)

    def find(self, word: str) -> Term | None:
        """The term with this key or name; None if there is none."""
        return self.by_key.get(word) or self.by_key.get(self._names.get(word.casefold(), ""))

    def path(self, term: Term, name: str, choices: Mapping[str, TermChoice]) -> str:
        """The names from the topmost term down to this one; a circle of parents is cut."""
        names, seen = [name], {term.key}
        above = self.by_key.get(term.parent)
        while above and above.key not in seen:
            seen.add(above.key)
            above, its_name = chosen_term(above, choices.get(above.key, TermChoice()), self)
            names.insert(0, its_name)
            above = self.by_key.get(above.parent)
        return _PATH.join(names)


def chosen_term(term: Term, choice: TermChoice, known: TermNames) -> tuple[Term, str]:
    """The term where `terms.csv` puts it, and its name there.

    The term comes back with its new vocabulary and parent; a term that is merged gets those of the other.
    A parent that is not known, or is the term itself, puts it at the top.
    """
    if choice.action == "merge":
        other = known.find(choice.new_name)
    else:
        other = None
    if other:
        return replace(
            term, vocabulary=choice.new_vocabulary or other.vocabulary, parent=other.parent
        ), other.name
    vocabulary = choice.new_vocabulary or term.vocabulary
    parent = term.parent
    if choice.new_parent:
        above = known.find(choice.new_parent)
        if above and above.key != term.key:
            parent = above.key
        else:
            parent = ""
    if choice.action in ("rename", "merge") and choice.new_name:
        name = choice.new_name
    else:
        name = term.name
    return replace(term, vocabulary=vocabulary, parent=parent), name


def unknown_words(
    choices: dict[str, TermChoice], terms: Iterable[Term]
) -> Iterator[tuple[str, str]]:
    """Words in the table that should name a term and match none: the key of the row, and the word."""
    known = TermNames(terms)
    for key, choice in choices.items():
        for word in (choice.new_name if choice.action == "merge" else "", choice.new_parent):
            if word not in ("", "-") and known.find(word) is None:
                yield key, word
