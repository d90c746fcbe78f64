"""How much of a body is there after a move: word by word in order, and part by part."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

from msgspec import Struct
from rapidfuzz.distance import LCSseq

from newburrow.verify.body_facts import ASPECTS, LINKS, WORDS, BodyFacts

# Products of lengths above which words are counted without their order: that would take minutes.
_MOST = 4_000_000_000
_SHOWN = 8  # words of an excerpt
_LONGEST_PART = 80  # characters of a part in an excerpt


class Kept(Struct, frozen=True):
    """How much of one aspect is there."""

    of: int  # how many there were
    kept: int
    added: int  # how many are there that were not

    def __add__(self, other: Kept) -> Kept:
        """Of two texts together."""
        return Kept(self.of + other.of, self.kept + other.kept, self.added + other.added)


class Fidelity(Struct, frozen=True):
    """How much of a body is there, by aspect; those of which there is nothing are left out."""

    aspects: dict[str, Kept]

    @property
    def of(self) -> int:
        """How many words and parts there were."""
        return sum(kept.of for kept in self.aspects.values())

    @property
    def kept(self) -> int:
        """How many of them are there."""
        return sum(kept.kept for kept in self.aspects.values())

    @property
    def figure(self) -> float:
        """The share that is there, from 0 to 1; 1 where there was nothing."""
        if not self.of:
            return 1.0
        return self.kept / self.of

    @property
    def changed(self) -> list[str]:
        """The aspects that are not as they were."""
        return [
            aspect for aspect, kept in self.aspects.items() if kept.kept < kept.of or kept.added
        ]


def compare(before: BodyFacts, after: BodyFacts) -> Fidelity:
    """How much of one body is in the other."""
    aspects = {}
    for aspect in ASPECTS:
        old, new = before.of(aspect), after.of(aspect)
        if old or new:
            same = shared(old, new)
            added = len(new) - same
            if aspect == LINKS and added and before.bare:
                added = max(0, added - _made_of_words(old, new, before.bare))
            aspects[aspect] = Kept(len(old), same, added)
    return Fidelity(aspects)


def _made_of_words(old: list[str], new: list[str], bare: list[str]) -> int:
    """How many of the new links the host made of addresses in the text."""
    return ((Counter(new) - Counter(old)) & Counter(bare)).total()


def shared(old: Sequence[str], new: Sequence[str]) -> int:
    """How many elements two sequences have in common, in the same order.

    Of two that are very long and differ a lot, the order does not count.
    """
    if old == new:
        return len(old)
    start = _common_start(old, new)
    end = _common_start(old[start:][::-1], new[start:][::-1])
    old, new = old[start : len(old) - end], new[start : len(new) - end]
    if not old or not new:
        return start + end
    if len(old) * len(new) > _MOST:
        return start + end + (Counter(old) & Counter(new)).total()
    return start + end + int(LCSseq.similarity(old, new))


def _common_start(old: Sequence[str], new: Sequence[str]) -> int:
    number = 0
    for one, other in zip(old, new, strict=False):
        if one != other:
            break
        number += 1
    return number


def excerpt(aspect: str, old: Sequence[str], new: Sequence[str]) -> tuple[str, str]:
    """What stood at the first place where two sequences differ, and what stands there now."""
    start = _common_start(old, new)
    end = _common_start(old[start:][::-1], new[start:][::-1])
    gone, added = old[start : len(old) - end], new[start : len(new) - end]
    if aspect == WORDS:
        before = " ".join(old[max(0, start - 2) : start])
        return _quoted(before, gone), _quoted(before, added)
    return _part(gone), _part(added)


def _quoted(before: str, words: Sequence[str]) -> str:
    shown = " ".join([before, *words[:_SHOWN]]).strip()
    if len(words) > _SHOWN:
        shown += "…"
    return f"“{shown}”"


def _part(parts: Sequence[str]) -> str:
    if not parts:
        return "nothing"
    first = " ".join(parts[0].split())
    if len(first) > _LONGEST_PART:
        first = f"{first[:_LONGEST_PART]}…"
    if len(parts) > 1:
        return f"{first} and {len(parts) - 1:,} more"
    return first
