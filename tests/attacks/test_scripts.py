"""No script of an export runs from what is written: shown in Chromium, for each host, with all that can be clicked."""

import html
import json
from collections.abc import Iterator
from pathlib import Path

from lxml import etree
from markdown_it import MarkdownIt

from newburrow.core import plugins
from newburrow.core.web_schemes import runs_script
from newburrow.hosts import loader as hosts
from tests.attacks import browser
from tests.attacks.payloads import ADDRESSES, payloads
from tests.helpers import ROUNDS, SITE, FolderCase, rows, unpack_zips

RP, CONTENT = (
    "https://reedpost.example/ns/archive/2",
    "http://purl.org/rss/1.0/modules/content/",
)
DIALECT = 'name = "mine"\nextends = "reedpost"\n[comment]\nmarkup = "html"\n'
DEEP = 3  # the last payloads, which are long
_FEW = 40  # of them are tried in comments and summaries too
_LEAST_THAT_RUN = 150  # of the payloads, where nothing takes them out
_OF_EACH = max(
    1, 3 // ROUNDS
)  # of so many payloads one is shown as it is; all of them in a longer campaign


def export(pieces: list[str]) -> bytes:
    """One entry for each piece; the first ones stand in a comment and in other texts as well."""
    root = etree.Element("rss", {"version": "2.0"}, {"content": CONTENT, "rp": RP})
    channel = etree.SubElement(root, "channel")
    etree.SubElement(channel, "title").text = "Orchard"
    etree.SubElement(channel, "link").text = SITE

    def put(parent: etree._Element, tag: str, text: str, **more: str) -> etree._Element:
        element = etree.SubElement(parent, f"{{{RP}}}{tag}", more)
        element.text = "".join(sign for sign in text if sign.isprintable() or sign in "\t\n\r")
        return element

    for number, address in enumerate(ADDRESSES):
        writer = put(channel, "writer", "", signs=f"w{number}")
        put(writer, "name", f"Writer {number}")
        put(writer, "web", html.unescape(address))
        put(writer, "about", pieces[-number - 1 - DEEP].translate(_PRINTED))
        put(channel, "signpost", "", board="top", words=f"Sign {number}", to=html.unescape(address.translate(_PRINTED)))  # fmt: skip
    for number, piece in enumerate(pieces):
        item = etree.SubElement(channel, "item")
        etree.SubElement(item, "title").text = f"Piece {number}"
        etree.SubElement(item, "link").text = f"{SITE}{number}/"
        etree.SubElement(item, "author").text = f"w{number % len(ADDRESSES)}"
        piece = piece.translate(_PRINTED)
        etree.SubElement(item, f"{{{CONTENT}}}encoded").text = piece
        put(item, "id", str(number + 1))
        put(item, "sort", "article")
        put(item, "state", "live")
        put(
            item,
            "formerly",
            html.unescape(ADDRESSES[number % len(ADDRESSES)]).translate(_PRINTED),
        )
        if number % 9 == 0 or number < _FEW:
            etree.SubElement(item, "description").text = piece
            put(item, "detail", piece, name="note")
            reply = put(item, "reply", "", id=f"c{number}", sort="reply", state="shown")
            put(reply, "name", "Visitor")
            put(reply, "web", html.unescape(ADDRESSES[number % len(ADDRESSES)]))
            put(reply, "text", piece)
    return etree.tostring(root, xml_declaration=True, encoding="utf-8")


_PRINTED = {number: f"&#{number};" for number in range(32) if chr(number) not in "\t\n\r"}


def shown(folder: Path) -> Iterator[str]:
    """All texts of a result that a host can take for HTML."""
    for path in sorted(folder.rglob("*")):
        if path.suffix in (".xml", ".atom", ".rss"):
            for node in etree.parse(path, etree.XMLParser(huge_tree=True)).iter():
                yield from (text for text in (node.text, *node.attrib.values()) if text)
        elif path.suffix in (".json", ".jsonl"):
            text = path.read_text("utf-8")
            for line in text.splitlines() if path.suffix == ".jsonl" else [text]:
                yield from strings(json.loads(line))
        elif path.suffix == ".md":
            front, _mark, text = path.read_text("utf-8")[4:].partition("\n---\n")
            yield front
            yield MarkdownIt("commonmark", {"html": True}).enable("table").render(text)
        elif path.suffix == ".creole":
            front, _mark, text = path.read_text("utf-8")[4:].partition("\n---\n")
            yield front
            yield plugins.get(plugins.MARKUPS, "creole").to_html(text)
        elif path.is_file():
            yield path.read_text("utf-8", "replace")


def strings(value: object) -> Iterator[str]:
    if isinstance(value, str):
        yield value
    elif isinstance(value, dict):
        yield from (text for member in value.values() for text in strings(member))
    elif isinstance(value, list):
        yield from (text for member in value for text in strings(member))


class Scripts(FolderCase):
    def test_the_payloads_do_run_as_they_are(self) -> None:
        self.assertGreaterEqual(len(set(payloads())), 300)
        some = [text for text in payloads() if len(text) < 5000][::_OF_EACH]
        found = browser.hits(some, self.folder)
        self.assertGreaterEqual(len(found), _LEAST_THAT_RUN // _OF_EACH)

    def test_none_runs_from_what_is_written(self) -> None:
        self.write("all.xml", export(payloads()))
        self.write("mine.toml", DIALECT)
        texts: dict[str, None] = {}
        for host in hosts.PROFILES.names():
            self.run_ok(
                "move", "all.xml", "--dialect", "mine.toml", "--to", host, "--out", host
            )
            unpack_zips(self.folder / host / "new")
            texts |= dict.fromkeys(shown(self.folder / host / "new"))
            moved = [
                row for row in rows(self.folder / host / "ledger.csv") if row["kind"] == "post"
            ]
            self.assertEqual({row["fate"] for row in moved}, {"moved"})
        for text in texts:
            if "<" not in text:
                self.assertFalse(runs_script(text), text)
        self.assertEqual(
            browser.hits([text for text in texts if "<" in text], self.folder), set()
        )

    def test_none_runs_from_a_report(self) -> None:
        pieces = payloads()[::7]
        self.write("all.xml", export(pieces))
        self.write("mine.toml", DIALECT)
        self.run_ok(
            "move", "all.xml", "--dialect", "mine.toml", "--to", "reedpost", "--out", "m"
        )
        self.assertEqual(browser.hits_of_page(self.folder / "m/report.html"), set())
