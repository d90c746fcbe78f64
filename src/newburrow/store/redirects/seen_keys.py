"""Which addresses a table has named before, in a memory that does not grow with the table."""

from __future__ import annotations

_BYTES = (1 << 24) - 1  # of a million addresses not one is mistaken for another
_OTHER = 0x5BD1E995  # any number


class SeenKeys:
    """The addresses seen so far, as bits that each of them sets."""

    def __init__(self) -> None:
        self._bits = bytearray(_BYTES + 1)

    def may_have(self, key: str) -> bool:
        """Note an address; tells whether it may have been noted before. False is certain, True is not."""
        bits, seen = self._bits, True
        for byte, mask in _places(key):
            if not bits[byte] & mask:
                bits[byte] |= mask
                seen = False
        return seen

    def has(self, key: str) -> bool:
        """Whether an address may have been noted."""
        return all(self._bits[byte] & mask for byte, mask in _places(key))


def _places(key: str) -> tuple[tuple[int, int], ...]:
    """The bits of an address, each by the number of its byte and its mask."""
    first = hash(key)
    step = (first >> 27 | 1) ^ hash(first ^ _OTHER)
    second, third, fourth = first + step, first + 2 * step, first + 3 * step
    return (
        (first >> 3 & _BYTES, 1 << (first & 7)),
        (second >> 3 & _BYTES, 1 << (second & 7)),
        (third >> 3 & _BYTES, 1 << (third & 7)),
        (fourth >> 3 & _BYTES, 1 << (fourth & 7)),
    )
