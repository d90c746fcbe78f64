"""Pages of a wiki that become something else than an entry, as was decided: a comment, or the list of a category."""

from __future__ import annotations

from msgspec import Struct

from newburrow.convert import category_page, discussion
from newburrow.convert.context import Context
from newburrow.model import Entry


class Became(Struct, frozen=True):
    """What a page became that is not written by itself."""

    why: str  # the reason in the ledger
    of_parts: str  # the reason of its comments and earlier versions, which stay behind


def became_of(entry: Entry, context: Context) -> Became | None:
    """What an entry becomes instead of one of the new site; None for an entry that is the same on the new site."""
    entry = context.decided(entry)
    talked_of = discussion.subject(entry, context)
    if talked_of:
        return Became(
            f"its text is a comment on “{talked_of.title}” (move.toml, comments.discussion_pages)",
            "its page became a comment",
        )
    category = category_page.category_of(entry, context)
    if category:
        return Became(
            f"its text describes the category “{category.name}” (move.toml, terms.category_pages)",
            "its page became a category",
        )
    return None
