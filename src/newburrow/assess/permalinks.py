"""The permalink patterns of an old site, found by what is in the addresses of its entries."""

from __future__ import annotations

import re
from datetime import datetime
from urllib.parse import unquote

from newburrow.core import url, url_pattern
from newburrow.model import Author, Entry, Term
from newburrow.model.keys import bare
from newburrow.model.lookup import RecordLookup

AROUND = frozenset(
    {"category", "author", "parent"}
)  # variables for what is not in the entry itself
# What can follow the names of a tree: an extension, or the file that a folder shows.
_AFTER = re.compile(r"/?|\.[^/]+|/(?:index|default|home)\.\w{2,5}")
# An id that is the place of a file, which a dialect may take for one.
_PLACE = re.compile(
    r".*/.*|.+\.(?:x?html?|php|aspx?|jsp|md|creole|txt)", re.IGNORECASE | re.DOTALL
)
_NOT_IN_PATHS = re.compile(r"[?#%]")
_DEEPEST = 50  # levels of a tree; parents in a circle end there


def slugs_above(entry: Entry, store: RecordLookup, front_page: str) -> str:
    """The slugs of the entries above one, with slashes between them; the front page is no part of a path."""
    found, seen = list[str](), {entry.key}
    while entry.parent and entry.parent not in seen and len(seen) < _DEEPEST:
        seen.add(entry.parent)
        above = store.get(Entry, entry.parent)
        if above is None or above.key == front_page:
            break
        found.append(above.slug or url.last_name(above.permalink))
        entry = above
    return "/".join(filter(None, reversed(found)))


def around(entry: Entry, store: RecordLookup) -> dict[str, str]:
    """What an address may name beside an entry: the slugs of its first category, its first author and its parent."""
    found = {}
    for key in entry.terms:
        term = store.get(Term, key)
        if term and term.vocabulary == "category":
            found["category"] = term.slug or term.name
            break
    author = store.get(Author, entry.authors[0]) if entry.authors else None
    if author:
        found["author"] = author.login or author.name
    parent = store.get(Entry, entry.parent) if entry.parent else None
    if parent:
        found["parent"] = parent.slug
    return {name: slug for name, slug in found.items() if slug}


def id_for(pattern: str, id_: str) -> str:
    """An id as a permalink pattern takes it: with its slashes for `{+id}`, else without, since servers refuse `%2F`."""
    if "{+id}" in pattern:
        folder, slash, last = id_.rpartition("/")
        if folder and last in url.INDEX_FILES:  # visitors see its folder
            id_ = f"{folder}{slash}"
    else:
        id_ = id_.replace("/", "-")
    return _NOT_IN_PATHS.sub("-", id_)


def path_by(
    pattern: str,
    entry: Entry,
    local: datetime | None,
    above: str = "",
    store: RecordLookup | None = None,
) -> str:
    """The path that a permalink pattern (RFC 6570) gives an entry; empty where it lacks a value of the pattern.

    `local` is the date of publication in the zone of the site, None for an entry without a date: then no
    pattern with a date gives one. `above` are the slugs of the entries above it, with slashes between them.
    With a store the first category, the first author and the parent of the entry can be in the pattern.
    """
    slug = entry.slug or url.last_name(entry.permalink)
    id_ = id_for(pattern, bare(entry.key))
    values = {"slug": slug, "id": id_, "path": f"{above}/{slug}".lstrip("/")}
    if local:
        values |= {
            "year": f"{local.year:04}",
            "month": f"{local.month:02}",
            "day": f"{local.day:02}",
        }
    names = url_pattern.variables(pattern)
    if store and not AROUND.isdisjoint(names):
        values |= around(entry, store)
    if not all(values.get(name) for name in names):
        return ""
    return url_pattern.expand(pattern, values)


def fits(
    pattern: str,
    entry: Entry,
    local: datetime | None,
    above: str = "",
    store: RecordLookup | None = None,
) -> bool:
    """Whether a permalink pattern gives the permalink that an entry has; see `path_by`.

    For a pattern that is known this is faster than finding the pattern.
    """
    path = path_by(pattern, entry, local, above, store)
    return bool(path) and has_path(entry, path)


def has_path(entry: Entry, path: str) -> bool:
    """Whether the permalink of an entry is this path on its site."""
    before = len(entry.permalink) - len(path)
    return (
        entry.permalink.endswith(path)
        and url.site_of(entry.permalink) == entry.permalink[:before]
    )


def pattern_of(
    entry: Entry, local: datetime | None, above: str = "", store: RecordLookup | None = None
) -> str:
    """The RFC 6570 template of which an entry's permalink is an example, relative to the site.

    `local` is the entry's date as the site shows it, `above` the slugs of the entries above it, with slashes
    between them. Knows {+path}, {year}, {month}, {day}, {slug}, {id}, and {+id} where the id is a path, and with a
    store to look them up {category}, {author} and {parent}; what is none of these is as it was. Empty where the
    entry has no permalink.
    """
    if entry.permalink:
        parts = url.split(entry.permalink)
    else:
        parts = None
    if parts is None:
        return ""
    slug = entry.slug or url.last_name(entry.permalink)
    if above and (found := _with_path(parts.path, f"{above}/{slug}")):
        return found
    values, id_ = {"slug": slug}, bare(entry.key)
    if not _PLACE.fullmatch(id_):
        values["id"] = id_
    elif found := _with_place(parts.path, id_):
        return found
    if local:
        values |= {
            "year": f"{local.year:04}",
            "month": f"{local.month:02}",
            "day": f"{local.day:02}",
        }
    segments = [_segment(segment, values) for segment in (parts.path or "/").split("/")]
    if store and any(segment and "{" not in segment for segment in segments[:-1]):
        named = around(entry, store)
        segments = [
            segment if "{" in segment or not segment else _named(segment, named)
            for segment in segments
        ]
    path = "/".join(segments)
    if parts.query:
        pairs = [pair.partition("=") for pair in parts.query.split("&")]
    else:
        pairs = []
    query = "&".join(
        f"{name}{equals}{'{id}' if value == bare(entry.key) else value}"
        for name, equals, value in pairs
    )
    return path + (f"?{query}" if query else "")


def _with_path(path: str, slugs: str) -> str:
    """The pattern of a path that has all slugs of a tree in it; empty where it has not."""
    before, found, after = unquote(path).rpartition(f"/{slugs}")
    if found and _AFTER.fullmatch(after):
        return f"{before}/{{+path}}{after}"
    return ""


def _with_place(path: str, place: str) -> str:
    """The pattern of a path that ends in the place of the file; empty where it does not."""
    before, found, after = unquote(path).rpartition(f"/{id_for('{+id}', place)}")
    if found and not after:
        return f"{before}/{{+id}}"
    return ""


def _segment(segment: str, values: dict[str, str]) -> str:
    """One segment with what is known of the entry replaced; each value is used once."""
    for name in ("slug", "year", "month", "day", "id"):
        value = values.get(name)
        if value and _same(segment, value):
            del values[name]
            return f"{{{name}}}"
    if dated := _dated(segment, values):
        return dated
    stem, dot, extension = segment.rpartition(".")
    slug = values.get("slug")
    if dot and slug and _same(stem, slug):
        del values["slug"]
        return f"{{slug}}.{extension}"
    return segment


def _named(segment: str, named: dict[str, str]) -> str:
    """A segment that names what an entry belongs to; each name is used once."""
    for name, value in named.items():
        if _same(segment, value):
            del named[name]
            return f"{{{name}}}"
    return segment


def _dated(segment: str, values: dict[str, str]) -> str:
    """A segment that is the date of the entry, with hyphens between its parts; empty for any other."""
    names = ("year", "month", "day")[: segment.count("-") + 1]
    date = "-".join(values.get(name, "?") for name in names)
    if len(names) < 2 or segment != date:
        return ""
    for name in names:
        del values[name]
    return "-".join(f"{{{name}}}" for name in names)


def _same(segment: str, value: str) -> bool:
    """Whether a segment, which may be percent-encoded, says a value."""
    if segment == value:
        return True
    spelled = "%" in segment or not segment.isascii()
    return spelled and url.path_key(f"/{segment}") == url.path_key(f"/{value}")


def path_of_file(entry: Entry) -> str:
    """The path by which links name an entry whose file does not lie where its page was; empty where it does."""
    base = entry.body.base
    folder, _slash, last = base.rpartition("/")
    places = [base, f"{folder}/"] if last in url.INDEX_FILES else [base]
    if url.key(entry.permalink) in map(url.key, places):
        return ""
    return url.full_path(base)
