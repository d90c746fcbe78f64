"""The walk that a person would do after a move: from the home page and the menu, link by link, before and after."""

from __future__ import annotations

from collections.abc import Iterator

from newburrow.convert.context import Context
from newburrow.convert.plan.to_do_there import in_menus
from newburrow.model import Entry, Media
from newburrow.report.outcome import Walk, WalkSide

COLUMNS = ("what", "title", "old_address", "new_address", "before", "after", "detail")


def walk(context: Context) -> Walk:
    """Walk through both sites. To be called when every entry has been converted."""
    table, front = context.planning.walk, context.old.front_page
    named = {front, *in_menus(context)} - {""}
    listed = (
        entry.key for entry in context.store.all(Entry) if _is_listed(entry, context.is_package)
    )
    has_lists = False

    def roots() -> Iterator[str]:
        nonlocal has_lists
        yield from named
        for key in listed:
            has_lists = True
            yield key

    table.settle(roots())
    counts = table.counts()
    unshown = [0, 0]
    for _media, before, after in _files(context):
        unshown[0] += not before
        unshown[1] += not after
    sides = [
        WalkSide(counts["reached"][n], counts["unreached"][n], counts["dead"][n], unshown[n])
        for n in (0, 1)
    ]
    return Walk(sides[0], sides[1], bool(named) or has_lists)


def _is_listed(entry: Entry, is_package: bool) -> bool:
    """Whether a list of the site leads to an entry by itself: one of posts, or the table of contents of a course."""
    if entry.kind == "post":
        return entry.status == "published"
    if entry.kind in (
        "module",
        "question-bank",
    ):  # a bank is not a page: teachers find it in a list
        return is_package
    in_contents = bool(entry.parent) or entry.position is not None
    return is_package and in_contents


def rows(context: Context) -> Iterator[tuple[str, ...]]:
    """The rows of `walk.csv`: pages that nothing reaches, links that lead nowhere, files that no page shows."""
    table = context.planning.walk
    for page in table.unreached():
        yield (
            "page not reached",
            _title(page.key, context),
            page.old,
            page.new,
            "reached" if page.before else "not reached",
            _after(page.new, bool(page.after), "reached"),
            "",
        )
    for page, target in table.dead():
        title = _title(page.key, context)
        if page.before:
            before = "leads nowhere"
        else:
            before = "leads to a page that is left out"
        after = "leads nowhere" if page.new else "its page does not move"
        yield "dead link", title, page.old, page.new, before, after, target
    for media, shown_before, shown_after in _files(context):
        if not (shown_before and shown_after):
            new = context.journal.files.get(media.key)[1]
            yield (
                "file not shown",
                media.path.rpartition("/")[2] or media.address,
                media.address or media.path,
                new,
                "shown" if shown_before else "not shown",
                _after(new, shown_after, "shown"),
                media.entry and _title(media.entry, context),
            )


def _after(new: str, good: bool, word: str) -> str:
    if not new:
        return "does not move"
    if good:
        return word
    return f"not {word}"


def _files(context: Context) -> Iterator[tuple[Media, bool, bool]]:
    """The files of the export, each with whether a page shows it before and after."""
    for media in context.store.all(Media):
        if media.path:
            new = context.journal.files.get(media.key)[1]
            before, after = context.planning.walk.shows(new) if new else (False, False)
            yield media, before, after


def _title(key: str, context: Context) -> str:
    entry = context.store.get(Entry, key)
    if entry:
        return entry.title or entry.slug
    return key
