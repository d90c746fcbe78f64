"""Texts that most pages share: they are rather the layout of the old site than what its pages say."""

from __future__ import annotations

import html
import re
from collections import Counter

from newburrow.model import Entry
from newburrow.store.content_store import Store

_SAMPLE = 40  # pages
_FEWEST = 8  # that tell anything
_SHARE = 0.7  # of the pages must have a text: lists of a search can lie among them
_LEAST_WORDS = 3  # of a text: headings such as "See also" are usual
_LONGEST = 400_000  # characters of a body that is looked at
_SHOWN = 60  # characters of an example
_TAG = re.compile(r"<[^>]*>")


def shared_by_pages(store: Store) -> list[str]:
    """The beginnings of the texts that most of a sample of pages have, in their order on a page."""
    bodies = _sample(store)
    if len(bodies) < _FEWEST:
        return []
    pages = Counter[str]()
    for body in bodies:
        pages.update(set(_texts(body)))
    least = _SHARE * len(bodies)
    usual = dict.fromkeys(
        text for body in bodies for text in _texts(body) if pages[text] >= least
    )
    return [text[:_SHOWN] for text in usual]


def _sample(store: Store) -> list[str]:
    """The bodies of some pages from all places of the store."""
    step = max(1, store.count(Entry) // _SAMPLE)
    found = []
    for number in range(_SAMPLE):
        for _seq, entry in store.numbered(Entry, number * step, number * step + 1):
            if entry.body.markup == "html" and entry.body.text:
                found.append(entry.body.text[:_LONGEST])
    return found


def _texts(body: str) -> list[str]:
    """The texts between the tags of a body, with single spaces."""
    pieces = (" ".join(html.unescape(piece).split()) for piece in _TAG.split(body))
    return [piece for piece in pieces if piece.count(" ") >= _LEAST_WORDS - 1]
