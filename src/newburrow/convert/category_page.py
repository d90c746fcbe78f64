"""Pages of a wiki that are about a category: pages like others, or one with the category's list, as was decided."""

from __future__ import annotations

from msgspec import Struct

from newburrow.convert.context import Context
from newburrow.core import plugins
from newburrow.decide.decisions import TermChoice
from newburrow.dialects.page_name import name_in
from newburrow.formats.exports.category_pages import VOCABULARY
from newburrow.markup.base import Unreadable
from newburrow.markup.html import Fragment, TooDeep
from newburrow.markup.plain_text import MARKUP as PLAIN
from newburrow.model import Entry, Term
from newburrow.model.keys import marked, scope_of

# What a description, which is plain text, cannot show.
_MORE_THAN_WORDS = "a[href], img, table, ul, ol, pre, h1, h2, h3, h4, h5, h6"


class Description(Struct, frozen=True):
    """The text of a page as the description of a category."""

    text: str
    is_whole: (
        bool  # False: it had links, pictures, lists or tables, which no description can show
    )


def category_of(entry: Entry, context: Context) -> Term | None:
    """The category that a page is about, if such pages become one with its list on the new host; else None.

    A draft or private page stays a page: everybody can read a description.
    """
    if context.decisions.terms.category_pages != "terms" or entry.status != "published":
        return None
    for dialect in context.dialects:
        name = name_in(dialect.wiki.category, entry.title)
        if name:
            key = marked(scope_of(entry.key), f"{VOCABULARY}/{name}")
            term = context.store.get(Term, key)
            if term and list_address(term, context):
                return term
            return None
    return None


def list_address(term: Term, context: Context) -> str:
    """The address of a category's list on the new host.

    Empty where it has none, where terms.csv says something else, and where a term that nothing is filed under
    has no place.
    """
    if not context.host.terms.descriptions:
        return ""
    decided = context.term_choices.get(term.key, TermChoice())
    if decided.action in ("drop", "page"):
        return ""
    name = decided.new_name or term.name
    other = context.store.get(Term, name)  # one to merge with can be named by its key
    return context.new_pages.archives.of_term(other.name if other else name)


def page_about(term: Term, context: Context) -> Entry | None:
    """The page whose text describes a category, if it moves; None where no page is about it, or it stays a page.

    The term may be as it will be on the new host.
    """
    read = context.store.get(Term, term.key)
    if context.decisions.terms.category_pages != "terms" or read is None:
        return None
    for dialect in context.dialects:
        name = dialect.wiki.category.replace("{name}", read.name)
        key = context.store.page_names.key(name) if name else ""
        page = context.store.get(Entry, key) if key else None
        page = context.decided(page) if page else None
        if page and category_of(page, context) == read:
            return page
    return None


def description(page: Entry) -> Description:
    """What the text of a page is as a description, which is plain text."""
    try:
        html = plugins.get(plugins.MARKUPS, page.body.markup).to_html(page.body.text)
        is_whole = not Fragment(html).select(_MORE_THAN_WORDS)
    except (TooDeep, Unreadable):
        html, is_whole = PLAIN.to_html(page.body.text), False
    # Readers of a description may take it for HTML, in which no text may begin an element.
    return Description(PLAIN.from_html(html).strip().replace("<", "&lt;"), is_whole)
