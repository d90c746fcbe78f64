"""Writes a large RSS 2.0 export: `python bench/generate.py MEGABYTES FILE`. The same bytes every time.

Each item has about 4 KB of body with links to other items and pictures, categories, and comments in the
demo's dialect, so that every stage of a move has something to do.
"""

from __future__ import annotations

import random
import sys
from pathlib import Path

WORDS = [
    "orchard",
    "apple",
    "graft",
    "scion",
    "ladder",
    "russet",
    "codlin",
    "press",
    "cider",
    "frost",
    "blossom",
    "hive",
    "owl",
    "hedge",
    "mulch",
    "row",
    "wall",
    "basket",
    "label",
    "knife",
    "tape",
    "bud",
    "leaf",
    "root",
    "stake",
    "hare",
    "wren",
    "meadow",
    "pond",
    "trailer",
    "kettle",
    "lantern",
    "gate",
    "bench",
]
HEAD = """<?xml version="1.0" encoding="UTF-8"?>
<rss version="2.0" xmlns:content="http://purl.org/rss/1.0/modules/content/" xmlns:dc="http://purl.org/dc/elements/1.1/"
 xmlns:rp="https://reedpost.example/ns/archive/2"><channel>
<title>A large orchard</title><link>https://large.example/</link><description/><language>en</language>
<rp:zone>Europe/London</rp:zone>
"""
ITEM = """<item><title>{title} {n}</title><link>https://large.example/{y}-{m:02}-{d:02}/{slug}-{n}</link>
<guid isPermaLink="false">https://large.example/?entry={n}</guid><pubDate>{d:02} {mon} {y} 08:{s:02}:00 +0000</pubDate>
<dc:creator>{author}</dc:creator><category domain="mark">{a}</category><category domain="mark">{b}</category>
<category domain="topic">{c}</category><description>{short}</description><content:encoded><![CDATA[{body}]]></content:encoded>
<rp:id>{n}</rp:id><rp:sort>article</rp:sort><rp:state>live</rp:state><rp:slug>{slug}-{n}</rp:slug>
<rp:reply id="{n}1" state="shown"><rp:name>{a}</rp:name><rp:date>{y}-{m:02}-{d:02}T10:00:00Z</rp:date><rp:text>{short}</rp:text>
<rp:reply id="{n}2" state="shown"><rp:name>{b}</rp:name><rp:date>{y}-{m:02}-{d:02}T11:00:00Z</rp:date><rp:text>{short}</rp:text>
</rp:reply></rp:reply>
<rp:reply id="{n}3" state="junk"><rp:name>{c}</rp:name><rp:date>{y}-{m:02}-{d:02}T12:00:00Z</rp:date><rp:text>{short}</rp:text>
</rp:reply></item>
"""
MONTHS = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"]


def sentence(chance: random.Random, words: int) -> str:
    return " ".join(chance.choices(WORDS, k=words)).capitalize() + "."


def body(chance: random.Random, n: int) -> str:
    other = chance.randint(1, max(1, n))
    parts = [
        f"<p>{sentence(chance, 40)} <em>{sentence(chance, 6)}</em> {sentence(chance, 30)}</p>"
        for _ in range(7)
    ]
    parts.insert(
        2,
        f'<p><a href="/?entry={other}">{sentence(chance, 4)}</a> <a href="https://other.example/">x</a></p>',
    )
    parts.insert(
        4,
        f'<ul><li>{sentence(chance, 9)}</li><li><a href="https://large.example/?entry={n}#top">x</a></li></ul>',
    )
    parts.insert(
        5,
        f'<figure><img src="https://pictures.example/{n}.jpg" alt="{sentence(chance, 5)}" width="640"></figure>',
    )
    return "\n".join(parts)


def write(path: Path, size: int) -> int:
    """Write at least `size` bytes; gives the number of items."""
    chance, written, n = random.Random(7), 0, 0
    with path.open("w", encoding="utf-8") as out:
        written += out.write(HEAD)
        while written < size:
            n += 1
            written += out.write(
                ITEM.format(
                    n=n, title=sentence(chance, 4)[:-1], slug="-".join(chance.choices(WORDS, k=3)), y=2006 + n % 20, m=1 + n % 12,
                    d=1 + n % 28, mon=MONTHS[n % 12], s=n % 60, author=f"author{n % 12}", a=WORDS[n % 30], b=WORDS[n % 29],
                    c=WORDS[n % 7], short=sentence(chance, 12), body=body(chance, n),
                )
            )  # fmt: skip
        out.write("</channel></rss>\n")
    return n


if __name__ == "__main__":
    print(write(Path(sys.argv[2]), int(float(sys.argv[1]) * 1_000_000)), "items")
