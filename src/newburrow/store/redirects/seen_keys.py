"""Which addresses a table has named before, in a memory that does not grow with the table."""

from __future__ import annotations

_BYTES = (1 << 24) - 1  # of a million addresses not one is mistaken for another
_OTHER = 0x5BD1E995  # any number
_PLACES = range(4)
_MASKS = [1 << bit for bit in range(8)]


class SeenKeys:
    """The addresses seen so far, as bits that each of them sets."""

    def __init__(self) -> None:
        self._bits = bytearray(_BYTES + 1)

    def may_have(self, key: str) -> bool:
        """Note an address; tells whether it may have been noted before. False is certain, True is not."""
        place, step = _hashes(key)
        bits, seen = self._bits, True
        for _number in _PLACES:
            byte, mask = place >> 3 & _BYTES, _MASKS[place & 7]
            before = bits[byte]
            if not before & mask:
                bits[byte] = before | mask
                seen = False
            place += step
        return seen

    def has(self, key: str) -> bool:
        """Whether an address may have been noted."""
        first, step = _hashes(key)
        places = (first + number * step for number in _PLACES)
        return all(self._bits[place >> 3 & _BYTES] & _MASKS[place & 7] for place in places)


def _hashes(key: str) -> tuple[int, int]:
    """A number for an address, and the step from one of its bits to the next."""
    first = hash(key)
    return first, (first >> 27 | 1) ^ hash(first ^ _OTHER)
