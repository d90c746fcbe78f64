"""What pages say in the vocabulary of schema.org, as JSON-LD or as microdata (HTML standard section 5)."""

from __future__ import annotations

import html
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
_OF_HTML = ("text", "articleBody")  # properties whose texts are read as HTML
_NAMES = (
    "name",
    "url",
    "contentUrl",
    "@id",
)  # properties by which a thing is known, the best first
Thing = dict[str, Any]  # property -> value, list of values or Thing; `@type` is a list of names


def things(document: Document) -> list[Thing]:
    """All things that a page describes, the outermost ones and what those are about, JSON-LD before microdata."""
    found: list[Thing] = []
    for node in document.all('script[type="application/ld+json"]'):
        text = node.text() or ""
        if len(text) <= _MOST:
            try:
                found += list(_flat(json.loads(text), 0))
            except (ValueError, RecursionError):
                continue
    _settle(found)
    for node in document.all("[itemscope]"):
        if "itemprop" not in node.attributes:
            found += _with_main(_microdata(node, document, 0))
    return found


def main_thing(found: list[Thing], own: set[str], titles: str) -> Thing:
    """The one that the page is about; an empty one where there is none.

    Of several articles of one type it is the one with an address of the page (`own`), or with a title that the page
    shows in `titles`: a page that shows several is none of them.
    """
    for names in (ARTICLES, PAGES):
        suited = [thing for thing in found if _is_a(thing, names)]
        if not suited:
            continue
        alike = [thing for thing in suited if _types(thing) == _types(suited[0])]
        if len(alike) == 1:
            return alike[0]
        for thing in alike:
            if own & set(_texts(thing, "url", "mainEntityOfPage", "@id")):
                return thing
        folded = titles.casefold()
        named_so = [
            thing
            for thing in alike
            if any(title.casefold() in folded for title in _texts(thing, "headline", "name"))
        ]
        if len(named_so) == 1:
            return named_so[0]
    return {}


def _with_main(thing: Thing) -> Iterator[Thing]:
    """A thing, and those that it says it is about."""
    yield thing
    yield from (main for main in _listed(thing.get("mainEntity")) if isinstance(main, dict))


def _settle(found: list[Thing]) -> None:
    """Put the things that are named by their `@id` alone in the places where they are named (JSON-LD 1.1, section 3.3).

    Texts that were written for HTML lose its references to characters.
    """
    known: dict[str, Thing] = {}
    for thing in found:
        identifier = thing.get("@id")
        if isinstance(identifier, str) and len(thing) > 1:
            known.setdefault(identifier, thing)
    for thing in found:
        _settle_values(thing, known, 0)


def _settle_values(thing: Thing, known: dict[str, Thing], depth: int) -> None:
    for name, value in thing.items():
        values = [_settled(name, member, known, depth) for member in _listed(value)]
        thing[name] = values if isinstance(value, list) else next(iter(values), value)


def _settled(name: str, value: Any, known: dict[str, Thing], depth: int) -> Any:
    if isinstance(value, str):
        if name in _OF_HTML or "&" not in value:
            return value
        return html.unescape(value)
    if not isinstance(value, dict):
        return value
    if set(value) <= {"@id", "@type"} and value.get("@id") in known:
        return known[value["@id"]]
    if depth < _DEEPEST:
        _settle_values(value, known, depth + 1)
    return value


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
    seen: set[int] = set()  # things can name one another in a circle
    while waiting:
        comment, parent = waiting.pop(0)
        if not isinstance(comment, dict) or id(comment) in seen:
            continue
        seen.add(id(comment))
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
            yield from _with_main(value)
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
            if depth < _DEEPEST:
                value = _microdata(found, document, depth + 1)
            else:
                value = ""
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


def _types(thing: Thing) -> list[str]:
    """The names of the types of a thing, without the address of their vocabulary."""
    return [
        str(type_).rpartition("/")[2].rpartition(":")[2]
        for type_ in _listed(thing.get("@type"))
    ]


def _is_a(thing: Thing, names: tuple[str, ...]) -> bool:
    return any(type_ in names for type_ in _types(thing))


def _listed(value: Any) -> list[Any]:
    if value is None:
        return []
    if isinstance(value, list):
        return value
    return [value]


def _texts(thing: Thing, *names: str) -> list[str]:
    """The texts of the first of these properties that has any; of a thing its name, or its address."""
    for name in names:
        found = [words_of(text) for value in _listed(thing.get(name)) if (text := _text(value))]
        if any(found):
            return list(filter(None, found))
    return []


def _text(value: Any) -> str:
    """A text, a number, or that by which a thing is known."""
    if isinstance(value, str | int | float):
        return str(value)
    if isinstance(value, dict):
        for key in _NAMES:
            for name in _listed(value.get(key)):
                if isinstance(name, str | int | float) and words_of(str(name)):
                    return str(name)
    return ""


def _parted(texts: list[str]) -> list[str]:
    """Keywords: a list, or one text with commas between them."""
    return [part.strip() for text in texts for part in text.split(",") if part.strip()]
