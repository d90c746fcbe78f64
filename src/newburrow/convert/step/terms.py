"""Terms of an entry: under their new names, as many as the new host takes."""

from __future__ import annotations

from msgspec.structs import replace

from newburrow.convert.context import Context
from newburrow.convert.plan import term_pages
from newburrow.core.problem import Problem
from newburrow.model import Term
from newburrow.model.bundle import Bundle


def step(bundle: Bundle, context: Context) -> tuple[Bundle, list[Problem]]:
    """The entry's terms as they are on the new host, each name once, and as many as an entry can have there."""
    entry, found = bundle.entry, dict[tuple[str, str], Term]()
    for key in entry.terms:
        term = context.terms.get(key)
        if term:
            found.setdefault((term.vocabulary, term.name), term)
        elif key in context.pages_of_terms:
            entry = term_pages.filed(entry, key, bundle.new_address, context)
    terms, most = tuple(found.values()), context.host.limits.terms_per_entry or len(found)
    problems = []
    if terms[most:]:
        left = ", ".join(term.name for term in terms[most:])
        problems = [Problem.about(entry, "terms-left", left, most=most)]
    return replace(bundle, entry=entry, terms=terms[:most]), problems
