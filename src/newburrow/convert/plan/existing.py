"""What the new host holds already: the same entry is not made twice, and another one gives way to nothing."""

from __future__ import annotations

from newburrow.convert.context import Context
from newburrow.core import url
from newburrow.core.dates import utc
from newburrow.core.problem import Problem
from newburrow.model import Entry, Media
from newburrow.store.journal.existing_keys import title_key
from newburrow.store.journal.rows import ExistingItem


def same_entry(entry: Entry, new: str, context: Context) -> ExistingItem | None:
    """The entry on the new host that this one is already; None where it is not there.

    One is the same by its lasting identifier, by an old address that the new host knows it by, by its new address and
    its title, or by title and minute. A list of addresses has no titles: there the address decides, with a follow-up.
    """
    journal = context.journal
    if not journal.existing.is_known:
        return None
    guids = (entry.guid, entry.permalink, url.as_iri(entry.guid or entry.permalink or ""))
    for kind, words in (
        ("guid", guids),
        ("old", tuple(map(url.key, filter(None, (entry.permalink, *entry.addresses))))),
        (
            "moment",
            (f"{title_key(entry.title)}\n{utc(entry.published)[:16]}",)
            if entry.title and entry.published
            else (),
        ),
    ):
        for word in words:
            if held_by := journal.existing.get(kind, word):
                return held_by
    held_by = journal.existing.get("entry", url.key(new))
    if held_by and not held_by.title:
        journal.follow_ups.add(Problem.about(entry, "held-by-address", address=held_by.address))
        return held_by
    if held_by and title_key(held_by.title) == title_key(entry.title):
        return held_by
    return None


def is_taken(new: str, slug: str, context: Context) -> bool:
    """Whether another entry that the new host holds already has this address or this slug.

    `new` is an absolute address. Always false if it is not known what the new host holds.
    """
    return context.journal.existing.is_known and (
        context.journal.existing.has("entry", url.key(new))
        or context.journal.existing.has("slug", slug)
    )


def say_same_title(entry: Entry, context: Context) -> None:
    """Report that the new host holds an entry with the same title, which may be the same entry."""
    if entry.title and context.journal.existing.is_known:
        held_by = context.journal.existing.get("title", title_key(entry.title))
    else:
        held_by = None
    if held_by:
        context.journal.follow_ups.add(
            Problem.about(entry, "same-title", other=held_by.address or held_by.title)
        )


def has_file(name: str, media: Media, context: Context) -> str:
    """What the new host holds under the name of a file.

    Gives `same` if the digest is that of the file or is not known, `other` if it differs, and an empty text
    if there is no file of that name.
    """
    held_by = context.journal.existing.get("media", name)
    if held_by is None:
        return ""
    if held_by.title == media.digest or not held_by.title:
        return "same"
    return "other"
