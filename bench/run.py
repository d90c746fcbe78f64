"""Measures survey and move against the floor, in one run: `python bench/run.py [MEGABYTES ...]` (10 100).

Seconds drift on a shared machine; compare the ratios. Peak memory is that of the whole process (ru_maxrss).
"""

from __future__ import annotations

import os
import resource
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
address = "/{year}/{month}/{slug}.html"
[terms]
address = "/labels/{slug}/"
"""


def timed(*words: object, cwd: Path) -> tuple[float, float]:
    """Seconds and peak megabytes of a command."""
    before = time.perf_counter()
    process = subprocess.Popen([str(word) for word in words], cwd=cwd, stdout=subprocess.DEVNULL)
    _pid, status, usage = os.wait4(process.pid, 0)
    if status:
        raise SystemExit(f"{words}: status {status}")
    return time.perf_counter() - before, usage.ru_maxrss / 1024


def measure(megabytes: float) -> None:
    with tempfile.TemporaryDirectory(dir=HERE) as name:
        folder = Path(name)
        export = folder / "export.xml"
        subprocess.run(
            [sys.executable, HERE / "generate.py", str(megabytes), export], check=True, stdout=subprocess.DEVNULL
        )
        size = export.stat().st_size / 1e6
        (folder / "bench.toml").write_text(HOST)
        bare, _ = timed(sys.executable, HERE / "floor.py", "--bare", export, cwd=folder)
        floor, floor_memory = timed(sys.executable, HERE / "floor.py", export, folder, cwd=folder)
        survey, survey_memory = timed(PROGRAM, "survey", export, "--json", cwd=folder)
        move, move_memory = timed(
            PROGRAM, "move", export, "--to", folder / "bench.toml", "--out", folder / "m", cwd=folder
        )
        for what, seconds, memory, against in (
            ("bare lxml pass", bare, 0.0, bare), ("floor", floor, floor_memory, floor),
            ("survey", survey, survey_memory, bare), ("move", move, move_memory, floor),
        ):  # fmt: skip
            print(
                f"| {size:,.0f} MB | {what} | {seconds:.1f} s | {size / seconds:.1f} MB/s | {memory:.0f} MB | {seconds / against:.2f} |"
            )
        shutil.rmtree(folder / "m")


if __name__ == "__main__":
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    print(
        "| export | what | time | speed | peak memory | times the bare pass (survey) or the floor (move) |\n|---|---|---|---|---|---|"
    )
    for size in [float(word) for word in sys.argv[1:]] or [10.0, 100.0]:
        measure(size)
