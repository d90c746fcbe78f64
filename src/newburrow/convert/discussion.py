"""Pages that talk about another page of a wiki: pages of their own, or comments on that page, as was decided."""

from __future__ import annotations

from newburrow.convert.context import Context
from newburrow.dialects.page_name import name_in
from newburrow.markup.base import section_id
from newburrow.model import Author, Comment, Entry


def subject(entry: Entry, context: Context) -> Entry | None:
    """The page that an entry talks about, if such pages become comments; None for any other entry, and for a draft."""
    if context.decisions.comments.discussion_pages != "comments" or entry.status != "published":
        return None
    for dialect in context.dialects:
        name = name_in(dialect.wiki.discussion, entry.title)
        key = context.store.page_names.key(name) if name else ""
        if key and key != entry.key:
            return context.store.get(Entry, key)
    return None


def page_about(entry: Entry, context: Context) -> Entry | None:
    """The page that talks about an entry, if such pages become comments; None where none can be shown to everybody."""
    if context.decisions.comments.discussion_pages != "comments":
        return None
    for dialect in context.dialects:
        pattern = dialect.wiki.discussion
        name = pattern.replace("{name}", entry.title) if pattern else ""
        key = context.store.page_names.key(name) if name else ""
        if key and key != entry.key:
            page = context.store.get(Entry, key)
        else:
            page = None
        talk = context.decided(page) if page else None
        if talk and talk.status == "published" and talk.body.text.strip():
            return talk
    return None


def comment(entry: Entry, talk: Entry, context: Context) -> Comment:
    """What a page says about an entry, as a comment on that."""
    authors = (context.store.get(Author, author) for author in talk.authors)
    return Comment(
        key=f"discussion-{section_id(talk.key)}",
        entry=entry.key,
        author_name=", ".join(author.name for author in authors if author),
        published=talk.updated or talk.published,
        body=talk.body,
        source=talk.source,
    )
