"""A first dialect for a feed in an unknown one: every foreign element with its count, examples and best guess.

A guess goes by the element's name, by the shape of its values, and by what refers to what. It is there to be
read and corrected by a person: what was not guessed is a comment.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import BinaryIO

from lxml import etree

from newburrow.assess.dialect_draft.observations import (
    ENUMERATION,
    OUR_VALUES,
    VALUES,
    Observed,
    by_name,
    comment_on,
    line,
    prefixes,
    quoted,
    value_map,
)
from newburrow.formats.feed.feed_map import ATOM, DC

_KNOWN_SPACES = (
    ATOM[1:-1],
    DC[1:-1],
    "http://purl.org/rss/1.0/",
    "http://purl.org/rss/1.0/modules/content/",
    "http://purl.org/rss/1.0/modules/slash/",
    "http://purl.org/syndication/thread/1.0",
    "http://www.w3.org/2007/app",
    "http://www.w3.org/1999/02/22-rdf-syntax-ns#",
)
_ITEMS = ("item", ATOM + "entry", "{http://purl.org/rss/1.0/}item")

# Words in the name of an element -> the fact it may be, the most telling first.
_WORDS = {
    "id": ("id", "number", "key"),
    "kind": ("kind", "type", "sort"),
    "status": ("status", "state", "visibility"),
    "slug": ("slug",),
    "parent": ("parent", "within", "under"),
    "position": ("position", "order", "rank"),
    "lead_picture": ("lead", "thumbnail", "cover", "image", "picture"),
    "updated": ("updated", "modified", "changed"),
    "published": ("published", "created", "posted"),
    "language": ("language", "lang", "tongue"),
    "other_addresses": ("formerly", "redirect", "old"),
}
_COMMENT_WORDS = {
    "author_name": ("name", "author", "by"),
    "email": ("mail", "email"),
    "address": ("web", "url", "site", "uri"),
    "published": ("date", "at", "published", "time"),
    "body": ("text", "body", "content", "said"),
}
_MEDIA_WORDS = {
    "alternative_text": ("alt", "alternative"),
    "path": ("file", "filename", "path"),
    "address": ("source", "url", "src"),
    "media_type": ("type", "mime"),
    "caption": ("caption",),
}


def draft(stream: BinaryIO, format_name: str) -> str:
    """The text of a dialect file for the feed in the stream. Raises lxml.etree.XMLSyntaxError if it is not one."""
    items, spaces = _look(stream)
    return "\n".join(_FeedDraft(items, prefixes(spaces)).lines(format_name)) + "\n"


def _look(stream: BinaryIO) -> tuple[dict[str, Observed], list[str]]:
    """What is in items beside what the format itself knows, and the foreign namespaces."""
    seen: dict[str, Observed] = {}
    spaces: dict[str, None] = {}
    events = etree.iterparse(
        stream,
        events=("end",),
        tag=_ITEMS,
        resolve_entities=False,
        no_network=True,
        load_dtd=False,
        huge_tree=True,
        remove_comments=True,
        remove_pis=True,
    )
    for _event, item in events:
        for child in item.iterchildren(tag=etree.Element):
            space = etree.QName(child).namespace or ""
            if space and space not in _KNOWN_SPACES:
                spaces.setdefault(space)
                _note(seen.setdefault(child.tag, Observed()), child, 0)
        item.clear()
        while item.getprevious() is not None:
            del item.getparent()[0]
    return seen, list(spaces)


def _note(seen: Observed, element: etree._Element, depth: int) -> None:
    seen.note((element.text or "").strip())
    for name, value in element.attrib.items():
        seen.attributes.setdefault(str(name), Observed()).note(str(value))
    for child in element.iterchildren(tag=etree.Element) if depth < 2 else ():
        _note(seen.children.setdefault(child.tag, Observed()), child, depth + 1)


class _FeedDraft:
    """The lines of the dialect."""

    def __init__(self, items: dict[str, Observed], prefixes: dict[str, str]) -> None:
        self.items, self.prefixes = items, prefixes
        self.tags_by_field: dict[str, str] = {}  # our field -> tag
        self.listed: dict[str, Observed] = {}  # value map -> what holds their values

    def lines(self, format_name: str) -> Iterator[str]:
        """The whole file, line by line."""
        comment = self._guess_comment()
        fields = [
            tag
            for tag, seen in self.items.items()
            if tag != comment and "name" in seen.attributes
        ]
        for tag, seen in self.items.items():
            if tag != comment and tag not in fields:
                self._guess(tag, seen)
        self.listed |= {
            ours: self.items[self.tags_by_field[ours]]
            for ours in ("kind", "status")
            if ours in self.tags_by_field
        }
        media = self._media()
        yield from self._head(format_name)
        yield "\n[entry]"
        yield from self._settings(self.tags_by_field)
        yield from self._rest({*self.tags_by_field.values(), *media.values(), *fields, comment})
        for tag in fields:
            yield "\n" + line("[[entry.fields]]", comment_on(self.items[tag]))
            yield f'element = "{self._selector(tag)}"'
        yield from self._comment(comment) if comment else ()
        yield from ("\n[media]", *self._settings(media)) if media else ()
        for ours, seen in self.listed.items():
            yield from value_map(ours, seen)

    def _head(self, format_name: str) -> Iterator[str]:
        yield "# A first draft of a dialect, guessed from an export. Read it through, correct it, and give it a name."
        yield f'name = "draft"\ntitle = "A platform that somebody knows"\nformat = "{format_name}"\n\n[namespaces]'
        yield from (f'{prefix} = "{quoted(space)}"' for space, prefix in self.prefixes.items())
        if self.prefixes:
            yield f'\n[recognise]\nnamespace = "{quoted(next(iter(self.prefixes)))}"'

    def _settings(self, tags: dict[str, str]) -> Iterator[str]:
        for ours, tag in tags.items():
            yield line(f'{ours} = "{self._selector(tag)}"', comment_on(self.items[tag]))

    def _media(self) -> dict[str, str]:
        """Where the facts of files are, if some items are files."""
        if "kind" in self.tags_by_field:
            kinds = dict(self.items[self.tags_by_field["kind"]].values)
        else:
            kinds = {}
        if not any(value.lower() in OUR_VALUES["kind"]["media"] for value in kinds):
            return {}
        found: dict[str, str] = {}
        for tag in self.items:
            ours = by_name(tag, _MEDIA_WORDS)
            if ours and tag not in self.tags_by_field.values():
                found.setdefault(ours, tag)
        return found

    def _rest(self, done: set[str]) -> Iterator[str]:
        other_tags = [tag for tag in self.items if tag not in done]
        if other_tags:
            yield "# Not guessed; without a place these are kept in the content store and listed:"
        for tag in other_tags:
            yield line(f"# {self._selector(tag)}", comment_on(self.items[tag]))

    def _guess(self, tag: str, seen: Observed) -> None:
        ours = by_name(tag, _WORDS)
        fits = {
            "id": len(seen.values) == min(seen.count, VALUES),
            "kind": len(seen.values) <= ENUMERATION,
            "status": len(seen.values) <= ENUMERATION,
            "position": seen.all(r"-?\d+"),
            "updated": seen.dates(),
            "published": seen.dates(),
            "slug": seen.all(r"[^\s/?]*"),
            "parent": seen.all(r"\S+"),
            "lead_picture": seen.all(r"\S+"),
        }
        if ours and fits.get(ours, True) and ours not in self.tags_by_field:
            self.tags_by_field[ours] = tag

    def _guess_comment(self) -> str:
        """The element that holds comments: one with children of its own, some of which are dates and texts."""
        best, most = "", 0
        for tag, seen in self.items.items():
            found = {by_name(child, _COMMENT_WORDS) for child in seen.children} - {""}
            if "body" in found and len(found) > most:
                best, most = tag, len(found)
        return best

    def _comment(self, tag: str) -> Iterator[str]:
        seen = self.items[tag]
        yield "\n" + line("[comment]", comment_on(seen))
        yield f'element = "{self._selector(tag)}"'
        table = _COMMENT_WORDS | {name: _WORDS[name] for name in ("id", "kind", "status")}
        done: set[str] = set()
        for name, inner in (
            *((f"@{n}", s) for n, s in seen.attributes.items()),
            *seen.children.items(),
        ):
            ours = by_name(name.lstrip("@"), table)
            if name.startswith("@"):
                selector = name
            else:
                selector = self._selector(name)
            if ours and ours not in done and name != tag:
                done.add(ours)
                if ours in ("kind", "status"):
                    self.listed[f"comment_{ours}"] = inner
                yield line(f'{ours} = "{selector}"', comment_on(inner))
            elif name != tag:
                yield line(f"# {selector}", comment_on(inner))

    def _selector(self, tag: str) -> str:
        name = etree.QName(tag)
        prefix = self.prefixes.get(name.namespace or "")
        if prefix:
            return f"{prefix}:{name.localname}"
        return str(name.localname)
