"""Whether two objects of two exports are one: by id or address, else by title, date and likeness of the text."""

from __future__ import annotations

import html
import re
import unicodedata
from collections.abc import Iterator
from datetime import timedelta

from newburrow.core import url
from newburrow.model import Author, Comment, Entry, Term

NEAR = timedelta(hours=26)  # one moment in two zones, if an export does not state the zone
LIKE = 80.0  # per cent of likeness of two texts
_COMPARED = 4000  # characters of each text
_TAG = re.compile(r"<!--.*?-->|<[^>]*>", re.DOTALL)


def words_of(entry: Entry) -> Iterator[str]:
    """The words that identify an entry in every export: its lasting identifier and its addresses."""
    if ":" in entry.guid:
        yield f"id {url.key(entry.guid) or entry.guid}"
    for address in (entry.permalink, *entry.addresses):
        if key := url.key(address):
            yield f"id {key}"


def title_word(entry: Entry) -> str:
    """The word that entries with the same title share; empty for an entry without a title."""
    folded = folded_name(entry.title)
    if folded:
        return f"title {folded}"
    return ""


def folded_name(name: str) -> str:
    """A name in lower case, without accents and without separators between its words."""
    bare = unicodedata.normalize("NFKD", html.unescape(name).casefold())
    return "".join(letter for letter in bare if letter.isalnum())


def visible(text: str) -> str:
    """What a reader sees of a text in any markup, roughly: without tags, in words with one space between."""
    return " ".join(html.unescape(_TAG.sub(" ", text)).split())


def likeness(text: str, other: str) -> float:
    """How alike two visible texts are, from 0 to 100.

    Only their beginnings are compared, so that a text and its excerpt are alike; an ellipsis at the end of
    the shorter one does not count.
    """
    from rapidfuzz import fuzz  # heavy: imported where it is used

    short, long = sorted((text[:_COMPARED], other[:_COMPARED]), key=len)
    short = short.removesuffix("…").removesuffix("...").rstrip()
    return fuzz.ratio(short, long[: len(short) + len(short) // 10])


def same_text(entry: Entry, other: Entry) -> bool:
    """Whether two entries with the same title are the same entry."""
    texts = visible(entry.body.text or entry.summary), visible(other.body.text or other.summary)
    dated = entry.published and other.published
    if dated and abs(entry.published - other.published) > NEAR:  # type: ignore[operator]
        return False
    if not all(texts):
        return bool(dated)
    return likeness(*texts) >= LIKE


def same_author(author: Author, other: Author) -> bool:
    """Whether two authors are one: by e-mail address, else by login or name where their addresses do not differ."""
    if author.email and other.email:
        return author.email.casefold() == other.email.casefold()
    if author.login and author.login.casefold() == other.login.casefold():
        return True
    name = folded_name(author.name)
    return bool(name) and name == folded_name(other.name)


def term_words(term: Term, parent: str) -> Iterator[str]:
    """The words that identify a term under this parent."""
    for word in filter(None, (term.slug, term.name)):
        yield f"term {term.vocabulary} {parent} {folded_name(word) or word}"


def comment_word(comment: Comment) -> tuple[str, str]:
    """The author and the words of a comment; two comments on one entry with the same are the same comment."""
    return folded_name(comment.author_name), folded_name(visible(comment.body.text))
