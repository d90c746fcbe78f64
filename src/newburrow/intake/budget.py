"""What one source may cost: bytes unpacked and files, counted while it is read, never believed from a header."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence

from msgspec import Struct

from newburrow.core.problem import BurrowError, refusal
from newburrow.model.record import Where

_BASE = 64 * 1024 * 1024  # bytes that any source may unpack to, however small it is
_SIZE = re.compile(r"(\d+)\s*([kmgt]?)b?", re.IGNORECASE)
_UNITS = {"": 1, "k": 10**3, "m": 10**6, "g": 10**9, "t": 10**12}
NAMES = ("unpacked", "files", "depth", "seconds")


class ReadingLimits(Struct, frozen=True):
    """The most that one source may cost; whoever hands it in can raise each."""

    unpacked: int = 0  # bytes in all; 0: as many as `ratio` allows
    files: int = 300_000  # in all archives and folders of the source together
    depth: int = 4  # archives within archives
    seconds: int = 300  # without progress: from one record to the next
    ratio: int = (
        200  # bytes unpacked for each packed one; deflate reaches 1,032, real text about 10
    )

    def raised(self) -> list[str]:
        """The limits that differ from the usual ones, as `limits_of` reads them."""
        usual = ReadingLimits()
        return [
            f"{name}={getattr(self, name)}"
            for name in NAMES
            if getattr(self, name) != getattr(usual, name)
        ]


USUAL = ReadingLimits()


def limits_of(words: Sequence[str]) -> ReadingLimits:
    """The limits with those that a person raises, such as `unpacked=20GB` or `files=1000000`.

    Raises ValueError, with the allowed names, for anything else.
    """
    given = {}
    for word in words:
        name, _sign, value = word.partition("=")
        found = _SIZE.fullmatch(value.strip())
        if name.strip() not in NAMES or not found or not int(found[1]):
            raise ValueError(
                f"{word!r} is not a limit. Write one of {', '.join(NAMES)}, an equals sign and a number, "
                "such as unpacked=20GB"
            )
        given[name.strip()] = int(found[1]) * _UNITS[found[2].lower()]
    return ReadingLimits(**given)


class Budget:
    """What was spent on one source."""

    def __init__(self, limits: ReadingLimits, name: str) -> None:
        """`name` is that of the source, for messages."""
        self.limits, self.name = limits, name
        self._packed = 0
        self.spent = (
            0,
            0,
        )  # bytes and files; set back by whoever does without what they were spent on

    def packed(self, size: int) -> None:
        """Add bytes that the source takes on the disk."""
        self._packed += size

    def file(self, label: str, count: int = 1) -> None:
        """Count files. Raises BurrowError if there are more than the limit."""
        size, files = self.spent
        self.spent = size, files + count
        if files + count > self.limits.files:
            raise refusal(
                "many-files",
                f"{self.name} holds more than {self.limits.files:,} files.",
                f"If you trust it, allow more: --limit files={self._rounded(files + count)}.",
                Where(label),
            )

    def meter(self, label: str) -> Callable[[int], None]:
        """What counts the bytes of one file once, however often it is read; `label` names it in messages.

        It is called with the offset up to which the file has been read.
        """
        most = 0

        def at(place: int) -> None:
            nonlocal most
            if place > most:
                more, most = place - most, place
                self.unpacked(more, label)

        return at

    def unpacked(self, size: int, label: str) -> None:
        """Count bytes that were read. Raises BurrowError if there are more than the limit."""
        before, files = self.spent
        self.spent = before + size, files
        most = self.limits.unpacked or _BASE + self.limits.ratio * self._packed
        if before + size > most:
            raise self._too_much(before + size, label)

    def _too_much(self, size: int, label: str) -> BurrowError:
        times = size // max(self._packed, 1)
        return refusal(
            "zip-bomb",
            f"{self.name} unpacks to {size:,} bytes or more, {times:,} times its size.",
            f"Real exports rarely do that. If you trust it, allow more: --limit unpacked="
            f"{self._rounded(size // 10**9)}GB.",
            Where(label),
        )

    @staticmethod
    def _rounded(number: int) -> int:
        """Ten times as many, as a round number."""
        return int("1" + "0" * len(str(number)))
