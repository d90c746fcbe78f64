"""The links of each entry, for the walk through the site before the move and after it."""

from __future__ import annotations

from newburrow.assess.body_scan import LINKS, things
from newburrow.assess.link_map import LinkTarget
from newburrow.convert.context import Context
from newburrow.core import plugins
from newburrow.markup.base import Markup, Unreadable
from newburrow.markup.html import TooDeep
from newburrow.model import Entry
from newburrow.store.journal.reader import JournalNotes
from newburrow.store.journal.walk import GONE, MOVED, UNKNOWN, WalkedLink

_LEADS = {LinkTarget.MOVED: MOVED, LinkTarget.GONE: GONE, LinkTarget.UNKNOWN: UNKNOWN}


def links_of_moved(entry: Entry, notes: JournalNotes) -> list[WalkedLink]:
    """The links of an entry that moves, as its conversion has noted them."""
    shown = [WalkedLink(entry.key, new, MOVED) for new in dict.fromkeys(notes.shown)]
    lost = [WalkedLink(entry.key, old, leads) for old, leads in dict.fromkeys(notes.lost)]
    return [*shown, *lost]


def links_of_left_out(entry: Entry, context: Context) -> list[WalkedLink]:
    """The links of an entry that does not move: visitors of the old site could follow them."""
    if "<" not in entry.body.text and entry.body.markup == "html":
        return []
    markup: Markup = plugins.get(plugins.MARKUPS, entry.body.markup)
    try:
        text = markup.to_html(entry.body.text, context.named_links.at(entry.permalink))
        found = [value for tag, value in things(text) if tag in LINKS]
    except (TooDeep, Unreadable):
        return []
    base = entry.body.base or entry.permalink
    links = (context.links.follow(value, base) for value in dict.fromkeys(found))
    return [
        WalkedLink(
            entry.key, link.old if link.leads is not LinkTarget.MOVED else link.address, leads
        )
        for link in links
        if (leads := _LEADS.get(link.leads))
    ]
