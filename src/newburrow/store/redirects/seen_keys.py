"""Which addresses a table has named before, in a memory that does not grow with the table."""

from __future__ import annotations

from array import array
from itertools import combinations, islice

_WORD_BITS, _MASK_BITS = 21, 10  # bits of a hash that choose a word, and bits in it
_WORDS = (
    1 << _WORD_BITS
)  # of 8 bytes: of a million addresses hardly one is mistaken for another
_MASKS = [
    sum(1 << bit for bit in bits) for bits in islice(combinations(range(64), 3), 0, None, 40)
][: 1 << _MASK_BITS]


class SeenKeys:
    """The addresses seen so far, as bits that each of them sets in two words."""

    def __init__(self) -> None:
        self._words = array("Q", [0]) * _WORDS

    def may_have(self, key: str) -> bool:
        """Note an address; tells whether it may have been noted before. False is certain, True is not."""
        first, second, mask, other_mask = _places(key)
        words = self._words
        if words[first] & mask == mask and words[second] & other_mask == other_mask:
            return True
        words[first] |= mask
        words[second] |= other_mask
        return False

    def has(self, key: str) -> bool:
        """Whether an address may have been noted."""
        first, second, mask, other_mask = _places(key)
        words = self._words
        return words[first] & mask == mask and words[second] & other_mask == other_mask


def _places(key: str) -> tuple[int, int, int, int]:
    """The two words of an address, and its bits in each."""
    number = hash(key)
    masks = number >> 2 * _WORD_BITS
    return (
        number & _WORDS - 1,
        number >> _WORD_BITS & _WORDS - 1,
        _MASKS[masks & len(_MASKS) - 1],
        _MASKS[masks >> _MASK_BITS & len(_MASKS) - 1],
    )
