"""Terms: the vocabularies of the old site become those of the new host."""

from __future__ import annotations

from msgspec.structs import replace

from newburrow.convert import category_page, choice
from newburrow.convert.context import Context
from newburrow.convert.plan import term_pages
from newburrow.core.problem import NOWHERE, Problem
from newburrow.decide.decisions import TermChoice
from newburrow.decide.term_names import TermNames, chosen_term
from newburrow.hosts import slugs
from newburrow.model import Term
from newburrow.store.journal.rows import Fate, LedgerRow


def plan(context: Context, used: set[str]) -> None:
    """Decide the name and vocabulary of every term on the new host, and settle all of them.

    `used` are the keys of terms of entries that move; the others are left out. Fills `context.terms`. Terms
    with one name in one vocabulary are merged. Names that lose their parent, and descriptions that the
    host has no place for, are follow-ups.
    """
    # new vocabulary and name -> the first term that has them
    first: dict[tuple[str, str], Term] = {}
    nested: list[str] = []
    known = TermNames(context.store.all(Term))
    tree = context.host.terms.nested
    if tree:
        used = used | _above(used, known, context)
    for term in context.store.all(Term):
        choice = context.term_choices.get(term.key, TermChoice())
        term, name = chosen_term(term, choice, known)
        fate, reason, name = _fate(term, name, choice, used)
        vocabulary = context.vocabulary_for(term.vocabulary)
        if name and term.parent and not tree and context.decisions.terms.nested_names == "path":
            name = known.path(term, name, context.term_choices)
        elif name and term.parent and not tree:
            nested.append(name)
        same = first.get((vocabulary, name))
        if name and same and choice.action != "page":
            fate, reason = (
                Fate.MERGED,
                f"becomes the same {vocabulary} as the {same.vocabulary} {same.name}",
            )
        new = context.new_pages.archives.of_term(name)
        if choice.action == "page" and name:
            new = term_pages.address_of(term, context)
            reason = "became a page (terms.csv)"
        elif name:
            moved = replace(
                term, name=name, vocabulary=vocabulary, parent=term.parent if tree else ""
            )
            _keep(_described(moved, context), first, context)
        was = known.by_key[term.key]
        old = next(context.old_archives.of_term(term), "")
        context.journal.ledger.add(
            LedgerRow("term", term.key, was.vocabulary, fate, reason, was.name, old, new)
        )
    if nested:
        context.journal.follow_ups.add(_no_nesting(nested, context))


def _keep(term: Term, first: dict[tuple[str, str], Term], context: Context) -> None:
    """Take a term into the new site, or let the one stand for it that has its name; that gets its description."""
    if term.description and not context.host.terms.descriptions:
        context.journal.follow_ups.add(_no_description(term))
    same = first.setdefault((term.vocabulary, term.name), term)
    if same is term:
        context.terms[term.key] = _parted(term, context)
        return
    held = context.terms[same.key]
    if term.description and not held.description:
        held = replace(held, description=term.description)
        standing = [key for key, other in context.terms.items() if other.key == held.key]
        context.terms.update(dict.fromkeys(standing, held))
    context.terms[term.key] = held


def _described(term: Term, context: Context) -> Term:
    """The term with the text of the page that is about it, where such pages become terms and it has no own words."""
    page = category_page.page_about(term, context)
    if page is None or term.description or choice.reason_to_leave(page, context):
        return term
    made = category_page.description(page)
    if not made.is_whole:
        context.journal.follow_ups.add(Problem.about(page, "category-text", name=term.name))
    return replace(term, description=made.text)


def _above(used: set[str], known: TermNames, context: Context) -> set[str]:
    """Keys of the terms that those in use are nested in, where `terms.csv` puts them."""
    found = set[str]()
    for key in used:
        while (term := known.by_key.get(key)) and key not in found:
            choice = context.term_choices.get(key, TermChoice())
            key = chosen_term(term, choice, known)[0].parent
            found.add(term.key)
    return found


def _fate(term: Term, name: str, choice: TermChoice, used: set[str]) -> tuple[Fate, str, str]:
    """Fate, reason, and the name; empty for a term that is left out."""
    if choice.action == "drop":
        return Fate.LEFT_OUT, "dropped (terms.csv)", ""
    if term.key not in used:
        return Fate.LEFT_OUT, "no entry that moves has this term", ""
    return Fate.MOVED, "", name


def _parted(term: Term, context: Context) -> Term:
    """A term whose name is a path, under the terms that the path names; those that are not there are made."""
    mark = context.decisions.terms.split_names_at
    if mark:
        parts = [part.strip() for part in term.name.split(mark) if part.strip()]
    else:
        parts = []
    if len(parts) < 2 or not context.host.terms.nested:
        return term
    above = term.parent
    for part in parts[:-1]:
        known = next(
            (
                other
                for other in context.terms.values()
                if (other.vocabulary, other.name, other.parent)
                == (term.vocabulary, part, above)
            ),
            None,
        )
        if known is None:
            key = f"{term.vocabulary}/{slugs.make(part, context.host.slugs) or part}"
            while key in context.terms:
                key += "-1"
            known = Term(
                key=key,
                vocabulary=term.vocabulary,
                slug=key.partition("/")[2],
                name=part,
                parent=above,
            )
            context.terms[key] = known
        above = known.key
    return replace(term, name=parts[-1], parent=above)


def _no_nesting(names: list[str], context: Context) -> Problem:
    shown = ", ".join(names[:5])
    if names[5:]:
        shown += ", …"
    return Problem.at(
        NOWHERE,
        "no-nesting",
        number=len(names),
        names=shown,
        vocabulary=context.host.terms.name,
    )


def _no_description(term: Term) -> Problem:
    return Problem.about(
        term,
        "term-description",
        vocabulary=term.vocabulary,
        name=term.name,
        text=term.description,
    )


def with_new_keys(terms: dict[str, Term]) -> dict[str, Term]:
    """The terms of the new site, by their old keys, with the keys that their vocabularies and slugs make.

    Parents are named by these keys too. Of two terms with one slug in one vocabulary the second gets a number.
    """
    keys, slugs_of, taken = dict[str, str](), dict[str, str](), set[str]()
    for term in terms.values():
        if term.key in keys:
            continue
        slug, number = term.slug or term.name, 1
        while (key := f"{term.vocabulary}/{slug}") in taken:
            number += 1
            slug = f"{term.slug or term.name}-{number}"
        taken.add(key)
        keys[term.key], slugs_of[term.key] = key, slug
    above = {old: keys[term.key] for old, term in terms.items()}
    return {
        old: replace(
            term,
            key=keys[term.key],
            slug=slugs_of[term.key],
            parent=above.get(term.parent, ""),
        )
        for old, term in terms.items()
    }


def made_by_rules(context: Context) -> dict[str, Term]:
    """Terms that only the rules name, in the new host's vocabularies."""
    return {
        key: replace(term, vocabulary=context.vocabulary_for(term.vocabulary))
        for key, term in context.rules.new_terms.items()
    }
