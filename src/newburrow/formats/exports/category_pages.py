"""Categories that are pages of a wiki: a page named after one is about it, and links to it file a page under it."""

from __future__ import annotations

import re
from collections.abc import Iterator

from msgspec.structs import replace

from newburrow.core.problem import Problem
from newburrow.dialects.page_name import name_in
from newburrow.model import Entry, Term
from newburrow.model.reading import Item, Mention, Relation

VOCABULARY = "category"

# A link in each markup; the first group that is not empty names the page.
_LINKS = {
    "creole": re.compile(r"\[\[([^\]|\n]+)(?:\|[^\]\n]*)?\]\]"),
    "markdown": re.compile(r"\[\[([^\]|\n]+)(?:\|[^\]\n]*)?\]\]|\[([^\]\n]+)\]\([^)\s]*\)"),
    "html": re.compile(r"<a\b[^>]*>([^<]*)</a>", re.IGNORECASE),
}
_PARAGRAPH_OF_HTML = re.compile(r"(<p(?:\s[^>]*)?>.*?</p>\s*)", re.IGNORECASE | re.DOTALL)
_PARAGRAPH = re.compile(r"(\n[ \t]*\n\s*)")
_TAG_OF_PARAGRAPH = re.compile(r"</?p(?:\s[^>]*)?>", re.IGNORECASE)
_BETWEEN_LINKS = ",;|·•"


def with_categories(item: Item | Problem, pattern: str) -> Iterator[Item | Problem]:
    """A record, and the categories that it is about or filed under by links; any other record as it is.

    `pattern` is the dialect's name of a page about a category, with `{name}`; empty where it has none. A
    paragraph of nothing but links to such pages files the page under them, and leaves its text.
    """
    if not pattern or not isinstance(item, Entry):
        yield item
        return
    text, names = _filed(item.body.text, item.body.markup, pattern)
    if names:
        item = replace(item, body=replace(item.body, text=text))
    about = name_in(pattern, item.title)
    if about:
        yield _category(about, next(iter(names), ""), item)
    yield item
    for name in names:
        yield Mention(_category(name, "", item))
        yield Relation(item.key, "term", name, VOCABULARY, item.source)


def _category(name: str, above: str, page: Entry) -> Term:
    return Term(
        key=f"{VOCABULARY}/{name}",
        vocabulary=VOCABULARY,
        slug=name,
        name=name,
        parent=f"{VOCABULARY}/{above}" if above and above != name else "",
        source=page.source,
    )


def _filed(text: str, markup: str, pattern: str) -> tuple[str, list[str]]:
    """The text without the paragraphs that only file it, and the names of the categories, in their order."""
    link = _LINKS.get(markup)
    fixed = max(re.split(r"\{\+?name\}", pattern), key=len).strip()
    if link is None or fixed not in text:
        return text, []
    names, left = list[str](), list[str]()
    splitter = _PARAGRAPH_OF_HTML if markup == "html" else _PARAGRAPH
    for paragraph in splitter.split(text):
        filed = _categories_of(paragraph, link, pattern)
        names += filed
        if not filed:
            left.append(paragraph)
    return "".join(left).strip("\n"), list(dict.fromkeys(names))


def _categories_of(paragraph: str, link: re.Pattern[str], pattern: str) -> list[str]:
    """The names of the categories that a paragraph links to, if it consists of nothing but such links."""
    around = _TAG_OF_PARAGRAPH.sub("", link.sub("", paragraph))
    if around.translate(dict.fromkeys(map(ord, _BETWEEN_LINKS))).strip():
        return []
    targets = [next(filter(None, found.groups()), "") for found in link.finditer(paragraph)]
    names = [name_in(pattern, target.strip()) for target in targets]
    if all(names):
        return names
    return []
