"""Measures survey, mend and move against the floor: `python bench/run.py [--rounds N] [--only NAMES] [MEGABYTES ...]`.

Seconds drift on a shared machine, up to twofold within a minute. Each round runs everything once, in turn, and what is
told is the least of the rounds: compare the ratios. Peak memory is that of the whole process (ru_maxrss).
"""

from __future__ import annotations

import argparse
import os
import shutil
import subprocess
import sys
import tempfile
import time
from pathlib import Path

HERE = Path(__file__).parent
PROGRAM = Path(sys.executable).with_name("newburrow")
HOST = """
name = "bench"
format = "atom"
[kinds.post]
address = "/leaves/{year}/{slug}"
[terms]
address = "/topics/{slug}/"
"""
AGAINST = {"bare": "bare", "survey": "bare", "mend": "bare", "floor": "floor", "move": "floor"}
BROKEN = b"<item><title>Pears & owls</title></item>\n"  # put in once in a hundred items


def timed(*words: object, cwd: Path) -> tuple[float, float]:
    """Seconds and peak megabytes of a command; status 1 means that something is listed."""
    before = time.perf_counter()
    process = subprocess.Popen(
        [str(word) for word in words], cwd=cwd, stdout=subprocess.DEVNULL
    )
    _pid, status, usage = os.wait4(process.pid, 0)
    if os.waitstatus_to_exitcode(status) not in (0, 1):
        raise SystemExit(f"{words}: status {status}")
    return time.perf_counter() - before, usage.ru_maxrss / 1024


def damage(export: Path, broken: Path) -> None:
    """A copy with a bare & in one item of a hundred."""
    with export.open("rb") as source, broken.open("wb") as target:
        number = 0
        for line in source:
            if line.startswith(b"<item>"):
                number += 1
                target.write(BROKEN if number % 100 == 0 else b"")
            target.write(line)


def measure(megabytes: float, rounds: int, only: list[str]) -> None:
    """Print a row for each command."""
    with tempfile.TemporaryDirectory(dir=HERE) as name:
        folder = Path(name)
        export, broken = folder / "export.xml", folder / "broken.xml"
        subprocess.run(
            [sys.executable, HERE / "generate.py", str(megabytes), export],
            check=True,
            capture_output=True,
        )
        if "mend" in only:
            damage(export, broken)
        size = export.stat().st_size / 1e6
        (folder / "bench.toml").write_text(HOST)
        commands: dict[str, tuple[object, ...]] = {
            "bare": (sys.executable, HERE / "floor.py", "--bare", export),
            "survey": (PROGRAM, "survey", export, "--json"),
            "mend": (PROGRAM, "mend", broken, "-o", folder / "mended.xml"),
            "floor": (sys.executable, HERE / "floor.py", export, folder),
            "move": (
                PROGRAM,
                "move",
                export,
                "--to",
                folder / "bench.toml",
                "--out",
                folder / "m",
            ),
        }
        best: dict[str, tuple[float, float]] = {}
        for _round in range(rounds):
            for what, words in commands.items():
                if what not in only:
                    continue
                for made in ("mended.xml", "floor.sqlite", "floor.atom"):
                    (folder / made).unlink(missing_ok=True)
                shutil.rmtree(folder / "m", ignore_errors=True)
                best[what] = min(best.get(what, (float("inf"), 0.0)), timed(*words, cwd=folder))
        for what, (seconds, memory) in best.items():
            against = seconds / best[AGAINST[what]][0]
            print(
                f"| {size:,.0f} MB | {what} | {seconds:.1f} s | {size / seconds:.1f} MB/s | {memory:.0f} MB | {against:.2f} |"
            )


if __name__ == "__main__":
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("megabytes", nargs="*", type=float, default=[10.0, 100.0])
    parser.add_argument("--rounds", type=int, default=3)
    parser.add_argument("--only", nargs="+", choices=AGAINST, default=list(AGAINST))
    options = parser.parse_args()
    print(
        "| export | what | least time | speed | peak memory | times the bare pass, or the floor (move) |"
    )
    print("|---|---|---|---|---|---|", flush=True)
    for megabytes in options.megabytes:
        measure(megabytes, options.rounds, options.only)
