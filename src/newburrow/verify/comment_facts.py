"""The comments of an entry: as they were handed over, and as they are in the result."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence

from newburrow.core.dates import utc
from newburrow.model import Body, Comment
from newburrow.model.keys import bare
from newburrow.verify.difference import Difference

Words = Callable[[Body], str]  # gives the words of a body, with the addresses of its links

_ORDER = "order of comments"


def differences(
    handed: Sequence[Comment], found: Sequence[Comment], words: Words, address: str
) -> Iterator[Difference]:
    """What differs between the comments that an entry at an address was handed over with and those in the result."""
    left = list(found)
    names = _names(handed), _names(found)
    places = []
    for comment in handed:
        match = _match(comment, left)
        if match is None:
            yield Difference("comment", label(comment), address, "missing", "a comment", "")
            continue
        places.append(found.index(match))
        left.remove(match)
        before, after = (
            _facts(one, called, words)
            for one, called in zip((comment, match), names, strict=True)
        )
        for fact, value in before.items():
            if value != after[fact]:
                yield Difference("comment", label(comment), address, fact, value, after[fact])
    for comment in left:
        yield Difference("comment", label(comment), address, "added", "", "a comment")
    if places != sorted(places):
        yield Difference("entry", "", address, _ORDER, "as it was", "another one")


def label(comment: Comment) -> str:
    """A comment as a person finds it: who wrote it, and when."""
    when = f"{comment.published:%Y-%m-%d %H:%M}" if comment.published else "no date"
    return f"{comment.author_name or 'anonymous'}, {when}"


def _match(comment: Comment, left: Sequence[Comment]) -> Comment | None:
    """The comment of the same key, else of the same person and moment."""
    same_key = (other for other in left if bare(other.key) == bare(comment.key))
    same_label = (other for other in left if label(other) == label(comment))
    return next(same_key, None) or next(same_label, None)


def _names(comments: Sequence[Comment]) -> dict[str, str]:
    """What the comments are called by those that answer them, by key."""
    return {comment.key: label(comment) for comment in comments}


def _facts(comment: Comment, names: dict[str, str], words: Words) -> dict[str, str]:
    return {
        "author": comment.author_name,
        "email": comment.email,
        "address": comment.address,
        "published": utc(comment.published),
        "state": comment.status,
        "kind": comment.kind,
        "parent": names.get(comment.parent, ""),
        "words": words(comment.body),
    }
