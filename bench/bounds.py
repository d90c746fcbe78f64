"""Bodies that are made to be slow: time and memory of a move for a size and for twice as much.

`python bench/bounds.py [NAME ...]`. Linear work takes about twice as long; more than three times is marked.
"""

from __future__ import annotations

import html
import os
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

SITE = "https://mistlebank.example/"
BODIES: dict[str, Callable[[int], str]] = {
    "links": lambda n: "".join(f'<a href="/p{i}">x{i}</a> ' for i in range(60 * n)),
    "pictures": lambda n: "".join(f'<img src="/p{i}.png">' for i in range(60 * n)),
    "attributes": lambda n: "<p " + " ".join(f'a{i}="{i}"' for i in range(50 * n)) + ">x</p>",
    "parameters": lambda n: (
        '<a href="/two?' + "&amp;".join(f"a{i}={i}" for i in range(20 * n)) + '">x</a>'
    ),
    "srcset": lambda n: (
        '<img srcset="' + ", ".join(f"/p{i}.png {i}w" for i in range(1, 30 * n)) + '">'
    ),
    "styles": lambda n: '<p style="' + "background:url(/a.png);" * (30 * n) + '">x</p>',
    "rows": lambda n: "<table>" + "<tr><td>x<td>y</tr>" * (50 * n) + "</table>",
    "items": lambda n: "<ul>" + "<li>x</li>" * (50 * n) + "</ul>",
    "depth": lambda n: "<div>" * (3 * n) + "x",
    "unclosed": lambda n: "<b>" * 400 + "<p>x" * (20 * n),
    "brackets": lambda n: "[" * (100 * n) + "x" + "]" * (100 * n),
    "comments": lambda n: "<!--" * (100 * n),
    "addresses": lambda n: f"{SITE}two " * (40 * n),
    "frames": lambda n: '<iframe src="https://v.example/1"></iframe>' * (20 * n),
    "macros": lambda n: '[signup x="1"] ' * (30 * n),
    "entities": lambda n: "&amp;" * (500 * n),
}


def feed(body: str) -> str:
    """An export with one such body."""
    item = f"<item><title>One</title><link>{SITE}one</link><description>{html.escape(body)}</description></item>"
    return (
        f'<rss version="2.0"><channel><title>O</title><link>{SITE}</link>{item}</channel></rss>'
    )


def moved(body: str, host: str, folder: Path) -> tuple[float, int]:
    """Processor seconds and megabytes of a move."""
    (folder / "feed.xml").write_text(feed(body), "utf-8")
    out = folder / f"out-{time.monotonic_ns()}"
    words = [
        Path(sys.executable).with_name("newburrow"),
        "move",
        "feed.xml",
        "--to",
        host,
        "--out",
        out,
        "--quiet",
        "--jobs",
        "1",
    ]
    process = subprocess.Popen(words, cwd=folder, stdout=subprocess.DEVNULL)
    _pid, status, usage = os.wait4(process.pid, 0)
    if status:
        sys.exit(f"the move ended with {os.waitstatus_to_exitcode(status)}")
    return usage.ru_utime + usage.ru_stime, usage.ru_maxrss // 1024


def main(names: list[str]) -> None:
    """Print a line for each kind of body and host."""
    print(
        "| body | host | seconds | twice as much | MB | twice as much |\n|---|---|---|---|---|---|"
    )
    with tempfile.TemporaryDirectory() as name:
        start = moved("x", "lanternlog", Path(name))[0]
        for body in names or BODIES:
            for host in ("lanternlog", "plainleaf"):
                (once, memory), (twice, more) = (
                    moved(BODIES[body](size), host, Path(name)) for size in (500, 1000)
                )
                mark = " (!)" if twice - start > 3 * max(once - start, 0.3) else ""
                print(
                    f"| {body} | {host} | {once:.1f} | {twice:.1f}{mark} | {memory} | {more} |",
                    flush=True,
                )


if __name__ == "__main__":
    main(sys.argv[1:])
