"""A site saved as HTML pages: the reader. Each page is an entry, with the comments that stand on it."""

from __future__ import annotations

import posixpath
from collections.abc import Iterator
from urllib.parse import quote

from msgspec.structs import replace

from newburrow.core import url
from newburrow.core.problem import Problem
from newburrow.dialects.css_selector import CssSelector
from newburrow.dialects.schema import NO_DIALECT, Addresses, Dialect, RecordMap
from newburrow.formats.base import Input
from newburrow.formats.html import copies, known_facts, moved_page
from newburrow.formats.html.document import Document
from newburrow.formats.html.own_facts import OwnFacts
from newburrow.formats.html.page_view import PageView
from newburrow.formats.records.mapping import Mapper, maps_for
from newburrow.formats.records.record_facts import compiled_map
from newburrow.intake.encodings import PageText, page_text
from newburrow.intake.whole_text import whole_text
from newburrow.markup.base import MISSING_PAGE
from newburrow.markup.html import Fragment, TooDeep
from newburrow.model import COPY_OF, OUTSIDE_SITEMAP, Comment, Entry, Where
from newburrow.model.reading import FormerAddress, Item, Relation

PLAIN = Dialect(
    name=NO_DIALECT,
    format="html",
    title="no dialect: what pages say about themselves in open vocabularies",
    addresses=Addresses(index=["index.html"]),
    records=[
        RecordMap(
            of="entry",
            take={
                "id": "(place)",
                "kind": "(kind)",
                "title": ["(title)", "(name)"],
                "slug": "(name)",
                "permalink": ["(permalink)", "(shown_address)"],
                "published": "(published)",
                "updated": "(updated)",
                "author": "(author)",
                "summary": "(summary)",
                "body": "(body)",
                "base": "(address)",
                "language": "(language)",
                "lead_picture": "(lead_picture)",
                "parent": "(parent)",
            },
            always={"kind": "page"},
            terms={"tag": "(tags)", "category": "(categories)"},
            inner=[
                RecordMap(
                    of="comment",
                    each="(comments)",
                    take={
                        "id": "(id)",
                        "author_name": "(author)",
                        "address": "(address)",
                        "published": "(published)",
                        "parent": "(parent)",
                        "body": "(text)",
                    },
                )
            ],
        ),
        RecordMap(
            of="menu",
            each="(menu)",
            file="(front page)",
            take={
                "id": "(id)",
                "menu": "(menu)",
                "label": "(label)",
                "target": "(target)",
                "parent": "(parent)",
                "position": "(position)",
            },
        ),
    ],
)


def read(source: Input) -> Iterator[Item | Problem]:
    """The entry of one page, its comments, and of the front page the menu. Raises BurrowError for a page too large."""
    data = whole_text(source.stream, source.label, "page")
    if source.top:
        place = posixpath.relpath(source.name, source.top)
    else:
        place = source.name
    page = page_text(data, source.dialect.encoding)
    yield from _encoding_doubts(page, source.label)
    document = Document(page.text, place, source.base, source.site_title)
    if source.address:
        document.stood_at(source.address)
    if target := moved_page.target(document):
        yield FormerAddress(document.shown_address, target, Where(source.label))
        return
    document.is_front_page = source.is_front_page
    document.layout = ",".join(
        css for rules in source.dialect.records if rules.of == "entry" for css in rules.layout
    )
    view = PageView(document, None, OwnFacts(document))
    mapper = Mapper(source)
    for rules in maps_for(source, "html"):
        compiled = compiled_map(rules, CssSelector)
        views = view.inner(compiled.each) if compiled.each else [view]
        for found in views:
            yield from _settled(mapper.records(compiled, found), document, source)
    if document.was_deep:
        yield Problem.at(Where(source.label), "too-deep")
    source.progress(1)


def _encoding_doubts(page: PageText, label: str) -> Iterator[Problem]:
    """What a person should check of the letters of a page."""
    if page.wrong_lines:
        where = Where(label, page.wrong_lines[0])
        yield Problem.at(where, "encoding-mixed", file=label, number=len(page.wrong_lines))
    elif page.encoding and page.encoding.guessed:
        where, name = Where(label), page.encoding.name
        yield Problem.at(where, "encoding-guessed", file=label, encoding=name)


def _settled(
    items: Iterator[Item | Problem], document: Document, source: Input
) -> Iterator[Item | Problem]:
    """The same with what only the whole page tells: keys of comments, the page above, links to missing pages."""
    entry, said, known = "", set[str](), None
    trail: list[Relation] = []
    for item in items:
        if isinstance(item, Entry):
            entry = item.key
            own = copies.with_own_address(item, document, source)
            titled = replace(own, title=document.without_site(item.title))
            item = _with_file(
                _linked(titled, source.dialect, document), document, source.dialect
            )
            known = source.known_page(item.permalink, document.address, document.shown_address)
            if known:
                item = known_facts.dated(item, known, source)
            yield from _remarks(item, source)
        elif isinstance(item, Comment):
            item = _keyed(item)
        elif isinstance(item, Relation):
            if item.of in ("parent", "above") and "://" in item.word:
                trail.append(item)
                continue
            said.add(item.of)
        yield item
    above = _nearest_first(trail, document)
    yield from above
    if known:
        yield from known_facts.relations(entry, known, said, source)
    if entry and not above and "parent" not in said:
        for path in _above(document.path):
            address = url.resolve(document.site, quote(path))
            yield Relation(entry, "above", address, source=Where(source.label))


def _nearest_first(trail: list[Relation], document: Document) -> list[Relation]:
    """The pages above, which the page names from the front page on, as they are tried: the one right above it first."""
    own = (document.address, document.shown_address)
    above = [step for step in reversed(trail) if step.word.partition("#")[0] not in own]
    return [
        replace(step, of="above" if number else "parent") for number, step in enumerate(above)
    ]


def _remarks(entry: Entry, source: Input) -> Iterator[Problem]:
    if COPY_OF in entry.extra:
        yield Problem.about(entry, "copy-of-page")
    if OUTSIDE_SITEMAP in entry.extra:
        yield Problem.about(entry, "outside-sitemap")
    if not entry.body.text:
        problem = Problem.at(Where(source.label), "page-without-body", file=source.name)
        yield replace(problem, object="entry", key=entry.key)


def _keyed(comment: Comment) -> Comment:
    """The comment with a key of its own among those of all pages: pages number their comments each for itself."""

    def key(word: str) -> str:
        if not word or "://" in word or word.startswith(f"{comment.entry}#"):
            return word
        return f"{comment.entry}#{word.removeprefix('#')}"

    return replace(comment, key=key(comment.key), parent=key(comment.parent))


def _above(place: str) -> Iterator[str]:
    """The paths that the page above a page can have, by the folders that it lies in; the front page is above none."""
    folder, _slash, last = place.rpartition("/")
    if last.lower() in url.INDEX_FILES:
        folder = posixpath.dirname(folder)
    if folder:
        yield from (f"{folder}/{name}" for name in url.INDEX_FILES[:2])
        yield f"{folder}.html"


def _with_file(entry: Entry, document: Document, dialect: Dialect) -> Entry:
    """The entry with the address of its file, where visitors see the folder of an `index.htm` or the like."""
    last = document.address.rpartition("/")[2]
    if entry.permalink != document.shown_address or entry.permalink == document.address:
        return entry
    if last in dialect.addresses.index or document.address in entry.addresses:
        return entry
    if "?" in entry.permalink:  # the file has the address of no page
        return entry
    return replace(entry, addresses=(*entry.addresses, document.address))


def _linked(entry: Entry, dialect: Dialect, document: Document) -> Entry:
    """The entry with its links to missing pages marked as such, with the name of the page as their address."""
    css = dialect.wiki.missing
    if not css or not document.may_hold(css):
        return entry
    try:
        fragment = Fragment(entry.body.text)
    except TooDeep:
        return entry
    for node in fragment.select(css):
        if node.tag == "a":
            node.attrs["class"] = MISSING_PAGE
            node.attrs["href"] = " ".join(
                (node.attributes.get("title") or node.text() or "").split()
            )
    return replace(entry, body=replace(entry.body, text=fragment.html()))
