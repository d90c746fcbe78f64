"""What is in an export, counted, and what will give trouble: from a filled store, before anything is written."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from urllib.parse import quote

from newburrow import address, registry
from newburrow.assess.calendar import Calendar
from newburrow.assess.facts import Notes, PermalinkFacts, SourceFacts, Survey, TermFacts
from newburrow.assess.likeness import alike
from newburrow.assess.linked import Linked
from newburrow.assess.permalinks import fits, pattern_of
from newburrow.assess.scan import LINKS, SPECIAL, things
from newburrow.convert.archives import OldArchives, pairs
from newburrow.convert.links import Leads, LinkMap
from newburrow.convert.macros import found_in, look_like_macros
from newburrow.dialects.loader import is_starter
from newburrow.formats.dates import zone_named
from newburrow.formats.dialect import Dialect
from newburrow.hosts import loader as hosts
from newburrow.journal import OBJECT_ORDER
from newburrow.markup.base import Markup
from newburrow.markup.guess import guess
from newburrow.markup.html import TooDeep
from newburrow.model import Author, Entry, Media, Site, Term
from newburrow.scope import site_of
from newburrow.store import Store

GUESSED = 300  # bodies looked at for signs of another markup
LARGEST = 5  # entries named as the largest
MOST_PATTERNS = 200  # permalink patterns kept apart; what fits none of them is an exception


def survey(
    store: Store, sources: list[SourceFacts], dialects: tuple[Dialect, ...], progress: Callable[[int, int], None]
) -> Survey:
    """Examine a store."""
    with Linked([site.address for site in store.all(Site)]) as linked:
        return _Surveyor(store, linked, dialects, progress).survey(sources)


def _in_order(item: tuple[tuple[str, str], int]) -> tuple[int, int]:
    """Entries first, and the kinds of which there are most."""
    (table, _kind), number = item
    return OBJECT_ORDER.index(table), -number


class _Surveyor:
    def __init__(
        self, store: Store, linked: Linked, dialects: tuple[Dialect, ...], progress: Callable[[int, int], None]
    ) -> None:
        self.store, self.linked, self.dialects, self.progress = store, linked, dialects, progress
        self.notes = Notes()
        self.sites = list(store.all(Site))
        self.zone = zone_named(self.sites[0].zone) if self.sites and self.sites[0].zone else None
        self.macros = [macro for dialect in dialects for macro in dialect.macros]
        self.uses: Counter[str] = Counter()
        self.calendar = Calendar()
        self.markups: Counter[str] = Counter()
        self.common = ""  # the first pattern met, which is mostly that of most
        self.patterns: Counter[str] = Counter()
        self.pattern_examples: dict[str, str] = {}
        self.largest: list[tuple[int, str]] = []
        self.shown: Counter[str] = Counter()

    def survey(self, sources: list[SourceFacts]) -> Survey:
        store = self.store
        media = self._media()
        self._addresses()
        total = store.count(Entry)
        for done, entry in enumerate(store.all(Entry), 1):
            self._entry(entry)
            self.progress(done, total)
        self.linked.settle()
        self._links()
        self._unused(media)
        self._limits()
        self._said()
        for gap in self.calendar.gaps():
            self.notes.note("gap", gap)
        authors = [(author.name, self.uses[f"author {author.key}"]) for author in store.all(Author)]
        return Survey(
            sources=sources,
            site=store.site(),
            counts={
                kind: number
                for (table, kind), number in sorted(store.tally().items(), key=_in_order)
                if table != "site"
            },
            states=store.states("entry") | store.states("comment"),
            authors=sorted(authors, key=lambda pair: (-pair[1], pair[0])),
            terms=[
                TermFacts(term.vocabulary, term.name, term.parent, term.key, self.uses[f"term {term.key}"])
                for term in store.all(Term)
            ],
            first=self.calendar.first,
            last=self.calendar.last,
            offsets=self.calendar.offsets,
            media=media,
            markups=dict(self.markups.most_common()),
            permalinks=[
                PermalinkFacts(pattern, number, self.pattern_examples[pattern])
                for pattern, number in sorted(self.patterns.items(), key=lambda item: (-item[1], item[0]))
            ],
            largest=self.largest,
            findings=self.notes.findings(),
        )

    # -- what stands beside the entries ----------------------------------------------------------

    def _media(self) -> dict[str, int]:
        """Look at the files, and learn their addresses."""
        found = dict.fromkeys(("bytes", "in the export", "missing", "elsewhere", "the same bytes", "never shown"), 0)
        hosts_of_site = {address.site_key(site.address) for site in self.sites}
        for media in self.store.all(Media):
            found["bytes"] += media.size if media.path else 0
            self.linked.know(media.address, *media.addresses)
            if media.path:
                found["in the export"] += 1
            elif address.site_key(media.address) not in ("", *hosts_of_site):
                found["elsewhere"] += 1
            else:
                found["missing"] += 1
                self.notes.note("missing-file", media.extra.get("path", [media.address])[0])
            if media.path and not self.linked.new_bytes(media.digest):
                found["the same bytes"] += 1
                self.notes.note("file-twice", media.path)
            if media.path and not media.address:
                site, path = site_of(media.path, self.sites)
                self.linked.lay_beside(address.full_path(address.resolve(site, quote(path))), media.path)
        return found

    def _addresses(self) -> None:
        """Learn every address besides those of entries and files that the export answers for."""
        for site in self.sites:
            self.linked.know(address.resolve(site.address, "/"))
        for site, dialect in pairs(self.sites, self.dialects):
            self.linked.know(*(address.resolve(site.address, feed) for feed in dialect.site.feeds))
        archives = OldArchives(self.store, self.dialects)
        for author in self.store.all(Author):
            self.linked.know(*archives.of_author(author))
        for term in self.store.all(Term):
            self.linked.know(*archives.of_term(term))

    def _unused(self, found: dict[str, int]) -> None:
        for media in self.store.all(Media):
            shown = self.shown[media.key] or self.linked.is_linked(media.address, *media.addresses)
            if media.path and not shown and not self.linked.is_shown(media.address or media.path):
                found["never shown"] += 1
                self.notes.note("file-unused", media.path)

    def _limits(self) -> None:
        """Which of the hosts that ship this export is too large for."""
        total = self.store.count(Entry)
        for host in map(hosts.load, hosts.SHELF.names()):
            if host.limits.entries and total > host.limits.entries:
                self.notes.note("host-limit", f"{host.title} takes {host.limits.entries:,} entries, of {total:,}")

    def _said(self) -> None:
        """What the readers had to say, what stands twice, and what looks like one."""
        for one, other in alike(term.name for term in self.store.all(Term)):
            self.notes.note("like-terms", f"“{one}” and “{other}”")
        for problem in self.store.problems():
            where = f" ({problem.where})" if problem.where.file else ""
            self.notes.note(problem.code, problem.message + where)
        for name, _found, example in self.store.extras():
            self.notes.note("unread-element", f"{name.rpartition('}')[2]}: {example}")
        for double in self.store.twice():
            record = double.record
            title = getattr(record, "title", "") or getattr(record, "name", "") or record.key
            what = f"{double.kind} “{title}” ({record.source})"
            self.notes.note("united" if double.why else "twice", f"{what}: {double.why}" if double.why else what)
        for title, more in self.linked.same_titles():
            for _ in range(more):
                self.notes.note("same-title", title)

    # -- entries -----------------------------------------------------------------------------------

    def _entry(self, entry: Entry) -> None:
        title = _title(entry)
        self.uses.update(f"author {key}" for key in set(entry.authors))
        self.uses.update(f"term {key}" for key in set(entry.terms))
        if not self.calendar.count(entry.published, planned=entry.status == "scheduled"):
            self.notes.note("undated", title)
        self._permalink(entry, title)
        size = len(entry.body.text.encode("utf-8", "replace"))
        if len(self.largest) < LARGEST or size >= self.largest[-1][0]:
            self.largest = sorted([*self.largest, (size, title)], reverse=True)[:LARGEST]
        for file in (entry.lead_picture, *entry.enclosures):
            if file:
                self.shown[file] += 1
                if "://" in file:
                    self.linked.link("img", file, entry.permalink, entry.key)
        if any(is_starter(dialect, entry.kind, entry.slug, entry.title) for dialect in self.dialects):
            self.notes.note("starter-content", title)
        if not (entry.slug or address.last_name(entry.permalink)):
            self.notes.note("no-slug", title)
        if entry.title:
            self.linked.title(entry.kind, entry.title)
        self.linked.know(entry.permalink, *entry.addresses)
        if entry.body.base:
            self.linked.lay_beside(address.full_path(entry.body.base), entry.permalink)
        self._body(entry, title)

    def _permalink(self, entry: Entry, title: str) -> None:
        local = entry.published.astimezone(self.zone) if entry.published and self.zone else entry.published
        pattern = self.common if self.common and fits(self.common, entry, local) else pattern_of(entry, local)
        self.common = self.common or pattern
        if pattern and (pattern in self.patterns or len(self.patterns) < MOST_PATTERNS):
            self.patterns[pattern] += 1
            self.pattern_examples.setdefault(pattern, entry.permalink)
        elif pattern:
            self.notes.note("odd-permalink", title)

    def _body(self, entry: Entry, title: str) -> None:
        body = entry.body
        if not body.text:
            return
        self.markups[body.markup] += 1
        if self.markups.total() <= GUESSED and (other := guess(body.text)) not in (body.markup, "text"):
            self.notes.note("markup-like", f"“{title}” looks like {other}, and is read as {body.markup}")
        markup: Markup = registry.get(registry.MARKUPS, body.markup)
        base = body.base or entry.permalink
        for _macro, written in found_in(body.text, self.macros):
            self.notes.note("macro", f"{written} in “{title}”")
        for name in look_like_macros(body.text, self.macros):
            self.notes.note("macro-like", f"{name} in “{title}”")
        try:
            found = list(things(markup.to_html(body.text)))
        except TooDeep:
            self.notes.note("too-deep", title)
            return
        for tag, value in found:
            if tag in SPECIAL:
                self.notes.note(SPECIAL[tag], title)
            elif (host := self.linked.link(tag, value, base, entry.key)) and tag != "a":
                self.notes.note("media-elsewhere", f"{host} in “{title}”")

    def _links(self) -> None:
        """What is not the very address of anything may be so all the same: with a query, a resized variant, ..."""
        links = LinkMap(self.linked, [site.address for site in self.sites], self.dialects)
        for tag, value, key in self.linked.unanswered():
            entry = self.store.get(Entry, key)
            assert entry is not None
            link = links.follow(value, entry.body.base or entry.permalink)
            if link.leads is Leads.MOVED:
                self.linked.show(link.address)
            elif link.leads is Leads.UNKNOWN and tag in LINKS:
                self.notes.note("dead-link" if tag == "a" else "missing-picture", f"{link.old} in “{_title(entry)}”")


def _title(entry: Entry) -> str:
    return entry.title or entry.slug or entry.permalink or entry.key
