"""What is in an export, counted, and what will give trouble: from a filled store, before anything is written."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Callable
from datetime import datetime
from urllib.parse import quote

from msgspec import Struct

from newburrow import address, registry
from newburrow.assess.likeness import alike
from newburrow.assess.permalinks import pattern_of
from newburrow.convert.archives import OldArchives, pairs
from newburrow.convert.links import Leads, LinkMap
from newburrow.convert.macros import found_in, look_like_macros
from newburrow.dialects.loader import is_starter
from newburrow.formats.dates import zone_named
from newburrow.formats.dialect import Dialect
from newburrow.hosts import loader as hosts
from newburrow.journal import OBJECT_ORDER, UNCHANGED, Journal, OldAddress
from newburrow.markup.base import Markup
from newburrow.markup.html import Fragment, TooDeep
from newburrow.model import Author, Body, Entry, Media, Site, Term
from newburrow.scope import site_of
from newburrow.store import Store

EXAMPLES = 5  # shown of each finding
LARGEST = 5  # entries named as the largest
MOST_PATTERNS = 200  # permalink patterns kept apart; what fits none of them is an exception
_SPECIAL = {"form": "form", "script": "script", "iframe": "embed", "object": "embed", "embed": "embed"}
_LINKS = {"a": "href", "img": "src", "source": "src", "video": "src", "audio": "src"}
_SEEN = ",".join((*_SPECIAL, *_LINKS))
_WORTH_PARSING = re.compile(rf"<(?:{'|'.join((*_SPECIAL, *_LINKS))})\b", re.IGNORECASE)

_ADVICE = {
    "starter-content": "`draft` proposes to leave it behind.",
    "no-slug": "`draft` proposes to make the slug from the title.",
    "same-title": "If their addresses meet on the new host, the later one gets a number.",
    "missing-file": "It cannot be moved; fetch it from the old site while that stands.",
    "missing-picture": "It cannot be moved; fetch it from the old site while that stands.",
    "file-twice": "It goes along once.",
    "form": "A form has to be made anew on the new host.",
    "embed": "Becomes a link where the new host takes no embeds.",
    "script": "Is taken out where the new host takes no scripts.",
    "macro": "Becomes what the dialect says, else a follow-up: the new host would show it as text.",
    "macro-like": "Looks like a placeholder that the dialect does not name: add it to its [[macros]].",
    "dead-link": "Nothing in the export stands there; each is a follow-up.",
    "no-date": "Set the date by hand, or correct it in the export.",
    "undated": "Its new address is built without a date.",
    "unread-element": "Its values are kept in content.sqlite; name it in the dialect if it matters.",
    "twice": "The first is kept.",
    "united": "They are one on the new host; what one lacked is filled in from the other.",
    "lacked": "It is filled in from the other.",
    "like-terms": "They look like one; give both the same name in terms.csv, if they are.",
    "file-unused": "No entry shows it; it goes along all the same.",
    "host-limit": "Choose fewer entries in move.toml, or another host.",
    "odd-permalink": "Its address fits no pattern; it is redirected by itself.",
    "too-deep": "Its body cannot be read; write it anew.",
}


class Finding(Struct, frozen=True):
    """One kind of thing that will give trouble, or that is good to know."""

    code: str
    count: int
    examples: list[str]
    advice: str = ""  # what happens to it, or what to do


class SourceFacts(Struct, frozen=True):
    """What one of the paths handed in turned out to be."""

    path: str
    format: str
    dialect: str
    parts: int = 1  # files in this format and dialect


class PermalinkFacts(Struct, frozen=True):
    """One permalink pattern with the entries that it covers."""

    pattern: str  # RFC 6570, relative to the site
    entries: int
    example: str


class TermFacts(Struct, frozen=True):
    """One term with the number of entries it is on."""

    vocabulary: str
    name: str
    parent: str  # key
    key: str
    entries: int


class Survey(Struct, frozen=True):
    """All that a survey tells."""

    sources: list[SourceFacts]
    site: Site
    counts: dict[str, int]  # kind of object -> number
    states: dict[str, dict[str, int]]  # kind of entry or comment -> state -> number
    authors: list[tuple[str, int]]  # name, entries; those who wrote most first
    terms: list[TermFacts]
    first: datetime | None
    last: datetime | None
    offsets: dict[str, int]  # offset from UTC as written -> entries
    media_bytes: int
    permalinks: list[PermalinkFacts]  # the most common first; at most MOST_PATTERNS
    largest: list[tuple[int, str]]  # bytes of the body, title; the largest first
    findings: list[Finding]


class _Notes:
    """Findings being gathered: counted without end, with a few examples each."""

    def __init__(self) -> None:
        self.counts: Counter[str] = Counter()
        self.examples: dict[str, list[str]] = {}

    def note(self, code: str, example: str) -> None:
        self.counts[code] += 1
        shown = self.examples.setdefault(code, [])
        if len(shown) < EXAMPLES and example not in shown:
            shown.append(example)

    def findings(self) -> list[Finding]:
        return [
            Finding(code, count, self.examples[code], _ADVICE.get(code, ""))
            for code, count in sorted(self.counts.items(), key=lambda item: (-item[1], item[0]))
        ]


def survey(
    store: Store,
    journal: Journal,
    sources: list[SourceFacts],
    dialects: tuple[Dialect, ...],
    progress: Callable[[int, int], None],
) -> Survey:
    """Examine a store. The journal is a fresh one, for the addresses that the export holds."""
    return _Surveyor(store, journal, dialects, progress).survey(sources)


def _in_order(item: tuple[tuple[str, str], int]) -> tuple[int, int]:
    """Entries first, and the kinds of which there are most."""
    (table, _kind), number = item
    return OBJECT_ORDER.index(table), -number


class _Surveyor:
    def __init__(
        self, store: Store, journal: Journal, dialects: tuple[Dialect, ...], progress: Callable[[int, int], None]
    ) -> None:
        self.store, self.journal, self.dialects, self.progress = store, journal, dialects, progress
        self.notes = _Notes()
        site = store.site()
        self.sites = list(store.all(Site))
        self.links = LinkMap(journal, [one.address for one in self.sites], dialects)
        self.zone = zone_named(site.zone) if site.zone else None
        self.macros = [macro for dialect in dialects for macro in dialect.macros]
        self.uses: Counter[str] = Counter()
        self.offsets: Counter[str] = Counter()
        self.patterns: Counter[str] = Counter()
        self.pattern_examples: dict[str, str] = {}
        self.largest: list[tuple[int, str]] = []
        self.first: datetime | None = None
        self.last: datetime | None = None

    def survey(self, sources: list[SourceFacts]) -> Survey:
        store = self.store
        media_bytes = self._media()
        self._addresses()
        total = store.count(Entry)
        for done, entry in enumerate(store.all(Entry), 1):
            self._entry(entry)
            self.progress(done, total)
        self._unused()
        self._limits()
        for one, other in alike(term.name for term in store.all(Term)):
            self.notes.note("like-terms", f"“{one}” and “{other}”")
        for problem in store.problems():
            self.notes.note(
                problem.code, f"{problem.message} ({problem.where})" if problem.where.file else problem.message
            )
        for name, _found, example in store.extras():
            self.notes.note("unread-element", f"{name.rpartition('}')[2]}: {example}")
        for double in store.twice():
            record = double.record
            title = getattr(record, "title", "") or getattr(record, "name", "") or record.key
            what = f"{double.kind} “{title}” ({record.source})"
            self.notes.note("united" if double.why else "twice", f"{what}: {double.why}" if double.why else what)
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
            first=self.first,
            last=self.last,
            offsets=dict(sorted(self.offsets.items())),
            media_bytes=media_bytes,
            permalinks=[
                PermalinkFacts(pattern, number, self.pattern_examples[pattern])
                for pattern, number in sorted(self.patterns.items(), key=lambda item: (-item[1], item[0]))
            ],
            largest=self.largest,
            findings=self.notes.findings(),
        )

    def _media(self) -> int:
        """Look at the files, and learn their addresses."""
        total = 0
        for media in self.store.all(Media):
            total += media.size
            self._know(media.address, *media.addresses)
            if not media.path:
                self.notes.note("missing-file", media.extra.get("path", [media.address])[0])
            elif self.journal.file_with(media.digest)[0]:
                self.notes.note("file-twice", media.path)
            self.journal.keep_file(media.key, media.path, media.address, media.digest)
            if media.path and not media.address:
                site, path = site_of(media.path, self.sites)
                self.journal.lay_beside(address.full_path(address.resolve(site, quote(path))), media.path)
        return total

    def _know(self, *addresses: str) -> None:
        for old in addresses:
            key = address.key(old)
            if key:
                self.journal.answer(key, OldAddress(old, old, UNCHANGED, ""))

    def _addresses(self) -> None:
        """Learn every address that the export answers for."""
        for site in self.sites:
            self._know(address.resolve(site.address, "/"))
        for entry in self.store.all(Entry):
            self._know(entry.permalink, *entry.addresses)
            if entry.body.base:
                self.journal.lay_beside(address.full_path(entry.body.base), entry.permalink)
        for site, dialect in pairs(self.sites, self.dialects):
            self._know(*(address.resolve(site.address, feed) for feed in dialect.site.feeds))
        archives = OldArchives(self.store, self.dialects)
        for author in self.store.all(Author):
            self._know(*archives.of_author(author))
        for term in self.store.all(Term):
            self._know(*archives.of_term(term))

    def _unused(self) -> None:
        for media in self.store.all(Media):
            if media.path and not self.journal.answer_to(f"shown:{media.address or media.path}"):
                self.notes.note("file-unused", media.path)

    def _limits(self) -> None:
        """Which of the hosts that ship this export is too large for."""
        total = self.store.count(Entry)
        for host in map(hosts.load, hosts.SHELF.names()):
            if host.limits.entries and total > host.limits.entries:
                self.notes.note("host-limit", f"{host.title} takes {host.limits.entries:,} entries, of {total:,}")

    def _shown(self, new: str) -> None:
        self.journal.answer(f"shown:{new}", OldAddress("", "", UNCHANGED, ""))

    def _permalink(self, entry: Entry, title: str) -> None:
        local = entry.published.astimezone(self.zone) if entry.published and self.zone else entry.published
        pattern = pattern_of(entry, local)
        if pattern and (pattern in self.patterns or len(self.patterns) < MOST_PATTERNS):
            self.patterns[pattern] += 1
            self.pattern_examples.setdefault(pattern, entry.permalink)
        elif pattern:
            self.notes.note("odd-permalink", title)

    def _entry(self, entry: Entry) -> None:
        title = entry.title or entry.slug or entry.permalink or entry.key
        self.uses.update(f"author {key}" for key in set(entry.authors))
        self.uses.update(f"term {key}" for key in set(entry.terms))
        self._dates(entry, title)
        self._permalink(entry, title)
        self.largest = sorted([*self.largest, (len(entry.body.text.encode("utf-8", "replace")), title)], reverse=True)
        self.largest = self.largest[:LARGEST]
        if entry.lead_picture:
            lead = self.store.get(Media, entry.lead_picture)
            self._shown(lead.address or lead.path if lead else entry.lead_picture)
        if any(is_starter(dialect, entry.kind, entry.slug, entry.title) for dialect in self.dialects):
            self.notes.note("starter-content", title)
        if not (entry.slug or address.last_name(entry.permalink)):
            self.notes.note("no-slug", title)
        if entry.title and self.journal.answer(f"title:{entry.kind}:{entry.title}", OldAddress("", "", UNCHANGED, "")):
            self.notes.note("same-title", title)
        self._body(entry.body, entry.permalink, title)

    def _dates(self, entry: Entry, title: str) -> None:
        moment = entry.published
        if moment is None:
            self.notes.note("undated", title)
            return
        self.offsets[moment.strftime("%z")] += 1
        if self.first is None or moment < self.first:
            self.first = moment
        if self.last is None or moment > self.last:
            self.last = moment

    def _body(self, body: Body, base: str, title: str) -> None:
        markup: Markup = registry.get(registry.MARKUPS, body.markup)
        text, base = markup.to_html(body.text), body.base or base
        for _macro, written in found_in(body.text, self.macros):
            self.notes.note("macro", f"{written} in “{title}”")
        for name in look_like_macros(body.text, self.macros):
            self.notes.note("macro-like", f"{name} in “{title}”")
        if not _WORTH_PARSING.search(text):
            return
        try:
            fragment = Fragment(text)
        except TooDeep:
            self.notes.note("too-deep", title)
            return
        for node in fragment.select(_SEEN):
            tag = node.tag or ""
            if tag in _SPECIAL:
                self.notes.note(_SPECIAL[tag], title)
            value = node.attributes.get(_LINKS[tag]) if tag in _LINKS else None
            if value is not None:
                self._link(tag, value, base, title)

    def _link(self, tag: str, value: str, base: str, title: str) -> None:
        link = self.links.follow(value, base)
        if link.leads is Leads.MOVED:
            self._shown(link.address)
        elif link.leads is Leads.UNKNOWN:
            self.notes.note("dead-link" if tag == "a" else "missing-picture", f"{link.old} in “{title}”")
