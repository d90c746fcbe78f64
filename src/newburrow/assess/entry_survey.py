"""A look at the entries alone: what they say, what they link to, what in them will give trouble."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterator
from pathlib import Path

from newburrow.assess.body_scan import SPECIAL, things
from newburrow.assess.calendar import Calendar
from newburrow.assess.named_links import NamedLinks
from newburrow.assess.old_archives import OldArchives
from newburrow.assess.old_lists import day_of
from newburrow.assess.permalinks import fits, path_of_file, pattern_of, slugs_above
from newburrow.assess.survey_facts import FindingNotes
from newburrow.core import plugins, url
from newburrow.core.dates import zone_named
from newburrow.core.workers import Pool
from newburrow.dialects.loader import is_preset
from newburrow.dialects.macros import found_in, look_like_macros
from newburrow.dialects.schema import Dialect
from newburrow.markup.base import Markup, Unreadable
from newburrow.markup.guess import guess
from newburrow.markup.html import TooDeep
from newburrow.model import Entry, Site
from newburrow.store.content_store import Store
from newburrow.store.link_index import LinkIndex

GUESSED = 300  # bodies searched for signs of another markup
LARGEST = 5  # entries named as the largest
MOST_PATTERNS = 200  # permalink patterns counted; an address that fits none is an exception
_SHARED = 5000  # entries; with more, a second process examines half of them


def look(
    store: Store,
    linked: LinkIndex,
    dialects: tuple[Dialect, ...],
    folder: Path,
    progress: Callable[[int, int], None],
    jobs: int,
) -> EntryFindings:
    """Look at all entries of a store, in two processes if there are many and `jobs` allows it.

    What links lead to goes into `linked`, on disk. `folder` is for temporary files. `progress` gets the
    number of entries done and their total.
    """
    entry_findings, total = EntryFindings(), store.count(Entry)
    last = store.last(Entry)
    if jobs < 2 or total < _SHARED:
        _EntryReader(store, linked, dialects, entry_findings).entries(
            0, last, lambda done: progress(done, total)
        )
        return entry_findings
    half, second = last // 2, folder / "linked"
    with Pool(1) as pool:
        other = pool.start(_second, store.path, second, dialects, half, last)
        _EntryReader(store, linked, dialects, entry_findings).entries(
            0, half, lambda done: progress(min(done * 2, total), total)
        )
        entry_findings.join(other.result())
    linked.take(second)
    return entry_findings


def _second(
    path: Path, linked_path: Path, dialects: tuple[Dialect, ...], after: int, upto: int
) -> EntryFindings:
    """The look at the second half, in a process of its own."""
    entry_findings = EntryFindings()
    with Store(path) as store:
        linked = LinkIndex([site.address for site in store.all(Site)], linked_path)
        _EntryReader(store, linked, dialects, entry_findings).entries(
            after, upto, lambda _done: None
        )
        linked.written()
    return entry_findings


class EntryFindings:
    """What a look at entries tells, besides their links."""

    def __init__(self) -> None:
        self.notes = FindingNotes()
        self.uses: Counter[str] = Counter()  # `author KEY` or `term KEY` -> entries
        self.remote: Counter[str] = (
            Counter()
        )  # host of pictures and films of other sites -> uses
        self.calendar = Calendar()
        self.markups: Counter[str] = Counter()
        self.patterns: Counter[str] = Counter()
        self.pattern_examples: dict[str, str] = {}
        self.largest: list[tuple[int, str]] = []

    def join(self, later: EntryFindings) -> None:
        """Add the findings about later entries."""
        self.notes.join(later.notes)
        self.calendar.join(later.calendar)
        self.uses += later.uses
        self.remote += later.remote
        self.markups += later.markups
        self.patterns += later.patterns
        self.pattern_examples = later.pattern_examples | self.pattern_examples
        self.largest = sorted(self.largest + later.largest, reverse=True)[:LARGEST]


class _EntryReader:
    def __init__(
        self,
        store: Store,
        linked: LinkIndex,
        dialects: tuple[Dialect, ...],
        entry_findings: EntryFindings,
    ) -> None:
        self.store, self.linked, self.dialects, self.entry_findings = (
            store,
            linked,
            dialects,
            entry_findings,
        )
        self.notes = entry_findings.notes
        zone, self.front_page = store.site().zone, store.site().front_page
        self.zone = zone_named(zone) if zone else None
        self.macros = [macro for dialect in dialects for macro in dialect.macros]
        self.archives = OldArchives(store, dialects)
        self.names = NamedLinks(store.page_names, dialects)
        self.common = ""  # the first pattern met, which is mostly the most frequent one

    def entries(self, after: int, upto: int, progress: Callable[[int], None]) -> None:
        for done, (_number, entry) in enumerate(self.store.numbered(Entry, after, upto), 1):
            self._entry(entry)
            progress(done)

    def _entry(self, entry: Entry) -> None:
        title = title_of(entry)
        self.entry_findings.uses.update(f"author {key}" for key in set(entry.authors))
        self.entry_findings.uses.update(f"term {key}" for key in set(entry.terms))
        if not self.entry_findings.calendar.count(
            entry.published, planned=entry.status == "scheduled"
        ):
            self.notes.note("undated", title)
        self._permalink(entry, title)
        size = len(entry.body.text.encode("utf-8", "replace"))
        if (
            len(self.entry_findings.largest) < LARGEST
            or size >= self.entry_findings.largest[-1][0]
        ):
            self.entry_findings.largest = sorted(
                [*self.entry_findings.largest, (size, title)], reverse=True
            )[:LARGEST]
        for file in (entry.lead_picture, *entry.enclosures):
            if file:
                self.linked.show(file)
                if "://" in file:
                    self.linked.link("img", file, entry.permalink, entry.key)
        if any(
            is_preset(dialect, entry.kind, entry.slug, entry.title) for dialect in self.dialects
        ):
            self.notes.note("preset-content", title)
        if not (entry.slug or url.last_name(entry.permalink)):
            self.notes.note("no-slug", title)
        if entry.title:
            self.linked.title(entry.kind, entry.title)
        self.linked.know(entry.permalink, *entry.addresses)
        self.linked.know(*self._listed(entry))
        if path := path_of_file(entry):
            self.linked.add_unaddressed(path, entry.permalink or entry.body.base)
        self._body(entry, title)

    def _listed(self, entry: Entry) -> Iterator[str]:
        """The lists by date that an entry stood in."""
        if entry.published and entry.kind == "post" and entry.status == "published":
            if self.zone:
                local = entry.published.astimezone(self.zone)
            else:
                local = entry.published
            yield from self.archives.of_date(entry.key, day_of(local))

    def _permalink(self, entry: Entry, title: str) -> None:
        local = entry.published
        if local and self.zone:
            local = local.astimezone(self.zone)
        if entry.parent:
            above = slugs_above(entry, self.store, self.front_page)
        else:
            above = ""
        if self.common and fits(self.common, entry, local, above, self.store):
            pattern = self.common
        else:
            pattern = pattern_of(entry, local, above, self.store)
        self.common = self.common or pattern
        if pattern and (
            pattern in self.entry_findings.patterns
            or len(self.entry_findings.patterns) < MOST_PATTERNS
        ):
            self.entry_findings.patterns[pattern] += 1
            self.entry_findings.pattern_examples.setdefault(pattern, entry.permalink)
        elif pattern:
            self.notes.note("odd-permalink", title)

    def _body(self, entry: Entry, title: str) -> None:
        body = entry.body
        if not body.text:
            return
        self.entry_findings.markups[body.markup] += 1
        if self.entry_findings.markups.total() <= GUESSED and (
            other := guess(body.text)
        ) not in (
            body.markup,
            "text",
        ):
            self.notes.note(
                "markup-like", f"“{title}” looks like {other}, and is read as {body.markup}"
            )
        markup: Markup = plugins.get(plugins.MARKUPS, body.markup)
        base = body.base or entry.permalink
        for _macro, written in found_in(body.text, self.macros):
            self.notes.note("macro", f"{written} in “{title}”")
        for name in look_like_macros(body.text, body.markup, self.macros):
            self.notes.note("macro-like", f"{name} in “{title}”")
        try:
            found = list(things(markup.to_html(body.text, self.names.at(entry.permalink))))
        except TooDeep:
            self.notes.note("too-deep", title)
            return
        except Unreadable as error:
            self.notes.note("markup-unread", f"{title}: {error}")
            return
        for tag, value in found:
            if tag in SPECIAL:
                self.notes.note(SPECIAL[tag], title)
            elif (host := self.linked.link(tag, value, base, entry.key)) and tag != "a":
                self.entry_findings.remote[host] += 1


def title_of(entry: Entry) -> str:
    """The name by which a person knows an entry."""
    return entry.title or entry.slug or entry.permalink or entry.key
