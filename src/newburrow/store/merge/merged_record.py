"""One record made of two of the same object, and what each of them lacked."""

from __future__ import annotations

from typing import Any, TypeVar

from msgspec import Struct
from msgspec.structs import asdict, replace

from newburrow.core import url
from newburrow.model import Body, Entry, Media, Record, Site
from newburrow.store.merge.likeness import LIKE, likeness, visible

R = TypeVar("R", bound=Record)
_JOINED = ("authors", "terms", "enclosures", "feeds", "addresses")
_APART = ("key", "source", "extra", "guid", "permalink", "slug", "fields", *_JOINED)
# Facts in which two exports of one object can differ without an error.
_OWN = (
    "vocabulary",
    "dialect",
    "generator",
    "written",
    "updated",
    "parent",
    "entry",
    "path",
    "size",
    "media_type",
    "position",
)
_SHOWN = {
    "alternative_text": "alternative text",
    "lead_picture": "lead picture",
    "media_type": "media type",
    "updated": "date of change",
    "published": "date",
    "about": "text about the person",
    "author_name": "name",
    "zone": "time zone",
}


class MergedRecord(Struct, frozen=True):
    """Two records made one, under the key of the first."""

    record: Any
    first_lacked: list[str] = []  # names of facts that only the second had
    second_lacked: list[str] = []
    differ: list[str] = []  # names of facts in which the two differ


def united(first: R, second: R) -> MergedRecord:
    """Two records merged into one. The entry with more text takes precedence, or the first of other records."""
    if isinstance(first, Entry) and isinstance(second, Entry):
        return _entries(first, second)
    merged, first_lacked, second_lacked, differ = _facts(first, second)
    if (
        isinstance(first, Media)
        and isinstance(second, Media)
        and second.path
        and not first.path
    ):
        # The size of the file itself is right; without the file, the size was only stated.
        merged |= {
            name: getattr(second, name) for name in ("path", "size", "digest", "media_type")
        }
    return MergedRecord(
        replace(first, **merged, extra={**second.extra, **first.extra}),
        first_lacked,
        second_lacked,
        differ,
    )


def _facts(
    first: Record, second: Record
) -> tuple[dict[str, Any], list[str], list[str], list[str]]:
    """What to take from the second, what each lacks, and in what they differ."""
    merged: dict[str, Any] = {}
    lacked: tuple[list[str], list[str], list[str]] = ([], [], [])
    theirs = asdict(second)
    for name, own in asdict(first).items():
        other = theirs[name]
        if name in _APART or own == other or (isinstance(first, Site) and name in _OWN):
            continue
        if name == "body":
            own, other = visible(own.text), visible(other.text)
        shown = _SHOWN.get(name, name)
        if not own and other not in (None, ""):
            lacked[0].append(shown)
            merged[name] = theirs[name]
        elif own and not other:
            lacked[1].append(shown)
        elif name not in _OWN and not _alike(name, own, other):
            lacked[2].append(shown)
    return merged, *lacked


def _alike(name: str, own: Any, other: Any) -> bool:
    if name == "body":
        return likeness(own, other) >= LIKE
    if name in ("address", "lead_picture"):
        return bool(url.key(str(own))) and url.key(str(own)) == url.key(str(other))
    return bool(own == other)


def _entries(first: Entry, second: Entry) -> MergedRecord:
    merged, first_lacked, second_lacked, differ = _facts(first, second)
    if _fullness(second) > _fullness(first):
        fuller, other = (second, first)
    else:
        fuller, other = (first, second)
    if fuller is second:
        merged = {
            name: value
            for name, value in asdict(second).items()
            if name not in _APART and value not in ("", None)
        }
        merged.pop("kind")  # it is counted under the kind of the first
        if not second.body.text:
            merged.pop("body", None)
    for name in ("authors", "terms", "enclosures", "feeds"):
        own, theirs = set(getattr(first, name)), set(getattr(second, name))
        if theirs - own:
            first_lacked += [name]
        if own - theirs:
            second_lacked += [name]
        merged[name] = tuple(dict.fromkeys((*getattr(fuller, name), *getattr(other, name))))
    fields = {**other.fields, **fuller.fields}
    first_lacked += [f"field {name}" for name in fields if name not in first.fields]
    second_lacked += [f"field {name}" for name in fields if name not in second.fields]
    permalink = fuller.permalink or other.permalink
    known = {url.key(permalink)}
    more = []
    for address in (*fuller.addresses, other.permalink, *other.addresses):
        if address and url.key(address) not in known:
            known.add(url.key(address))
            more.append(address)
    record = replace(
        first,
        **merged,
        permalink=permalink,
        addresses=tuple(more),
        guid=first.guid or second.guid,
        slug=fuller.slug or other.slug,
        fields=fields,
        extra={**other.extra, **fuller.extra},
    )
    if record.body.text and not record.body.base and fuller.body == Body():
        record = replace(record, body=replace(record.body, base=other.permalink))
    return MergedRecord(record, first_lacked, second_lacked, differ)


def _fullness(entry: Entry) -> tuple[int, int]:
    return len(visible(entry.body.text)), sum(1 for value in asdict(entry).values() if value)
