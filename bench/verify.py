"""Measures verifying against moving: `python bench/verify.py [--rounds N] [MEGABYTES ...]`.

Each round moves a generated export and verifies the result, in turn; told is the least of the rounds. Peak memory is that
of the first process.
"""

from __future__ import annotations

import argparse
import tempfile
from pathlib import Path

from run import HERE, PROGRAM, timed


def main() -> None:
    """Print megabytes, seconds of moving and of verifying, their ratio, and the memory of verifying."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("megabytes", nargs="*", type=int, default=[20, 60])
    parser.add_argument("--rounds", type=int, default=2)
    options = parser.parse_args()
    for megabytes in options.megabytes:
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            timed("python3", HERE / "generate.py", megabytes, "export.xml", cwd=folder)
            moved, verified, memory = list[float](), list[float](), 0.0
            for _round in range(options.rounds):
                words = (PROGRAM, "move", "export.xml", "--to", "reedpost", "--out", "m")
                moved.append(timed(*words, cwd=folder)[0])
                seconds, memory = timed(PROGRAM, "verify", "m", cwd=folder)
                verified.append(seconds)
            ratio = min(verified) / min(moved)
            print(
                f"{megabytes} MB: move {min(moved):.1f} s, verify {min(verified):.1f} s "
                f"({ratio:.2f} times), {memory:.0f} MB"
            )


if __name__ == "__main__":
    main()
