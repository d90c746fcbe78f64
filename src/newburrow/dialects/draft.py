"""A first dialect for a feed in an unknown one: every foreign element with its count, examples and best guess.

A guess goes by the element's name, by the shape of its values, and by what refers to what. It is there to be
read and corrected by a person: what was not guessed stands as a comment.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator
from typing import BinaryIO

from lxml import etree

from newburrow.formats.dates import parse_date
from newburrow.formats.feed.maps import ATOM, DC

_KNOWN_SPACES = (ATOM[1:-1], DC[1:-1], "http://purl.org/rss/1.0/", "http://purl.org/rss/1.0/modules/content/",
                 "http://purl.org/rss/1.0/modules/slash/", "http://purl.org/syndication/thread/1.0",
                 "http://www.w3.org/2007/app", "http://www.w3.org/1999/02/22-rdf-syntax-ns#")  # fmt: skip
_ITEMS = ("item", ATOM + "entry", "{http://purl.org/rss/1.0/}item")
_VALUES = 200  # different values kept of one element
_ENUMERATION = 12  # values at most that are taken for a list of words

# Words in the name of an element -> what it may be, the most telling first.
_WORDS = {
    "id": ("id", "number", "key"),
    "kind": ("kind", "type", "sort"),
    "status": ("status", "state", "visibility"),
    "slug": ("slug", "handle", "basename"),
    "parent": ("parent", "within", "under"),
    "position": ("position", "order", "rank"),
    "lead_picture": ("lead", "thumbnail", "cover", "image", "picture"),
    "updated": ("updated", "modified", "changed"),
    "published": ("published", "created", "posted"),
    "language": ("language", "lang", "tongue"),
    "other_addresses": ("formerly", "redirect", "alias", "old"),
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
_OUR_VALUES = {
    "comment_kind": {
        "comment": ("comment", "reply"), "pingback": ("pingback", "mention"), "trackback": ("trackback",),
    },
    "comment_status": {
        "approved": ("approved", "shown", "live", "published"), "pending": ("pending", "waiting", "held"),
        "spam": ("spam", "junk"), "removed": ("removed", "binned", "deleted", "trash"),
    },
    "kind": {"post": ("post", "article", "entry"), "page": ("page", "sheet"), "media": ("media", "file", "attachment")},
    "status": {
        "published": ("published", "live", "public"), "draft": ("draft", "sketch"),
        "scheduled": ("scheduled", "timed", "future"), "private": ("private", "members", "hidden"),
        "removed": ("removed", "binned", "deleted", "trash"),
    },
}  # fmt: skip


class _Seen:
    """What was seen of one foreign element or attribute."""

    def __init__(self) -> None:
        self.count = 0
        self.values: Counter[str] = Counter()
        self.children: dict[str, _Seen] = {}
        self.attributes: dict[str, _Seen] = {}

    def note(self, value: str) -> None:
        self.count += 1
        if len(self.values) < _VALUES or value in self.values:
            self.values[value] += 1

    @property
    def example(self) -> str:
        shown = next((value for value in self.values if value.strip()), "")
        return " ".join(shown.split())[:50]

    def all(self, shape: str) -> bool:
        """Whether all values that are not blank fully match an expression; there must be one."""
        found = [value.strip() for value in self.values if value.strip()]
        return bool(found) and all(re.fullmatch(shape, value) for value in found)

    def dates(self) -> bool:
        """Whether all values are dates."""
        found = [value for value in self.values if value.strip()]
        return bool(found) and all(parse_date(value) for value in found[:20])


def draft(stream: BinaryIO, format_name: str) -> str:
    """The text of a dialect file for the feed in the stream. Raises lxml.etree.XMLSyntaxError where it is none."""
    items, spaces = _look(stream)
    prefixes = _prefixes(spaces)
    return "\n".join(_Writer(items, prefixes).lines(format_name)) + "\n"


def _look(stream: BinaryIO) -> tuple[dict[str, _Seen], list[str]]:
    """What stands in items beside what the format itself knows, and the foreign namespaces."""
    seen: dict[str, _Seen] = {}
    spaces: dict[str, None] = {}
    events = etree.iterparse(stream, events=("end",), tag=_ITEMS, resolve_entities=False, no_network=True,
                             load_dtd=False, huge_tree=True, remove_comments=True, remove_pis=True)  # fmt: skip
    for _event, item in events:
        for child in item.iterchildren(tag=etree.Element):
            space = etree.QName(child).namespace or ""
            if space and space not in _KNOWN_SPACES:
                spaces.setdefault(space)
                _note(seen.setdefault(child.tag, _Seen()), child, 0)
        item.clear()
        while item.getprevious() is not None:
            del item.getparent()[0]
    return seen, list(spaces)


def _note(seen: _Seen, element: etree._Element, depth: int) -> None:
    seen.note((element.text or "").strip())
    for name, value in element.attrib.items():
        seen.attributes.setdefault(str(name), _Seen()).note(str(value))
    for child in element.iterchildren(tag=etree.Element) if depth < 2 else ():
        _note(seen.children.setdefault(child.tag, _Seen()), child, depth + 1)


def _prefixes(spaces: list[str]) -> dict[str, str]:
    """A short prefix for each namespace: the letters of its host."""
    found: dict[str, str] = {}
    for space in spaces:
        host = re.sub(r"^\w+:(?://)?(?:www\.)?", "", space)
        base = re.sub(r"[^a-z]", "", host.lower())[:3] or "n"
        prefix, number = base, 1
        while prefix in found.values():
            number += 1
            prefix = f"{base}{number}"
        found[space] = prefix
    return found


def _words(tag: str) -> list[str]:
    local = etree.QName(tag).localname if tag.startswith("{") else tag
    return [word.lower() for word in re.findall(r"[A-Z]?[a-z]+|[A-Z]+|\d+", local)]


def _by_name(tag: str, table: dict[str, tuple[str, ...]]) -> str:
    words = _words(tag)
    return next((ours for ours, names in table.items() if any(name in words for name in names)), "")


class _Writer:
    """The lines of the dialect."""

    def __init__(self, items: dict[str, _Seen], prefixes: dict[str, str]) -> None:
        self.items, self.prefixes = items, prefixes
        self.taken: dict[str, str] = {}  # our field -> tag
        self.listed: dict[str, _Seen] = {}  # value map -> what holds their values

    def lines(self, format_name: str) -> Iterator[str]:
        """The whole file, line by line."""
        comment = self._guess_comment()
        fields = [tag for tag, seen in self.items.items() if tag != comment and "name" in seen.attributes]
        for tag, seen in self.items.items():
            if tag != comment and tag not in fields:
                self._guess(tag, seen)
        self.listed |= {ours: self.items[self.taken[ours]] for ours in ("kind", "status") if ours in self.taken}
        media = self._media()
        yield from self._head(format_name)
        yield "\n[entry]"
        yield from self._settings(self.taken)
        yield from self._rest({*self.taken.values(), *media.values(), *fields, comment})
        for tag in fields:
            yield "\n" + _line("[[entry.fields]]", self._told(self.items[tag]))
            yield f'element = "{self._selector(tag)}"'
        yield from self._comment(comment) if comment else ()
        yield from ("\n[media]", *self._settings(media)) if media else ()
        for ours, seen in self.listed.items():
            yield from _value_map(ours, seen, _OUR_VALUES[ours])

    def _head(self, format_name: str) -> Iterator[str]:
        yield "# A first draft of a dialect, guessed from an export. Read it through, correct it, and give it a name."
        yield f'name = "draft"\ntitle = "A platform that somebody knows"\nformat = "{format_name}"\n\n[namespaces]'
        yield from (f'{prefix} = "{_quoted(space)}"' for space, prefix in self.prefixes.items())
        if self.prefixes:
            yield f'\n[recognise]\nnamespace = "{_quoted(next(iter(self.prefixes)))}"'

    def _settings(self, tags: dict[str, str]) -> Iterator[str]:
        for ours, tag in tags.items():
            yield _line(f'{ours} = "{self._selector(tag)}"', self._told(self.items[tag]))

    def _media(self) -> dict[str, str]:
        """Where the facts of files stand, if some items are files."""
        kinds = self.items[self.taken["kind"]].values if "kind" in self.taken else {}
        if not any(value.lower() in _OUR_VALUES["kind"]["media"] for value in kinds):
            return {}
        found: dict[str, str] = {}
        for tag in self.items:
            ours = _by_name(tag, _MEDIA_WORDS)
            if ours and tag not in self.taken.values():
                found.setdefault(ours, tag)
        return found

    def _rest(self, done: set[str]) -> Iterator[str]:
        rest = [tag for tag in self.items if tag not in done]
        if rest:
            yield "# Not guessed; without a place these are kept in the content store and listed:"
        for tag in rest:
            yield _line(f"# {self._selector(tag)}", self._told(self.items[tag]))

    def _guess(self, tag: str, seen: _Seen) -> None:
        ours = _by_name(tag, _WORDS)
        fits = {
            "id": len(seen.values) == min(seen.count, _VALUES),
            "kind": len(seen.values) <= _ENUMERATION, "status": len(seen.values) <= _ENUMERATION,
            "position": seen.all(r"-?\d+"), "updated": seen.dates(), "published": seen.dates(),
            "slug": seen.all(r"[^\s/?]*"), "parent": seen.all(r"\S+"), "lead_picture": seen.all(r"\S+"),
        }  # fmt: skip
        if ours and fits.get(ours, True) and ours not in self.taken:
            self.taken[ours] = tag

    def _guess_comment(self) -> str:
        """The element that holds comments: one with children of its own, some of which are dates and texts."""
        best, most = "", 0
        for tag, seen in self.items.items():
            found = {_by_name(child, _COMMENT_WORDS) for child in seen.children} - {""}
            if "body" in found and len(found) > most:
                best, most = tag, len(found)
        return best

    def _comment(self, tag: str) -> Iterator[str]:
        seen = self.items[tag]
        yield "\n" + _line("[comment]", self._told(seen))
        yield f'element = "{self._selector(tag)}"'
        table = _COMMENT_WORDS | {name: _WORDS[name] for name in ("id", "kind", "status")}
        done: set[str] = set()
        for name, inner in (*((f"@{n}", s) for n, s in seen.attributes.items()), *seen.children.items()):
            ours = _by_name(name.lstrip("@"), table)
            selector = name if name.startswith("@") else self._selector(name)
            if ours and ours not in done and name != tag:
                done.add(ours)
                if ours in ("kind", "status"):
                    self.listed[f"comment_{ours}"] = inner
                yield _line(f'{ours} = "{selector}"', self._told(inner))
            elif name != tag:
                yield _line(f"# {selector}", self._told(inner))

    def _selector(self, tag: str) -> str:
        name = etree.QName(tag)
        prefix = self.prefixes.get(name.namespace or "")
        return f"{prefix}:{name.localname}" if prefix else str(name.localname)

    def _told(self, seen: _Seen) -> str:
        """How often it stands there, with its values where they are a list of words, else with an example."""
        words = 1 < len(seen.values) <= _ENUMERATION and seen.count > len(seen.values) and seen.all(r"[\w-]{1,20}")
        if words:
            values = (f"{value} ({number})" for value, number in seen.values.most_common(_ENUMERATION))
            return f"{seen.count} times: {', '.join(values)}"
        return f"{seen.count} times" + (f", for example: {seen.example}" if seen.example else "")


def _value_map(ours: str, seen: _Seen, table: dict[str, tuple[str, ...]]) -> Iterator[str]:
    yield f"\n[values.{ours}]"
    for value, number in seen.values.most_common(_ENUMERATION):
        guess = next((name for name, words in table.items() if value.lower() in words), "")
        line = f'"{_quoted(value)}" = "{guess}"' if guess else f'# "{_quoted(value)}" = ""'
        yield _line(line, f"{number} times")


def _line(setting: str, told: str) -> str:
    """A line with what was seen as a comment; nothing of an export can end the comment."""
    return f"{setting:<34} # {''.join(c if c.isprintable() else ' ' for c in told)}"


def _quoted(text: str) -> str:
    """A text as it stands in a basic string of TOML."""
    return "".join(c if c.isprintable() and c not in '"\\' else f"\\u{ord(c):04X}" for c in text)
