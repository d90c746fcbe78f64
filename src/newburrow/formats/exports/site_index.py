"""What the feeds and sitemaps among the pages of a site say of them: when each was written, by whom, about what."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator, Sequence

import msgspec
from lxml import etree

from newburrow.core import url
from newburrow.core.problem import BurrowError
from newburrow.dialects.selector import forget, local_name
from newburrow.formats.base import KnownPage
from newburrow.intake.head import head_of
from newburrow.intake.part import Part

_FEEDS = ("rss", "feed", "RDF")
_SITEMAP = "urlset"
_ITEMS = ("item", "entry", "url")
_PUBLISHED = ("pubDate", "published", "issued", "date")
_UPDATED = ("updated", "modified", "lastmod")
_AUTHORS = ("creator", "author")


def kind_of(part: Part) -> str:
    """`feed` or `sitemap` by the root element of a part; empty for anything else."""
    try:
        prolog = head_of(part).prolog
    except BurrowError:
        return ""
    root = local_name(prolog.root) if prolog else ""
    if root in _FEEDS:
        return "feed"
    return "sitemap" if root == _SITEMAP else ""


class SiteIndex:
    """The pages that feeds and sitemaps name, on disk."""

    def __init__(self, parts: Sequence[Part]) -> None:
        """Read them. One that is not well-formed is read as far as it is."""
        self._db = sqlite3.connect(
            ""
        )  # a database on disk, which goes away with the connection
        self._db.execute("CREATE TABLE page (key TEXT, data BLOB)")
        for part in parts:
            rows = (
                (url.key(address), msgspec.json.encode(page))
                for address, page in _pages(part)
                if url.key(address)
            )
            self._db.executemany("INSERT INTO page VALUES (?, ?)", rows)
        self._db.execute("CREATE INDEX page_key ON page (key)")

    def page(self, *addresses: str) -> KnownPage | None:
        """What is known of the page at one of these addresses; what several say of it is put together."""
        found = KnownPage()
        known = False
        for address in addresses:
            for (data,) in self._db.execute(
                "SELECT data FROM page WHERE key = ? ORDER BY rowid", (url.key(address),)
            ):
                page, known = msgspec.json.decode(data, type=KnownPage), True
                found = KnownPage(
                    found.published or page.published,
                    found.updated or page.updated,
                    found.authors or page.authors,
                    found.terms or page.terms,
                )
        return found if known else None


def _pages(part: Part) -> Iterator[tuple[str, KnownPage]]:
    with part.open() as stream:
        try:
            for _event, element in etree.iterparse(
                stream,
                events=("end",),
                resolve_entities=False,
                no_network=True,
                huge_tree=False,
            ):
                if isinstance(element.tag, str) and local_name(element.tag) in _ITEMS:
                    yield from _page(element)
                    forget(element)
        except (etree.XMLSyntaxError, BurrowError):
            return


def _page(item: etree._Element) -> Iterator[tuple[str, KnownPage]]:
    """The page that an item of a feed, or a line of a sitemap, is about."""
    found: dict[str, list[str]] = {}
    address = ""
    for child in item.iterchildren(tag=etree.Element):
        name = local_name(str(child.tag))
        text = " ".join("".join(map(str, child.itertext())).split())
        if name == "link" and child.get("href"):
            if child.get("rel", "alternate") == "alternate":
                address = address or child.get("href", "")
            continue
        if name in ("link", "loc"):
            address = address or text
        elif name == "category":
            found.setdefault(name, []).append(
                text or child.get("label") or child.get("term") or ""
            )
        elif name == "author" and (person := child.find("{*}name")) is not None:
            found.setdefault(name, []).append((person.text or "").strip())
        elif text:
            found.setdefault(name, []).append(text)
    if address:
        yield (
            address.strip(),
            KnownPage(
                next((found[name][0] for name in _PUBLISHED if name in found), ""),
                next((found[name][0] for name in _UPDATED if name in found), ""),
                tuple(next((found[name] for name in _AUTHORS if name in found), ())),
                tuple(filter(None, found.get("category", ()))),
            ),
        )
