"""A first dialect for a feed in an unknown one: every foreign element with its count, examples and best guess.

A guess goes by the element's name, by the shape of its values, and by what refers to what. It is there to be
read and corrected by a person: what was not guessed is a comment.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from typing import BinaryIO

from lxml import etree
from msgspec import Struct, field

from newburrow.assess.dialect_draft.guesses import type_by_name
from newburrow.assess.dialect_draft.observations import (
    ENUMERATION,
    MAYBE_STATE,
    OUR_VALUES,
    VALUES,
    Observed,
    all_known,
    by_name,
    comment_on,
    could_be_state,
    line,
    prefixes,
    quoted,
    value_map,
    words_in,
)
from newburrow.core import url
from newburrow.dialects.selector import forget, local_name, namespace_of
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
_HOLDERS = ("channel", ATOM + "feed", "{http://www.w3.org/1999/02/22-rdf-syntax-ns#}RDF")
_ITEMS = ("item", ATOM + "entry", "{http://purl.org/rss/1.0/}item")

# Words in the name of an element -> the fact it may be, the most telling first.
_WORDS = {
    "id": ("id", "number", "key", "no", "nr"),
    "kind": ("kind", "type", "sort"),
    "status": ("status", "state", "visibility"),
    "slug": ("slug",),
    "parent": ("parent", "within", "under", "up", "above"),
    "position": ("position", "order", "rank"),
    "lead_picture": ("lead", "thumbnail", "cover", "image", "picture"),
    "updated": ("updated", "modified", "changed", "edited", "revised"),
    "published": ("published", "created", "posted"),
    "language": ("language", "lang", "tongue"),
    "other_addresses": ("formerly", "redirect", "old"),
}
_COMMENT_WORDS = {
    "author_name": ("name", "author", "by"),
    "email": ("mail", "email"),
    "address": ("web", "url", "site", "uri"),
    "published": ("date", "at", "published", "time"),
    "body": ("text", "body", "content", "said", "words"),
}
_AUTHOR_WORDS = {
    "login": ("login", "username", "nick", "account", "handle", "signs"),
    "email": ("mail", "email", "box", "contact"),
    "about": ("about", "bio", "biography", "vita", "description"),
    "address": ("web", "url", "site", "uri", "home"),
    "name": ("name", "display", "shown", "full"),
}
_TERM_WORDS = {
    "parent": ("parent", "within", "under", "up", "above"),
    "description": ("about", "description", "text"),
    "vocabulary": ("vocabulary", "shelf", "taxonomy", "domain"),
    "slug": ("slug", "key"),
    "name": ("name", "title", "label"),
}
_PAIR_WORDS: dict[str, tuple[str, ...]] = {
    "name": ("name", "key", "k"),
    "value": ("value", "v", "text"),
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
    found = _look(stream)
    return "\n".join(_FeedDraft(found).lines(format_name)) + "\n"


class _Found(Struct):
    """What a feed has beside what the format itself knows."""

    items: dict[str, Observed] = {}  # in items, by tag
    holder: dict[str, Observed] = {}  # beside the items
    spaces: dict[str, None] = {}  # foreign namespaces
    of_category: dict[
        str, Observed
    ] = {}  # attributes of an item's category that are not the format's
    domains: set[str] = set()  # of the categories of items
    slugs: Counter[str] = field(
        default_factory=Counter
    )  # tag -> items in which it is the last name of the link


def _look(stream: BinaryIO) -> _Found:
    found = _Found()
    events = etree.iterparse(
        stream,
        events=("end",),
        resolve_entities=False,
        no_network=True,
        load_dtd=False,
        huge_tree=True,
        remove_comments=True,
        remove_pis=True,
    )
    for _event, element in events:
        holder = element.getparent()
        if element.tag in _ITEMS:
            _note_item(element, found)
        elif holder is None or holder.tag not in _HOLDERS:
            continue
        elif _is_foreign(element, found):
            _note(found.holder.setdefault(str(element.tag), Observed()), element, 0)
        forget(element)
    return found


def _is_foreign(element: etree._Element, found: _Found) -> bool:
    space = namespace_of(str(element.tag))
    if not space or space in _KNOWN_SPACES:
        return False
    found.spaces.setdefault(space)
    return True


def _note_item(item: etree._Element, found: _Found) -> None:
    slug = url.last_name((item.findtext("link") or "").strip())
    for child in item.iterchildren(tag=etree.Element):
        if _is_foreign(child, found):
            _note(found.items.setdefault(str(child.tag), Observed()), child, 0)
            if slug and (child.text or "").strip() == slug:
                found.slugs[str(child.tag)] += 1
        elif child.tag == "category":
            found.domains.update(filter(None, [child.get("domain")]))
            for name, value in child.attrib.items():
                if name not in ("domain", "term", "scheme", "label"):
                    found.of_category.setdefault(str(name), Observed()).note(str(value))


def _note(seen: Observed, element: etree._Element, depth: int) -> None:
    seen.note((element.text or "").strip())
    for name, value in element.attrib.items():
        seen.attributes.setdefault(str(name), Observed()).note(str(value))
    for child in element.iterchildren(tag=etree.Element) if depth < 2 else ():
        _note(seen.children.setdefault(child.tag, Observed()), child, depth + 1)


def _pair(seen: Observed) -> tuple[str, ...] | None:
    """The children with name and value of an element that is named metadata; empty where an attribute has the name."""
    if "name" in seen.attributes:
        return ()
    tags = list(seen.children)
    named = [by_name(tag, _PAIR_WORDS) for tag in tags]
    if sorted(named) == ["name", "value"]:
        return tags[named.index("name")], tags[named.index("value")]
    return None


class _FeedDraft:
    """The lines of the dialect."""

    def __init__(self, found: _Found) -> None:
        self.found, self.items = found, found.items
        self.prefixes = prefixes(list(found.spaces))
        self.tags_by_field: dict[str, str] = {}  # our field -> tag
        self.listed: dict[str, Observed] = {}  # value map -> what holds their values

    def lines(self, format_name: str) -> Iterator[str]:
        """The whole file, line by line."""
        comment = self._guess_comment()
        fields = {
            tag: pair
            for tag, seen in self.items.items()
            if tag != comment and (pair := _pair(seen)) is not None
        }
        for tag, seen in self.items.items():
            if tag != comment and tag not in fields:
                self._guess(tag, seen)
        self._guess_slug()
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
            if fields[tag]:
                name, value = map(self._selector, fields[tag])
                yield f'name = "{name}"\nvalue = "{value}"'
        yield from self._declared()
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
            if could_be_state(self.items[tag]):
                yield MAYBE_STATE
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

    def _guess_slug(self) -> None:
        """What is the last name of the link in most items is the slug, whatever it is called."""
        tag, often = next(iter(self.found.slugs.most_common(1)), ("", 0))
        if "slug" not in self.tags_by_field and tag and often > 0.8 * self.items[tag].count:
            for ours in [ours for ours, theirs in self.tags_by_field.items() if theirs == tag]:
                del self.tags_by_field[ours]
            self.tags_by_field["slug"] = tag

    def _declared(self) -> Iterator[str]:
        """People, terms and the time zone, as they are declared beside the items."""
        for tag, seen in self.found.holder.items():
            if not seen.children and not seen.attributes and seen.all(r"[A-Z]\w+/\w[\w/+-]*"):
                yield "\n[site]"
                yield line(f'zone = "{self._selector(tag)}"', comment_on(seen))
        done = set[str]()
        for tag, seen in self.found.holder.items():
            parts = {
                f"@{name}": inner for name, inner in seen.attributes.items()
            } | seen.children
            table, words = self._what_is_declared(tag, parts)
            if table and table not in done:
                done.add(table)
                yield "\n" + line(f"[{table}]", comment_on(seen))
                yield f'element = "{self._selector(tag)}"'
                yield from self._parts(parts, words)
                if table == "term":
                    yield from self._of_category(parts)

    def _what_is_declared(
        self, tag: str, parts: dict[str, Observed]
    ) -> tuple[str, dict[str, tuple[str, ...]]]:
        if len(parts) < 2:
            return "", {}
        if any(seen.all(r"[^\s@]+@[^\s@]+\.[^\s@]+") for seen in parts.values()):
            return "author", _AUTHOR_WORDS
        of = type_by_name(tag.rpartition("}")[2])
        tables = {"author": _AUTHOR_WORDS, "term": _TERM_WORDS}
        if of in tables:
            return of, tables[of]
        return "", {}

    def _parts(
        self, parts: dict[str, Observed], words: dict[str, tuple[str, ...]]
    ) -> Iterator[str]:
        """The settings that attributes and children of an element are; the others as comments."""
        done = set[str]()
        for name, seen in parts.items():
            local = words_in(name.lstrip("@"))
            ours = next(
                (
                    fact
                    for fact, theirs in words.items()
                    if fact not in done and set(theirs) & set(local[1:] or local)
                ),
                "",
            )
            selector = self._place(name)
            if ours:
                done.add(ours)
                yield line(f'{ours} = "{selector}"', comment_on(seen))
            else:
                yield line(f"# {selector}", comment_on(seen))

    def _of_category(self, parts: dict[str, Observed]) -> Iterator[str]:
        """How an item names a declared term: the attribute, and the vocabulary where all have one."""
        if len(self.found.domains) == 1 and not any(
            "vocabulary" in by_name(n, _TERM_WORDS) for n in parts
        ):
            yield f'default_vocabulary = "{quoted(*self.found.domains)}"'
        known = {value for seen in parts.values() for value in seen.values if value.strip()}
        for name, seen in self.found.of_category.items():
            values = {value for value in seen.values if value.strip()}
            if values and values <= known:
                yield line(f'entry_slug = "@{self._selector(name)}"', comment_on(seen))
                return

    def _place(self, name: str) -> str:
        if name.startswith("@"):
            return "@" + self._selector(name[1:])
        return self._selector(name)

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
        ids = self._values_of(seen, by_name_of="id")
        for name, inner in (
            *((f"@{n}", s) for n, s in seen.attributes.items()),
            *seen.children.items(),
        ):
            ours = self._of_comment(name, inner, table, done, ids)
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

    @staticmethod
    def _values_of(seen: Observed, by_name_of: str) -> set[str]:
        """The values of the part of an element that its name says to be a fact."""
        parts = {**seen.attributes, **seen.children}
        words = {by_name_of: _WORDS[by_name_of]}
        return {
            value
            for name, part in parts.items()
            if by_name(name, words)
            for value in part.values
        }

    @staticmethod
    def _of_comment(
        name: str,
        seen: Observed,
        table: dict[str, tuple[str, ...]],
        done: set[str],
        ids: set[str],
    ) -> str:
        """Which fact of a comment a part of it is: its values tell parent and state, its name the others."""
        values = {value for value in seen.values if value not in ("", "0")}
        ours = by_name(name.lstrip("@"), table)
        if ours != "id" and values and values < ids and "parent" not in done:
            return "parent"
        if "status" not in done and all_known(seen, "comment_status"):
            return "status"
        return ours

    def _selector(self, tag: str) -> str:
        prefix = self.prefixes.get(namespace_of(tag))
        if prefix:
            return f"{prefix}:{local_name(tag)}"
        return local_name(tag)
