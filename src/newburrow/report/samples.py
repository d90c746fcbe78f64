"""Entries worth a look, old beside new: each thing that was changed, the longest, each kind, and some by chance."""

from __future__ import annotations

import json
from collections.abc import Iterator, Sequence
from pathlib import Path

from msgspec import Struct

from newburrow.core.entry_codes import BODY_CODES
from newburrow.dialects.schema import Dialect
from newburrow.model import Entry
from newburrow.report.pictures import Pictures
from newburrow.report.preview import page
from newburrow.store.content_store import Store
from newburrow.store.journal.handed_over import HandedOver
from newburrow.store.journal.journal import Journal
from newburrow.store.journal.kept_journal import KeptJournal
from newburrow.verify.bodies import SiteBodies

MOST = 14
_PICTURES, _PICTURE_BYTES = 3, 60_000  # of one sample; the page has to open from a mail
_LONGEST = 20_000  # characters of a text that are shown
_BY_CHANCE = 3


class SampleSource(Struct, frozen=True):
    """What samples are made from: the old site, what was handed to the writer, and what was noted of both."""

    store: Store
    dialects: Sequence[Dialect]
    journal: Journal | KeptJournal
    handed: HandedOver
    folder: Path  # the move folder, in which pictures are looked for


def chosen(source: SampleSource, low: Sequence[tuple[str, str]]) -> Iterator[tuple[str, str]]:
    """Keys of entries, each once, with why they are worth a look.

    `low` are those that are known to have lost most, with the same; they come first.
    """
    seen, handed = set[str](), source.handed
    candidates = [
        *low,
        *source.journal.follow_ups.first_of_each("entry", tuple(BODY_CODES)),
        *((key, "the longest text") for key in handed.longest(1)),
        *((key, f"a {kind}") for kind, key in handed.first_of_each_kind()),
        *((key, "by chance") for key in handed.by_chance(_BY_CHANCE)),
    ]
    for key, why in candidates:
        if key not in seen and len(seen) < MOST:
            seen.add(key)
            yield key, why


def as_json(source: SampleSource, low: Sequence[tuple[str, str]] = ()) -> str:
    """The samples as one JSON array, without any `<`.

    Each is an object with title, why it was chosen, old and new address, and a page for a sandboxed frame of either.
    `low` are as in `chosen`.
    """
    bodies = SiteBodies(source.store, source.dialects)
    journal = source.journal
    pictures = Pictures(journal.urls, journal.files, source.handed, source.folder)
    made = []
    for key, why in chosen(source, low):
        old, new = source.store.get(Entry, key), source.handed.entry(key)
        if old is None or new is None:
            continue
        sides = {
            name: page(
                bodies.html(body, address)[:_LONGEST],
                name,
                pictures.on(address, _PICTURES, _PICTURE_BYTES),
            )
            for name, body, address in (
                ("old page", old.body, old.permalink),
                ("new page", new.entry.body, new.new_address),
            )
        }
        facts = {
            "title": new.entry.title or old.slug,
            "why": why,
            "old": old.permalink,
            "new": new.new_address,
        }
        made.append(facts | sides)
    return json.dumps(made, ensure_ascii=False).replace("<", "\\u003c")
