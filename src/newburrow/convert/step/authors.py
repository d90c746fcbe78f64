"""Authors of an entry: as many as the new host takes, under their new names."""

from __future__ import annotations

from msgspec.structs import replace

from newburrow.convert.context import Context
from newburrow.core.problem import Problem
from newburrow.decide.conditions import author_named
from newburrow.model import Author
from newburrow.model.bundle import Bundle


def step(bundle: Bundle, context: Context) -> tuple[Bundle, list[Problem]]:
    """The entry's authors as they are on the new host, as many as an entry can have there."""
    entry = bundle.entry
    found = {
        author.name: author for key in entry.authors if (author := context.authors.get(key))
    }
    unsigned = context.decisions.authors.of_unsigned
    if not found and unsigned:
        found[unsigned] = _of_unsigned(unsigned, context)
    if not found:
        return bundle, [Problem.about(entry, "no-author")]
    names, most = list(found), context.host.authors.most or len(found)
    problems = []
    if names[most:]:
        problems = [Problem.about(entry, "authors-left", ", ".join(names[most:]), most=most)]
    return replace(bundle, authors=tuple(found.values())[:most]), problems


def _of_unsigned(name: str, context: Context) -> Author:
    known = author_named(name, context.store)
    return (context.authors.get(known.key) if known else None) or Author(key=name, name=name)
