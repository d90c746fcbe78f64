"""Measures `newburrow redirects FOLDER --for nginx`, from files to files: `python bench/redirects.py [ADDRESSES ...]`.

Without numbers: 100,000 mixed addresses, which no rule covers, and 1,000,000 of three shapes with an exception in a
hundred. Told are the processor time and the memory of the command, and how long nginx takes to load what was written.
"""

from __future__ import annotations

import resource
import shutil
import subprocess
import sys
import tempfile
import time
import zlib
from collections.abc import Iterator
from pathlib import Path

from run import PROGRAM

OLD, NEW = "https://old.example", "https://new.example"
MOVE = f"""[old]
paths = ["../none.zip"]

[new]
host = "lanternlog"
address = "{NEW}/"
"""
CONFIG = """daemon off; pid {folder}/pid; error_log {folder}/log; events {{}}
http {{ access_log off; include {maps}/newburrow-maps.conf; server {{ listen 127.0.0.1:8999; include {maps}/newburrow-server.conf; }} }}
"""


def shaped(count: int) -> Iterator[tuple[str, str]]:
    """Old and new addresses of three shapes, with an exception in a hundred."""
    for n in range(count):
        year, month, day, slug = 2006 + n % 20, 1 + n % 12, 1 + n % 28, f"a-post-{n}"
        if zlib.crc32(slug.encode()) % 100 == 0:
            yield f"/{year}/{month:02}/{day:02}/{slug}/", f"/other/{n * 7}"
        elif n % 3 == 1:
            yield f"/blog/{slug}", f"/articles/{slug}/"
        elif n % 3 == 2:
            yield f"/cider/{slug}.php", f"/p/{slug}.html"
        else:
            yield f"/{year}/{month:02}/{day:02}/{slug}/", f"/{year}/{month:02}/{slug}.html"


def mixed(count: int) -> Iterator[tuple[str, str]]:
    """Old and new addresses that have nothing in common, some with a parameter."""
    for n in range(count):
        word = f"{zlib.crc32(str(n).encode()):08x}"
        old = (
            f"/?entry={n}"
            if n % 4 == 0
            else f"/{word[:2]}/{word[2:]}-{n}{('/', '.html', '')[n % 3]}"
        )
        yield old, f"/{zlib.crc32(word.encode()):08x}/{n % 7}"


def measure(name: str, pairs: Iterator[tuple[str, str]], count: int) -> None:
    with tempfile.TemporaryDirectory() as base:
        folder = Path(base) / "move"
        (folder / "redirects").mkdir(parents=True)
        (folder / "move.toml").write_text(MOVE)
        with (folder / "redirects/addresses.csv").open("w") as stream:
            stream.write("old,new,status,why\r\n")
            for old, new in pairs:
                stream.write(f"{OLD}{old},{NEW}{new},301,permalink\r\n")
        before = resource.getrusage(resource.RUSAGE_CHILDREN)
        command = [PROGRAM, "redirects", str(folder), "--for", "nginx"]
        done = subprocess.run(command, check=True, capture_output=True, text=True)
        after = resource.getrusage(resource.RUSAGE_CHILDREN)
        seconds = after.ru_utime - before.ru_utime + after.ru_stime - before.ru_stime
        words = next((line for line in done.stdout.splitlines() if "one by one" in line), "")
        loads = "-"
        if nginx := shutil.which("nginx", path="/usr/sbin:/usr/bin"):
            config = Path(base) / "conf"
            config.write_text(CONFIG.format(folder=base, maps=folder / "redirects/nginx"))
            start = time.perf_counter()
            subprocess.run([nginx, "-t", "-q", "-c", config], check=True)
            loads = f"{time.perf_counter() - start:.1f} s"
    memory = after.ru_maxrss / 1024
    print(
        f"| {count:,} {name} | {seconds:.1f} s | {memory:.0f} MB | {words} | {loads} |",
        flush=True,
    )


if __name__ == "__main__":
    print("| addresses | processor time | peak memory | what was found | nginx loads it in |")
    print("|---|---|---|---|---|")
    given = [int(word) for word in sys.argv[1:]]
    for many in given or (100_000,):
        measure("mixed", mixed(many), many)
    for many in given or (1_000_000,):
        measure("of three shapes", shaped(many), many)
