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
    there = _CommentsLeft(found)
    pairs: list[tuple[Comment, int]] = []
    for comment in handed:
        place = there.take(comment)
        if place is None:
            yield Difference("comment", label(comment), address, "missing", "a comment", "")
        else:
            pairs.append((comment, place))
    for place in sorted(there.left):
        yield Difference("comment", label(found[place]), address, "added", "", "a comment")
    names_before = {comment.key: label(comment) for comment, _place in pairs}
    names_after = {found[place].key: label(comment) for comment, place in pairs}
    for comment, place in pairs:
        match = found[place]
        before, after = _facts(comment, names_before), _facts(match, names_after)
        if comment.body != match.body:
            before["words"], after["words"] = words(comment.body), words(match.body)
        for fact, value in before.items():
            if value != after[fact]:
                yield Difference("comment", label(comment), address, fact, value, after[fact])
    places = [place for _comment, place in pairs]
    if places != sorted(places):
        yield Difference("entry", "", address, _ORDER, "as it was", "another one")


def label(comment: Comment) -> str:
    """A comment as a person finds it: who wrote it, and when."""
    when = "no date"
    if comment.published:
        when = f"{comment.published:%Y-%m-%d %H:%M}"
    return f"{comment.author_name or 'anonymous'}, {when}"


class _CommentsLeft:
    """The comments of an entry of the result, to be taken one by one."""

    def __init__(self, comments: Sequence[Comment]) -> None:
        self.left = set(range(len(comments)))
        self._by_sign: dict[str, list[int]] = {}
        for place, comment in reversed(list(enumerate(comments))):
            for sign in _signs(comment):
                self._by_sign.setdefault(sign, []).append(place)

    def take(self, comment: Comment) -> int | None:
        """The place of the comment with the key, else of the person and moment, else of the person if undated."""
        signs = _signs(comment)
        if comment.published:
            signs = signs[:2]
        for sign in signs:
            places = self._by_sign.get(sign, [])
            while places:
                place = places.pop()
                if place in self.left:
                    self.left.remove(place)
                    return place
        return None


def _signs(comment: Comment) -> tuple[str, ...]:
    """What a comment is known by, the surest first."""
    return f"key {bare(comment.key)}", f"label {label(comment)}", f"name {comment.author_name}"


def _facts(comment: Comment, names: dict[str, str]) -> dict[str, str]:
    return {
        "author": comment.author_name,
        "email": comment.email,
        "address": comment.address,
        "published": utc(comment.published),
        "state": comment.status,
        "kind": comment.kind,
        "parent": names.get(comment.parent, ""),
    }
