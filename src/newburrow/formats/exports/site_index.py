"""What the feeds and sitemaps among the pages of a site say of them: when each was written, by whom, about what."""

from __future__ import annotations

import hashlib
import tempfile
import weakref
from collections import Counter
from collections.abc import Iterable, Iterator, Sequence

import msgspec
from lxml import etree

from newburrow.core import url
from newburrow.core.problem import BurrowError
from newburrow.core.saved_site import plain_place, site_around
from newburrow.dialects.selector import forget, local_name
from newburrow.intake.part import Part
from newburrow.model.reading import KnownPage

_FEEDS = ("rss", "feed", "RDF")
_SITEMAP = "urlset"
_LINE_OF_SITEMAP = "url"
_ITEMS = ("item", "entry", _LINE_OF_SITEMAP)
_PUBLISHED = ("pubDate", "published", "issued", "date")
_UPDATED = ("updated", "modified", "lastmod")
_AUTHORS = ("creator", "author")
_SAMPLE = 500  # addresses by which that of the site is looked for


def kind_of(root: str) -> str:
    """`feed` or `sitemap` by the name of the root element of a part; empty for anything else."""
    root = local_name(root)
    if root in _FEEDS:
        return "feed"
    if root == _SITEMAP:
        return "sitemap"
    return ""


class SiteIndex:
    """The pages that feeds and sitemaps name: in a temporary file, found by a short digest of their addresses."""

    def __init__(self, parts: Sequence[Part]) -> None:
        """Read them. One that is not well-formed is read as far as it is."""
        self._file = tempfile.TemporaryFile()  # noqa: SIM115 (stays open as long as pages are asked for)
        weakref.finalize(self, self._file.close)
        self._has_sitemap = False
        self._sample = dict[str, None]()
        self._places: dict[int, tuple[int, ...]] = {}  # digest -> where its lines begin
        for part in parts:
            for address, page in _pages(part):
                self._has_sitemap |= bool(page.in_sitemap)
                if len(self._sample) < _SAMPLE:
                    self._sample[address] = None
                if key := url.key(address):
                    digest = _digest(key)
                    self._places[digest] = (*self._places.get(digest, ()), self._file.tell())
                    self._file.write(msgspec.json.encode((key, page)) + b"\n")

    def page(self, *addresses: str) -> KnownPage | None:
        """What is known of the page at one of these addresses; what several say of it is put together."""
        found = [page for address in addresses for page in self._said_of(url.key(address))]
        if not found and not self._has_sitemap:
            return None
        if self._has_sitemap:
            is_in_sitemap = any(page.in_sitemap for page in found)
        else:
            is_in_sitemap = None
        return KnownPage(
            next((page.published for page in found if page.published), ""),
            next((page.updated for page in found if page.updated), ""),
            next((page.authors for page in found if page.authors), ()),
            next((page.terms for page in found if page.terms), ()),
            is_in_sitemap,
        )

    def site_of(self, places: Iterable[str]) -> str:
        """The address of the site whose pages are at these places below it; empty where too few addresses fit one."""
        known = {plain for place in places if (plain := plain_place(place))}
        found = Counter(filter(None, (site_around(address, known) for address in self._sample)))
        for site, number in found.most_common(1):
            if 2 * number >= min(len(self._sample), len(known)):
                return site
        return ""

    def _said_of(self, key: str) -> Iterator[KnownPage]:
        for place in self._places.get(_digest(key), ()):
            self._file.seek(place)
            known_key, page = msgspec.json.decode(
                self._file.readline(), type=tuple[str, KnownPage]
            )
            if known_key == key:
                yield page


def _digest(key: str) -> int:
    return int.from_bytes(
        hashlib.blake2b(key.encode("utf-8", "replace"), digest_size=8).digest(), "big"
    )


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
                True if local_name(str(item.tag)) == _LINE_OF_SITEMAP else None,
            ),
        )
