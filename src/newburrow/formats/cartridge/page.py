"""A page of a package: an HTML file, whose body is the lesson."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import BinaryIO
from urllib.parse import quote

from msgspec.structs import replace
from selectolax.lexbor import LexborHTMLParser

from newburrow.core import url
from newburrow.core.dates import parse_date, zone_named
from newburrow.core.problem import Problem
from newburrow.formats.cartridge.manifest import Resource
from newburrow.formats.qti1.material import without_file_base
from newburrow.intake.encodings import encoding_of, page_text
from newburrow.intake.whole_text import whole_text
from newburrow.markup.html import DEEPEST, deeper_than, flattened, with_few_attributes
from newburrow.model import Author, Body, Entry, Where
from newburrow.model.reading import Item, Mention, Relation


def lesson_of(
    resource: Resource, entry: Entry, site: str, opened: Callable[[str], BinaryIO]
) -> Iterator[Item | Problem]:
    """The lesson in the file of a resource. Raises FileNotFoundError, and BurrowError where it is too large."""
    with opened(resource.path) as stream:
        data = whole_text(stream, resource.path, "page")
    text, _cut = with_few_attributes(_decoded(data))
    if deeper_than(text, DEEPEST):
        text = flattened(text)
        yield Problem.at(Where(resource.path), "too-deep")
    page = LexborHTMLParser(without_file_base(text))
    body, html = page.body, page.css_first("html")
    title = page.css_first("head > title")
    facts = _facts(page)
    shown = " ".join((title.text() if title else "").split())
    zone = zone_named("")
    where, base = Where(resource.path), url.resolve(site, quote(resource.path))
    yield replace(
        entry,
        kind="lesson",
        title=entry.title or shown or resource.path.rpartition("/")[2].rpartition(".")[0],
        language=(html.attributes.get("lang") or "") if html else "",
        summary=facts.get("description", [""])[0],
        published=parse_date(facts.get("date", [""])[0], zone),
        updated=parse_date(facts.get("last-modified", [""])[0], zone),
        fields={
            node.attributes.get("property") or "": node.attributes.get("content") or ""
            for node in page.css('head > meta[name="field"][property]')
        },
        enclosures=tuple(
            url.resolve(base, node.attributes.get("href") or "")
            for node in page.css('head > link[rel="enclosure"][href]')
        ),
        body=Body(
            (body.inner_html or "").strip() if body else "",
            base=base,
        ),
        source=where,
    )
    for name in facts.get("author", ()):
        yield Mention(_author(name, page))
        yield Relation(entry.key, "author", name, source=where)
    for name in facts.get("keywords", ()):
        yield Relation(entry.key, "term", name, "tag", where)


def _author(name: str, page: LexborHTMLParser) -> Author:
    """An author with the addresses that the head of a page gives under that name."""
    links = [
        node.attributes.get("href") or ""
        for node in page.css('head > link[rel="author"][href]')
        if node.attributes.get("title") == name
    ]
    mails = [link.removeprefix("mailto:") for link in links if link.startswith("mailto:")]
    others = [link for link in links if not link.startswith("mailto:")]
    return Author(
        key=name, name=name, email=next(iter(mails), ""), address=next(iter(others), "")
    )


def _facts(page: LexborHTMLParser) -> dict[str, list[str]]:
    """What the head of a page says of it: name -> values."""
    found: dict[str, list[str]] = {}
    for node in page.css("head > meta[name][content]"):
        name = (node.attributes.get("name") or "").lower()
        if value := (node.attributes.get("content") or "").strip():
            found.setdefault(name, []).append(value)
    return found


def _decoded(data: bytes) -> str:
    """The page as text: UTF-8, or what it declares or begins with."""
    encoding = encoding_of(data[:4096])
    if encoding:
        return data.decode(encoding.name, "replace")
    return page_text(data).text
