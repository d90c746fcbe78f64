"""Measures learning rules and writing redirects: `python bench/redirects.py [ADDRESSES ...]` (100,000 and 1,000,000).

Regular addresses of three shapes with an exception in a hundred; nginx then loads what was written.
"""

from __future__ import annotations

import shutil
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

from newburrow.redirects.redirect_map import Map
from newburrow.redirects.servers.nginx import SERVER
from newburrow.store.journal.rows import REDIRECTED, OldAddress

OLD, NEW = "https://old.example", "https://new.example"
CONFIG = """daemon off; pid {folder}/pid; error_log {folder}/log; events {{}}
http {{ access_log off; include {folder}/newburrow-maps.conf; server {{ listen 127.0.0.1:8999; include {folder}/newburrow-server.conf; }} }}
"""


def rows(count: int) -> Iterator[OldAddress]:
    for n in range(count):
        year, month, day, slug = 2006 + n % 20, 1 + n % 12, 1 + n % 28, f"a-post-{n}"
        if n % 100 == 0:
            yield OldAddress(
                f"{OLD}/{year}/{month:02}/{day:02}/{slug}/",
                f"{NEW}/other/{n * 7}",
                REDIRECTED,
                "",
            )
        elif n % 4 == 1:
            yield OldAddress(f"{OLD}/blog/{slug}", f"{NEW}/articles/{slug}/", REDIRECTED, "")
        elif n % 4 == 2:
            yield OldAddress(f"{OLD}/cider/{slug}.php", f"{NEW}/p/{slug}.html", REDIRECTED, "")
        else:
            yield OldAddress(
                f"{OLD}/{year}/{month:02}/{day:02}/{slug}/",
                f"{NEW}/{year}/{month:02}/{slug}.html",
                REDIRECTED,
                "",
            )


def measure(count: int) -> None:
    data = list(rows(count))
    began = time.perf_counter()
    redirects = Map.learnt(lambda: iter(data))
    learnt = time.perf_counter()
    exceptions = sum(1 for _row in redirects.exact())
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        told = time.perf_counter()
        SERVER.write(redirects, lambda file: (folder / file).open("wb"))
        written = time.perf_counter()
        # Without rules every address is a line of a map: the most that nginx ever has to load.
        SERVER.write(
            Map(redirects.answers, (), redirects.site), lambda file: (folder / file).open("wb")
        )
        loads = "-"
        if nginx := shutil.which("nginx", path="/usr/sbin:/usr/bin"):
            (folder / "conf").write_text(CONFIG.format(folder=folder))
            start = time.perf_counter()
            subprocess.run([nginx, "-t", "-q", "-c", folder / "conf"], check=True)
            loads = f"{time.perf_counter() - start:.1f} s"
    print(
        f"| {count:,} | {learnt - began:.1f} s | {len(redirects.rules)} | {exceptions:,} | {written - told:.1f} s | {loads} |",
        flush=True,
    )


if __name__ == "__main__":
    print(
        "| addresses | rules learnt in | rules | exceptions | nginx written in | nginx loads all as single ones in |"
    )
    print("|---|---|---|---|---|---|")
    for many in map(int, sys.argv[1:] or ("100000", "1000000")):
        measure(many)
