"""Measures moves of a large wiki against the floor: `python bench/wiki.py [--rounds N] [PAGES]`.

HTML pages in one zip, in Sedgewiki's form, to a folder of texts and to the same wiki; Creole pages to the same wiki.
The floor opens each page, parses and serialises it with the same library, keeps it in SQLite and writes it out; for
Creole it reads the pages alone. One process. Each round runs everything once, in turn; what is told is the least.
"""

from __future__ import annotations

import argparse
import random
import sqlite3
import sys
import tempfile
import zipfile
from pathlib import Path

import msgspec
from generate import sentence
from run import HERE, PROGRAM, timed
from selectolax.lexbor import LexborHTMLParser

PAGE = """<!DOCTYPE html>
<html lang="en"><head><meta charset="utf-8"><title>{title} — Large wiki</title></head><body>
<nav aria-label="Breadcrumb"><a href="index.html">Home</a> <a href="S{s}/index.html">Section {s}</a></nav>
<main><h1 class="page-title">{title}</h1>
<p class="byline"><span class="writer">{author}</span> <time class="written" datetime="2020-{m:02}-{d:02}T10:00:00Z">x</time></p>
<div class="page-text">{body}</div>
<ul class="labels"><li><a rel="tag" href="/w-labels/a">{a}</a></li><li><a rel="tag" href="/w-labels/b">{b}</a></li></ul>
<section class="remarks"><article class="remark" id="remark-1"><p><span class="who">{b}</span>
<time datetime="2021-01-01T00:00:00Z">x</time></p><div class="remark-text"><p>{short}</p></div></article></section>
</main><footer>Large wiki</footer></body></html>
"""
FACTS = '<!DOCTYPE html><html lang="en"><head><title>W</title><link rel="canonical" href="https://large.example/"></head><body><h1 class="wiki-name">Large wiki</h1></body></html>'


def html_export(path: Path, pages: int) -> None:
    """A zip of pages, each with about 4 KB of text, links to others, tags and a comment."""
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("wiki.html", FACTS)
        for n in range(pages):
            chance = random.Random(n)
            texts = "".join(
                f"<p>{sentence(chance, 40)} <em>{sentence(chance, 6)}</em> {sentence(chance, 30)}</p>"
                for _ in range(7)
            )
            links = "".join(
                f' <a href="page-{chance.randrange(pages)}.html">{sentence(chance, 2)}</a>'
                for _ in range(4)
            )
            page = PAGE.format(
                title=f"Page {n}", s=n % 50, author=f"Author {n % 20}", m=n % 12 + 1, d=n % 28 + 1,
                body=f"{texts}<h2>More</h2><ul><li>{sentence(chance, 9)}</li></ul><p>{links}</p>",
                a=sentence(chance, 1), b=sentence(chance, 1), short=sentence(chance, 12),
            )  # fmt: skip
            archive.writestr(f"w/page-{n}.html", page)


def creole_export(path: Path, pages: int) -> None:
    """A zip of Creole pages, each with about 4 KB of text and links by name."""
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("site.json", '{"title": "Large", "address": "https://large.example/"}')
        for n in range(pages):
            chance = random.Random(n)
            texts = "\n\n".join(
                f"{sentence(chance, 40)} //{sentence(chance, 6)}// {sentence(chance, 30)}"
                for _ in range(7)
            )
            links = " ".join(f"[[Page {chance.randrange(pages)}]]" for _ in range(4))
            front = f'---\nauthors: ["Author {n % 20}"]\ndate: 2020-01-01T10:00:00Z\n---\n\n'
            archive.writestr(
                f"pages/Page {n}.creole", f"{front}{texts}\n\n== More\n* {links}\n"
            )


def floor(export: Path, out: Path) -> None:
    """What the libraries alone cost for HTML pages."""
    encode = msgspec.json.Encoder().encode
    db = sqlite3.connect(out / "floor.sqlite", isolation_level=None)
    db.execute("PRAGMA journal_mode = OFF")
    db.execute("BEGIN")
    db.execute("CREATE TABLE entry (seq INTEGER PRIMARY KEY, data BLOB)")
    with zipfile.ZipFile(export) as archive:
        for info in archive.infolist():
            parser = LexborHTMLParser(archive.read(info).decode())
            for node in parser.css("a,img"):
                name = "href" if node.tag == "a" else "src"
                node.attrs[name] = (node.attributes.get(name) or "") + "#"
            data = encode((info.filename, parser.html))
            db.execute("INSERT INTO entry (data) VALUES (?)", (data,))
    db.execute("COMMIT")
    (out / "floor").mkdir()
    for n, (data,) in enumerate(db.execute("SELECT data FROM entry ORDER BY seq")):
        (out / "floor" / f"{n}.html").write_text(msgspec.json.decode(data)[1])


def reading(export: Path) -> None:
    """Reading Creole pages alone: each is opened and turned into HTML."""
    from newburrow.markup.creole import MARKUP

    with zipfile.ZipFile(export) as archive:
        for info in archive.infolist():
            MARKUP.to_html(archive.read(info).decode().rpartition("---\n")[2])


def measure(pages: int, rounds: int) -> None:
    """Print a row for each command."""
    own = [sys.executable, HERE / "wiki.py"]
    with tempfile.TemporaryDirectory(dir=HERE) as name:
        folder = Path(name)
        html_export(folder / "html.zip", pages)
        creole_export(folder / "creole.zip", pages)
        commands = {
            "floor": (*own, "--floor", "html.zip"),
            "survey html": (PROGRAM, "survey", "html.zip", "--quiet"),
            "html to plainleaf": (PROGRAM, "move", "html.zip", "--to", "plainleaf", "--out"),
            "html to sedgewiki": (PROGRAM, "move", "html.zip", "--to", "sedgewiki", "--out"),
            "reading creole": (*own, "--reading", "creole.zip"),
            "creole to tarnwiki": (PROGRAM, "move", "creole.zip", "--to", "tarnwiki", "--out"),
        }
        best: dict[str, tuple[float, float]] = {}
        for number in range(rounds):
            for title, words in commands.items():
                out = folder / f"out-{number}-{len(best)}-{title.replace(' ', '-')}"
                if title == "floor":
                    out.mkdir()
                more = (out,) if words[-1] == "--out" or title == "floor" else ()
                seconds, megabytes = timed(*words, *more, cwd=folder)
                best[title] = min(best.get(title, (seconds, megabytes)), (seconds, megabytes))
        for title, (seconds, megabytes) in best.items():
            base = best["reading creole" if "creole" in title else "floor"][0]
            print(
                f"| {pages:,} pages | {title} | {seconds:.1f} s | {megabytes:.0f} MB | {seconds / base:.2f} |"
            )


if __name__ == "__main__":
    parser = argparse.ArgumentParser()
    parser.add_argument("pages", nargs="?", type=int, default=20_000)
    parser.add_argument("--rounds", type=int, default=1)
    parser.add_argument("--floor", nargs=2, type=Path)
    parser.add_argument("--reading", type=Path)
    options = parser.parse_args()
    if options.floor:
        floor(*options.floor)
    elif options.reading:
        reading(options.reading)
    else:
        measure(options.pages, options.rounds)
