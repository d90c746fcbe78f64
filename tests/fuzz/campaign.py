"""A campaign: inputs are changed at random, those that reach something new are kept and changed again.

What is new is told by calls: which of our functions called which. Faults, hangs and the memory are counted.
"""

import random
import resource
import sys
import tempfile
import time
import traceback
from collections.abc import Callable
from pathlib import Path
from types import FrameType
from typing import Any

from newburrow.core.time_limit import TimeLimitReached, time_limit
from tests.fuzz.targets import Target, targets

HANG = 5.0  # seconds that no input may take
_LONGEST = 20_000  # bytes of an input
_PIECES = (
    b"<", b">", b"&", b'"', b"'", b"\0", b"\xff", b"\xff\xfe", b"]]>", b"<!--", b"-->", b"<![CDATA[", b"&#0;", b"{{", b"}}", b"{%", b"[", b"]",
    b"(", b")", b"*", b"_", b"=", b"|", b"\\", b"\n", b"\r\n", b"\t", b" ", b"%", b"%00", b"%2F", b"..", b"//", b":", b"@", b"#", b"?", b"\xe2\x80\xae",
    b"\xed\xa0\x80", b"9" * 40, b"-1", b"1e999", b"null", b"NaN", b"<!DOCTYPE x [", b"<!ENTITY a 'b'>", b"[[", b"{{{", b"\xc3", b"PK\3\4", b"data:",
)  # fmt: skip
_OURS = "newburrow"


class Campaign:
    """Fuzzes one target with a corpus that grows."""

    def __init__(self, target: Target, folder: Path, seed: int) -> None:
        self.target, self.folder = target, folder
        self.chance = random.Random(seed)
        self.corpus = list(target.seeds)
        self.inputs = 0
        self.faults: list[tuple[bytes, str]] = []
        self.hangs: list[bytes] = []
        self._seen: set[tuple[Any, Any]] = set()

    def run(self, is_over: Callable[[int], bool]) -> None:
        """Try the seeds, then changed inputs, until `is_over` says so of their number."""
        for data in list(self.corpus):
            self.try_input(data)
        while not is_over(self.inputs):
            data = self.changed()
            if self.try_input(data):
                self.corpus.append(data)

    def try_input(self, data: bytes) -> bool:
        """Whether an input reached something that none before had."""
        self.inputs += 1
        calls: set[tuple[Any, Any]] = set()

        def called(frame: FrameType, event: str, _argument: object) -> None:
            if event == "call" and _OURS in frame.f_code.co_filename:
                calls.add((frame.f_back and frame.f_back.f_lineno, frame.f_code))

        before = time.monotonic()
        try:
            with time_limit(2 * HANG):
                sys.setprofile(called)
                try:
                    self.target.run(data, self.folder)
                finally:
                    sys.setprofile(None)
        except self.target.refuses:
            pass
        except TimeLimitReached:
            pass
        except Exception:
            self.faults.append((data, traceback.format_exc()))
        if time.monotonic() - before > HANG:
            self.hangs.append(data)
        is_new = not calls <= self._seen
        self._seen |= calls
        return is_new

    def changed(self) -> bytes:
        """An input of the corpus with some changes."""
        chance = self.chance
        data = bytearray(chance.choice(self.corpus))
        for _change in range(chance.choice((1, 1, 2, 4, 16))):
            place = chance.randrange(len(data) + 1)
            what = chance.randrange(7)
            if what == 0:
                data[place : place + 1] = bytes((chance.randrange(256),))
            elif what == 1:
                data[place:place] = chance.choice(_PIECES)
            elif what == 2:
                del data[place : place + chance.randrange(1, 60)]
            elif what == 3:
                other = chance.choice(self.corpus)
                start = chance.randrange(len(other) + 1)
                data[place:place] = other[start : start + chance.randrange(200)]
            elif what == 4:
                piece = data[place : place + chance.randrange(1, 40)]
                data[place:place] = piece * chance.choice((1, 3, 60, 900))
            elif what == 5:
                data[place:place] = chance.choice(_PIECES) * chance.choice((2, 50, 3000))
            elif chance.random() < 0.3:
                del data[place:]
        return bytes(data[:_LONGEST])


def peak_memory() -> int:
    """The most memory that this process has taken, in megabytes."""
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss // 1024


def fuzz(
    name: str, seconds: float, seed: int
) -> tuple[str, int, int, int, int, list[tuple[bytes, str]]]:
    """Name, inputs, faults, hangs, megabytes, and the inputs to look at."""
    with tempfile.TemporaryDirectory() as folder:
        campaign = Campaign(targets()[name], Path(folder), seed)
        end = time.monotonic() + seconds
        campaign.run(lambda _number: time.monotonic() > end)
        look = campaign.faults[:20] + [(data, "a hang\n") for data in campaign.hangs[:20]]
        return (
            name,
            campaign.inputs,
            len(campaign.faults),
            len(campaign.hangs),
            peak_memory(),
            look,
        )
