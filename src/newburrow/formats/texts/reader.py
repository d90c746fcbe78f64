"""A folder of texts: the reader. Each file is an entry; its front matter is a record like those of JSON."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Any
from urllib.parse import quote, unquote

from msgspec.structs import replace

from newburrow.core import plugins
from newburrow.core.problem import Problem
from newburrow.dialects.json_selector import JsonSelector
from newburrow.dialects.schema import NO_DIALECT, Dialect, EntryMap, RecordMap
from newburrow.formats import menu_lines
from newburrow.formats.base import Input
from newburrow.formats.records.mapping import Mapper, maps_for
from newburrow.formats.records.record_facts import compiled_map
from newburrow.formats.records.record_view import JsonView
from newburrow.formats.texts.front_matter import BrokenFrontMatter, split
from newburrow.intake.whole_text import whole_text
from newburrow.markup.base import Unreadable
from newburrow.markup.html import Fragment, TooDeep
from newburrow.model import Entry, MenuItem, Where
from newburrow.model.reading import Item

_DATED = re.compile(r"(\d{4}-\d\d-\d\d)-(.+)")
# A first heading, which in Markdown may come after comments (CommonMark 4.2 and 6.6).
_HEADINGS = {
    "markdown": re.compile(r"((?:\s|<!--.*?-->)*)#[ \t]+([^\n]+)(?:\n|\Z)", re.DOTALL),
    "creole": re.compile(r"(\s*)=(?!=)([^\n]+)(?:\n|\Z)"),
}
_SIGNS = re.compile(r"[*_`\[\]<>&\\~/{}^!]|\*\*|##|,,")  # of markup within a heading
_OPENS_HEADING = _CLOSES_HEADING = {"markdown": "#", "creole": "="}

# Facts of the file beside its front matter; the brackets keep their names apart from those in it.
BODY, FOLDER, HOLDER, NAME, PATH, ADDRESS, DATE, HEADING = (
    "(body)",
    "(folder)",
    "(holder)",  # the last name of the folder
    "(name)",
    "(path)",
    "(address)",  # of the file, below the site
    "(date)",
    "(heading)",
)

_PLAIN = Dialect(
    name=NO_DIALECT,
    format="markdown",
    title="no dialect: front matter in words that several programs share",
    values={
        "status": {"true": "draft", "false": "published", "True": "draft", "False": "published"}
    },
    records=[
        RecordMap(
            of="entry",
            take={
                "id": ["id", PATH],
                "kind": "kind",
                "status": ["status", "draft"],
                "title": ["title", HEADING],
                "slug": ["slug", NAME],
                "permalink": "permalink",
                "published": ["published", "date", DATE],
                "updated": "updated",
                "author": ["authors", "$.author.name", "author"],
                "summary": ["summary", "description"],
                "body": BODY,
                "markup": "markup",
                "language": ["language", "lang"],
                "position": "position",
                "other_addresses": "formerly",
                "parent": "parent",
                "lead_picture": ["lead_picture", "image"],
                "enclosures": "enclosures",
                "folder": FOLDER,
                "base": ADDRESS,
            },
            terms={
                "tag": ["tags", "keywords"],
                "category": "categories",
                "section": [FOLDER],
            },
            address="/{+folder}/{slug}/",
        )
    ],
)


def plain_dialect(markup: str) -> Dialect:
    """The dialect for texts in a markup where none is known. Without dates, pages in Creole are those of a wiki."""
    rules = _PLAIN.records[0]
    if markup == "creole":
        rules = replace(rules, always={"kind": "wiki-page"})
    return replace(_PLAIN, format=markup, entry=EntryMap(markup=markup), records=[rules])


def read(source: Input, markup: str) -> Iterator[Item | Problem]:
    """The records of one file: an entry, or what else the dialect says that a file of this name is.

    `markup` is that of the texts, and the name of the format. Raises BurrowError for a text that is too large.
    """
    data = whole_text(source.stream, source.label, "text")
    text = data.decode("utf-8")
    try:
        front, body, _line = split(text)
    except BrokenFrontMatter as error:
        front, body, _line = {}, text, 1
        message = f"The front matter cannot be read: {error}; it stays in the body."
        yield replace(
            Problem.at(Where(source.label, error.line), "front-matter", message=message),
            object="entry",
            key=source.name,
        )
    mapper = Mapper(source)
    for rules in maps_for(source, markup):
        record = front | _of_file(source.name, body, front, markup, rules)
        for item in mapper.records(compiled_map(rules, JsonSelector), JsonView(record, 1)):
            yield item
            navigation = source.dialect.wiki.navigation
            if not isinstance(item, Entry) or item.title != navigation or not navigation:
                continue
            if not _has_menu_file(source):
                yield from _menu(item)
    source.progress(1)


def _words_of(heading: re.Match[str], markup: str) -> str:
    """What a heading says, without the signs that may close it."""
    words, sign = heading[2].strip(), _CLOSES_HEADING[markup]
    bare = words.rstrip(sign)
    if markup == "creole" or not bare or bare[-1] in " \t":
        words = bare.strip()
    return words


def _in_words(heading: str, markup: str) -> tuple[str, bool]:
    """The words of a heading that may have markup in it, and whether there is a link or a picture in it."""
    if not _SIGNS.search(heading):  # as in most
        return heading, False
    line = f"{_OPENS_HEADING[markup]} {heading} {_CLOSES_HEADING[markup]}"
    try:
        shown = Fragment(plugins.get(plugins.MARKUPS, markup).to_html(line))
    except (TooDeep, Unreadable):
        return heading, False
    node = shown.first()
    words = " ".join((node.text() or "").split()) if node is not None else ""
    return words or heading, bool(shown.select("a[href],img"))


def _has_menu_file(source: Input) -> bool:
    """Whether the export says its menu in a file of its own, which counts before a page."""
    return any(
        rules.of == "menu" and source.has(rules.file.replace("*", ""))
        for rules in source.dialect.records
    )


def _menu(page: Entry) -> Iterator[MenuItem]:
    """The lists of the page that is the menu of a wiki; a line leads to the page that it names."""
    try:
        text = plugins.get(plugins.MARKUPS, page.body.markup).to_html(page.body.text)
        holder = Fragment(f"<nav>{text}</nav>").first()
    except (TooDeep, Unreadable):
        return
    for facts in menu_lines.lines(holder, str) if holder is not None else ():
        one = {name: texts[0] for name, texts in facts.items() if texts}
        yield MenuItem(
            key=one["id"],
            menu="main",
            label=one["label"],
            target=one["target"],
            parent=one.get("parent", ""),
            position=int(one["position"]),
            source=page.source,
        )


def _of_file(
    name: str, body: str, front: dict[str, Any], markup: str, rules: RecordMap
) -> dict[str, Any]:
    """What the file's own name and text say."""
    folder, _slash, last = name.rpartition("/")
    stem = last.rpartition(".")[0] or last
    is_page_name = NAME in rules.take.get(
        "id", ()
    )  # as in a wiki, where a page may be called "index"
    if stem in ("index", "_index") and folder and not is_page_name:
        folder, _slash, stem = folder.rpartition("/")  # a text with its files beside it
    facts: dict[str, Any] = {}
    if markup == "creole":
        stem = unquote(stem)  # signs of a page's name that the name of a file cannot have
        facts[HOLDER] = unquote(folder.rpartition("/")[2])
    dated = _DATED.fullmatch(stem)
    facts |= {
        PATH: name,
        FOLDER: folder,
        NAME: dated[2] if dated else stem,
        DATE: dated[1] if dated else "",
        BODY: body,
    }
    if any(ADDRESS in selectors for selectors in rules.take.values()):
        facts[ADDRESS] = quote(name)
    heading = _HEADINGS[markup].match(body)
    if heading is None:
        return facts
    source = _words_of(heading, markup)
    words, has_more = _in_words(source, markup)
    if HEADING in rules.take.get("title", ()):
        is_title = "title" not in front
    else:  # the name of the file is the title, which the text may say again
        is_title = (front.get("title") or facts[NAME]) in (source, words)
    if is_title:
        facts[HEADING] = words
    if is_title and not has_more:  # what leads somewhere stays in the text
        before = heading[1].strip()
        after = body[heading.end() :].lstrip("\n")
        facts[BODY] = f"{before}\n\n{after}" if before else after
    return facts
