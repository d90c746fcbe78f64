"""The lead picture and the enclosures of an entry."""

from __future__ import annotations

from msgspec.structs import replace

from newburrow.assess.link_map import LinkTarget
from newburrow.convert.context import Context
from newburrow.core.problem import Problem
from newburrow.model import Entry, Media
from newburrow.model.bundle import Bundle


def step(bundle: Bundle, context: Context) -> tuple[Bundle, list[Problem]]:
    """The lead picture and the enclosures as media of the new host."""
    entry = bundle.entry
    if entry.lead_picture:
        lead = _new(entry.lead_picture, entry, context)
    else:
        lead = None
    files = {word: _new(word, entry, context) for word in entry.enclosures}
    for media in (lead, *files.values()):
        if media:
            context.show(media.address)
    problems = [
        Problem.about(entry, "missing-file", file=word)
        for word, file in files.items()
        if file is None
    ]
    if entry.lead_picture and lead is None:
        problems.append(Problem.about(entry, "missing-lead", file=entry.lead_picture))
    return replace(
        bundle, lead_picture=lead, enclosures=tuple(filter(None, files.values()))
    ), problems


def _new(word: str, entry: Entry, context: Context) -> Media | None:
    """The file that an entry names by key or address, as it will be; None for one that goes nowhere."""
    found = context.new_media(word)
    if found is None:
        link = context.links.follow(word, entry.permalink)
        if context.journal.files.key_at(link.address) or (
            link.leads is LinkTarget.ELSEWHERE and "://" in word
        ):
            found = Media(key="", address=link.address)
    return found
