"""The floor of a move: what the libraries alone cost. `python bench/floor.py EXPORT OUT`.

One process: lxml over every item reading every field, one HTML parse and serialisation of each body, JSON into
SQLite, read back in order, one Atom file by string building.
"""

from __future__ import annotations

import sqlite3
import sys
from pathlib import Path
from xml.sax.saxutils import escape

import msgspec
from lxml import etree
from selectolax.lexbor import LexborHTMLParser

CONTENT = "{http://purl.org/rss/1.0/modules/content/}encoded"


def items(export: Path):  # type: ignore[no-untyped-def]
    for _event, item in etree.iterparse(
        str(export), tag="item", huge_tree=True, resolve_entities=False
    ):
        yield [
            (child.tag, child.text, dict(child.attrib), [t for t in child.itertext()])
            for child in item
        ]
        item.clear()
        while item.getprevious() is not None:
            del item.getparent()[0]


def main(export: Path, out: Path) -> None:
    encode, decode = msgspec.json.Encoder().encode, msgspec.json.Decoder().decode
    db = sqlite3.connect(out / "floor.sqlite", isolation_level=None)
    db.execute("PRAGMA journal_mode = OFF")
    db.execute("BEGIN")
    db.execute("CREATE TABLE entry (seq INTEGER PRIMARY KEY, data BLOB)")
    for fields in items(export):
        record = []
        for tag, text, attributes, texts in fields:
            if tag == CONTENT:
                parser = LexborHTMLParser(text or "", is_fragment=True, fragment_tag="div")
                for node in parser.css("a,img"):
                    name = "href" if node.tag == "a" else "src"
                    node.attrs[name] = (node.attributes.get(name) or "") + "#"
                text = parser.html
            record.append((tag, text, attributes, texts))
        db.execute("INSERT INTO entry (data) VALUES (?)", (encode(record),))
    db.execute("COMMIT")
    with (out / "floor.atom").open("w", encoding="utf-8") as feed:
        for (data,) in db.execute("SELECT data FROM entry ORDER BY seq"):
            feed.write(
                "<entry>"
                + "".join(f"<f>{escape(text or '')}</f>" for _tag, text, _a, _t in decode(data))
                + "</entry>\n"
            )


def bare(export: Path) -> int:
    """One bare lxml pass that reads every field."""
    return sum(len(fields) for fields in items(export))


if __name__ == "__main__":
    if sys.argv[1] == "--bare":
        print(bare(Path(sys.argv[2])))
    else:
        main(Path(sys.argv[1]), Path(sys.argv[2]))
