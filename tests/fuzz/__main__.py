"""`python -m tests.fuzz MINUTES [NAME ...]`: fuzz all targets, or these, for so long in all; on two processes.

What is found is kept in `fuzz-found/`, with its traceback. Ends with status 1 if anything was.
"""

import multiprocessing
import sys
import time
from pathlib import Path

from tests.fuzz.campaign import fuzz
from tests.fuzz.targets import targets

FOUND = Path("fuzz-found")
_ROUND = 20.0  # seconds for one target at a time


def main(minutes: float, names: list[str]) -> int:
    """Fuzz, print a line for each target, and keep what was found."""
    names = names or list(targets())
    seconds = minutes * 60 * 2 / len(names)  # two processes
    rounds = max(1, round(seconds / _ROUND))
    work = [
        (name, seconds / rounds, int(time.time()) + 1000 * nth)
        for nth in range(rounds)
        for name in names
    ]
    totals: dict[str, list[int]] = {}
    with multiprocessing.get_context("spawn").Pool(2, maxtasksperchild=1) as pool:
        for name, *numbers, look in pool.starmap(fuzz, work, chunksize=1):
            before = totals.setdefault(name, [0, 0, 0, 0])
            totals[name] = [a + b for a, b in zip(before[:3], numbers[:3], strict=True)] + [
                max(before[3], numbers[3])
            ]
            for nth, (data, what) in enumerate(look):
                FOUND.mkdir(exist_ok=True)
                stem = FOUND / f"{name.replace(' ', '-')}-{len(list(FOUND.iterdir())):04}-{nth}"
                stem.with_suffix(".input").write_bytes(data)
                stem.with_suffix(".txt").write_text(what, "utf-8", "replace")
    print(f"{'target':24}{'inputs':>10}{'faults':>8}{'hangs':>7}{'MB':>6}")
    for name, (inputs, faults, hangs, memory) in totals.items():
        print(f"{name:24}{inputs:>10,}{faults:>8}{hangs:>7}{memory:>6}")
    sums = [sum(numbers[n] for numbers in totals.values()) for n in range(3)]
    print(
        f"{'all':24}{sums[0]:>10,}{sums[1]:>8}{sums[2]:>7}{max(n[3] for n in totals.values()):>6}"
    )
    return int(bool(sums[1] or sums[2]))


if __name__ == "__main__":
    sys.exit(main(float(sys.argv[1]), sys.argv[2:]))
