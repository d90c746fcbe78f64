"""What pages say in the vocabulary of schema.org, as JSON-LD or as microdata (HTML standard section 5)."""

from __future__ import annotations

import json
from collections.abc import Iterator
from typing import Any

from selectolax.lexbor import LexborNode

from newburrow.formats.html.document import Document, text_of, words_of

ARTICLES = (
    "Article",
    "BlogPosting",
    "NewsArticle",
    "TechArticle",
    "ScholarlyArticle",
    "Report",
    "SocialMediaPosting",
    "LiveBlogPosting",
    "Recipe",
    "HowTo",
)
PAGES = ("WebPage", "AboutPage", "ContactPage", "FAQPage", "ItemPage", "CreativeWork")
_POSTS = ("BlogPosting", "NewsArticle", "SocialMediaPosting", "LiveBlogPosting")
_MOST = 200_000  # characters of one JSON-LD script
_DEEPEST = 20
Thing = dict[str, Any]  # property -> value, list of values or Thing; `@type` is a list of names


def things(document: Document) -> list[Thing]:
    """All things that a page describes, the outermost ones, JSON-LD before microdata."""
    found = []
    for node in document.all('script[type="application/ld+json"]'):
        text = node.text() or ""
        if len(text) <= _MOST:
            try:
                found += list(_flat(json.loads(text), 0))
            except (ValueError, RecursionError):
                continue
    for node in document.all("[itemscope]"):
        if "itemprop" not in node.attributes:
            found.append(_microdata(node, document, 0))
    return found


def main_thing(found: list[Thing]) -> Thing:
    """The one that the page is about; an empty one where there is none."""
    for names in (ARTICLES, PAGES):
        for thing in found:
            if _is_a(thing, names):
                return thing
    return {}


def named(found: list[Thing], type_: str) -> list[Thing]:
    """All things of a type."""
    return [thing for thing in found if _is_a(thing, (type_,))]


def facts(thing: Thing, document: Document) -> dict[str, list[str]]:
    """The facts of an article or page, as lists of texts."""
    made = {
        "title": _texts(thing, "headline", "name"),
        "published": _texts(thing, "datePublished", "dateCreated"),
        "updated": _texts(thing, "dateModified"),
        "author": _texts(thing, "author", "creator"),
        "summary": _texts(thing, "description", "abstract"),
        "tags": _parted(_texts(thing, "keywords")),
        "categories": _texts(thing, "articleSection"),
        "language": _texts(thing, "inLanguage"),
        "lead_picture": [
            document.resolved(text) for text in _texts(thing, "image", "thumbnailUrl")
        ],
    }
    if _is_a(thing, _POSTS):
        made["kind"] = ["post"]
    return {name: texts for name, texts in made.items() if texts}


def comments(thing: Thing, document: Document) -> Iterator[dict[str, list[str]]]:
    """The comments on an article; answers within comments follow what they answer."""
    waiting = [(comment, "") for comment in _listed(thing.get("comment"))]
    while waiting:
        comment, parent = waiting.pop(0)
        if not isinstance(comment, dict):
            continue
        key = next(iter(_texts(comment, "@id", "identifier", "url")), "")
        body = comment.get("(html)") or _texts(comment, "text", "description")
        above = _listed(comment.get("parentItem"))
        if above and isinstance(above[0], dict):
            parent = next(iter(_texts(above[0], "@id", "url")), parent)
        made = {
            "id": [key],
            "author": _texts(comment, "author", "creator"),
            "published": _texts(comment, "dateCreated", "datePublished"),
            "address": _texts(
                comment["author"] if isinstance(comment.get("author"), dict) else {}, "url"
            ),
            "text": body,
            "parent": [parent],
        }
        yield {name: [text for text in texts if text] for name, texts in made.items()}
        answers = [(answer, key) for answer in _listed(comment.get("comment"))]
        waiting = answers + waiting


def _flat(value: Any, depth: int) -> Iterator[Thing]:
    """The things in a JSON-LD document: it can be one, a list, or a graph."""
    if depth > _DEEPEST:
        return
    if isinstance(value, list):
        for member in value:
            yield from _flat(member, depth + 1)
    elif isinstance(value, dict):
        if "@type" in value:
            yield value
            main = value.get("mainEntity")
            if isinstance(main, dict):
                yield main
        yield from _flat(value.get("@graph"), depth + 1)


def _microdata(node: LexborNode, document: Document, depth: int) -> Thing:
    """A thing in microdata, with the things in it (HTML standard section 5.2.4)."""
    types = (node.attributes.get("itemtype") or "").split()
    thing: Thing = {"@type": [type_.rstrip("/").rpartition("/")[2] for type_ in types]}
    if identifier := node.attributes.get("itemid") or node.attributes.get("id"):
        thing["@id"] = identifier
    inner = {found.mem_id for found in node.css("[itemscope]")} - {node.mem_id}
    for found in node.css("[itemprop]"):
        if found.mem_id == node.mem_id or _in_other(found, node, inner):
            continue
        value: Any
        if found.mem_id in inner:
            value = _microdata(found, document, depth + 1) if depth < _DEEPEST else ""
        else:
            value = _value(found, document)
        for name in (found.attributes.get("itemprop") or "").split():
            thing.setdefault(name, []).append(value)
            if name == "text":
                thing["(html)"] = [found.inner_html or ""]
    return thing


def _in_other(node: LexborNode, scope: LexborNode, inner: set[int]) -> bool:
    above = node.parent
    while above is not None and above.mem_id != scope.mem_id:
        if above.mem_id in inner:
            return True
        above = above.parent
    return False


def _value(node: LexborNode, document: Document) -> str:
    """The value of a property (HTML standard section 5.2.4)."""
    attributes = node.attributes
    if "content" in attributes:
        return words_of(attributes["content"] or "")
    for name in ("href", "src", "data"):
        if name in attributes:
            return document.resolved(attributes[name] or "")
    for name in ("datetime", "value"):
        if attributes.get(name):
            return attributes[name] or ""
    return text_of(node)


def _is_a(thing: Thing, names: tuple[str, ...]) -> bool:
    types = [
        str(type_).rpartition("/")[2].rpartition(":")[2]
        for type_ in _listed(thing.get("@type"))
    ]
    return any(type_ in names for type_ in types)


def _listed(value: Any) -> list[Any]:
    if value is None:
        return []
    if isinstance(value, list):
        return value
    return [value]


def _texts(thing: Thing, *names: str) -> list[str]:
    """The texts of the first of these properties that has any; of a thing its name, or its address."""
    for name in names:
        found = []
        for value in _listed(thing.get(name)):
            if isinstance(value, dict):
                value = next(
                    (
                        text
                        for key in ("name", "url", "contentUrl", "@id")
                        for text in _texts(value, key)
                    ),
                    "",
                )
            if isinstance(value, str | int | float) and words_of(str(value)):
                found.append(words_of(str(value)))
        if found:
            return found
    return []


def _parted(texts: list[str]) -> list[str]:
    """Keywords: a list, or one text with commas between them."""
    return [part.strip() for text in texts for part in text.split(",") if part.strip()]
