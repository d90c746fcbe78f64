"""The keys that tell whether the new host holds something already."""

from __future__ import annotations

import hashlib
import html
import re

from newburrow.core import url
from newburrow.core.dates import utc
from newburrow.model.comment import Comment

_TAG = re.compile(r"<[^>]*>")


def title_key(title: str) -> str:
    """A title as titles are compared."""
    return " ".join(title.casefold().split())


def comment_key(comment: Comment, entry_address: str) -> str:
    """The key by which a comment is recognised on the new host (hexadecimal SHA-256).

    Made of the entry's address, the author's name, the minute, and the first 200 letters of the text without
    markup, since hosts write the same words in different markup.
    """
    when = utc(comment.published)[:16]
    # hosts write the same words in different markup
    shown = html.unescape(_TAG.sub(" ", comment.body.text))
    letters = "".join(filter(str.isalnum, shown.casefold()))[:200]
    words = "\n".join((url.key(entry_address), comment.author_name.casefold(), when, letters))
    return hashlib.sha256(words.encode("utf-8", "replace")).hexdigest()
