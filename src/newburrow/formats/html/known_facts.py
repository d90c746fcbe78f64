"""What feeds and sitemaps of a site say of a page, where the page says nothing itself."""

from __future__ import annotations

from collections.abc import Iterator

from msgspec.structs import replace

from newburrow.core.dates import parse_date, zone_named
from newburrow.formats.base import Input
from newburrow.formats.people import mailbox
from newburrow.model import OUTSIDE_SITEMAP, Entry, Where
from newburrow.model.reading import KnownPage, Relation


def dated(entry: Entry, known: KnownPage, source: Input) -> Entry:
    """The entry with the dates that a feed or the sitemap gives, where the page has none.

    That a sitemap does not list it is noted in `extra`.
    """
    extra = entry.extra
    if known.in_sitemap is False:
        extra = extra | {OUTSIDE_SITEMAP: ["yes"]}
    zone, forms = zone_named(source.zone), source.dialect.dates.forms
    published = entry.published or parse_date(known.published, zone, forms)
    updated = entry.updated or parse_date(known.updated, zone, forms)
    return replace(entry, published=published, updated=updated, extra=extra)


def relations(
    entry: str, known: KnownPage, said: set[str], source: Input
) -> Iterator[Relation]:
    """The authors and terms that a feed gives a page, where the page names none."""
    where = Where(source.label)
    for author in known.authors if "author" not in said else ():
        name, mail = mailbox(author)
        yield Relation(entry, "author", name or mail, source=where)
    for term in known.terms if "term" not in said else ():
        yield Relation(entry, "term", term, "tag", where)
