"""Dates: kept, shifted, or converted to the zone of the new host; what cannot be right is reported."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

from msgspec.structs import replace

from newburrow.convert.context import Context
from newburrow.core.dates import zone_named
from newburrow.core.problem import Problem
from newburrow.model import Comment, Entry
from newburrow.model.bundle import Bundle

EARLIEST = datetime(1990, 1, 1, tzinfo=UTC)  # nothing was published on the web before then


def moved(moment: datetime | None, context: Context) -> datetime | None:
    """A date as the decisions make it: shifted by hours and told in another zone.

    An aware datetime, or None if there is none. Unchanged if a shift would lead out of the calendar
    (years 1 to 9999).
    """
    rules = context.decisions.dates
    if moment is None or not (rules.shift_hours or rules.zone):
        return moment
    try:
        shifted = moment + timedelta(hours=rules.shift_hours)
        if rules.zone:
            return shifted.astimezone(zone_named(rules.zone))
        return shifted
    except OverflowError:
        return moment


def of_entry(entry: Entry, context: Context) -> Entry:
    """An entry with its dates as they are on the new host."""
    return replace(
        entry, published=moved(entry.published, context), updated=moved(entry.updated, context)
    )


def _of_comment(comment: Comment, context: Context) -> Comment:
    return replace(comment, published=moved(comment.published, context))


def step(bundle: Bundle, context: Context) -> tuple[Bundle, list[Problem]]:
    """The entry and its comments with their new dates."""
    rules = context.decisions.dates
    if rules.shift_hours or rules.zone:
        comments = tuple(_of_comment(comment, context) for comment in bundle.comments)
        bundle = replace(bundle, entry=of_entry(bundle.entry, context), comments=comments)
    return bundle, _doubts(bundle.entry, context)


def _doubts(entry: Entry, context: Context) -> list[Problem]:
    published, latest = entry.published, context.decisions.dates.latest
    if published is None:
        return []
    if published < EARLIEST:
        return [Problem.about(entry, "date-too-early", day=published.date().isoformat())]
    if latest and entry.status == "published" and context.local(published).date() > latest:
        return [Problem.about(entry, "date-in-future", day=published.date().isoformat())]
    return []
