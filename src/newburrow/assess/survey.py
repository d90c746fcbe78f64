"""What is in an export, counted, and what will give trouble: from a filled store, before anything is written."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from urllib.parse import quote

from newburrow.assess import file_kinds, question_survey
from newburrow.assess.body_scan import LINKS
from newburrow.assess.entry_survey import look, title_of
from newburrow.assess.link_map import LinkMap, LinkTarget
from newburrow.assess.old_archives import OldArchives, pairs
from newburrow.assess.shared_texts import shared_by_pages
from newburrow.assess.site_of_file import site_of_file
from newburrow.assess.survey_facts import (
    AuthorFacts,
    EntrySize,
    FindingNotes,
    MediaFacts,
    PermalinkFacts,
    SourceFacts,
    Survey,
    TermFacts,
)
from newburrow.assess.term_likeness import alike
from newburrow.core import url
from newburrow.dialects.schema import NO_DIALECT, Dialect
from newburrow.hosts import loader as hosts
from newburrow.model import Author, Entry, Media, Question, Site, Term
from newburrow.model.media import UNREADABLE_FILE
from newburrow.model.record_types import FILE_KIND, ledger_order
from newburrow.model.site import LINKED_ADDRESS, UNSTATED_ADDRESS
from newburrow.store.content_store import Store
from newburrow.store.link_index import LinkIndex


def survey(
    store: Store,
    sources: list[SourceFacts],
    dialects: tuple[Dialect, ...],
    folder: Path,
    progress: Callable[[int, int], None],
    jobs: int,
) -> Survey:
    """Examine a filled store: counts, links, files, dates, permalinks, findings.

    `folder` is for temporary files, which grow with the number of links. `jobs` is the number of
    processes; from a certain size on a second one reads half of the entries. `listener` is called with
    progress events.
    """
    with LinkIndex([site.address for site in store.all(Site)]) as linked:
        return _Surveyor(store, linked, dialects).survey(sources, folder, progress, jobs)


def _in_order(item: tuple[tuple[str, str], int]) -> tuple[int, int]:
    """Entries first, and the kinds of which there are most."""
    (table, _kind), number = item
    return ledger_order().index(table), -number


class _Surveyor:
    def __init__(self, store: Store, linked: LinkIndex, dialects: tuple[Dialect, ...]) -> None:
        self.store, self.linked, self.dialects = store, linked, dialects
        self.sites = list(store.all(Site))
        self.notes = FindingNotes()

    def survey(
        self,
        sources: list[SourceFacts],
        folder: Path,
        progress: Callable[[int, int], None],
        jobs: int,
    ) -> Survey:
        store = self.store
        media = self._media()
        self._addresses()
        entry_findings = look(store, self.linked, self.dialects, folder, progress, jobs)
        question_survey.look(store, self.linked, entry_findings)
        self.notes.join(entry_findings.notes)
        for host, number in entry_findings.remote.most_common():
            self.notes.note("remote-file", f"{host} ({number:,})", number)
        if any(source.format == "html" and source.dialect == NO_DIALECT for source in sources):
            for text in shared_by_pages(store):
                self.notes.note("layout-in-texts", f"“{text}” is in the text of most pages")
        self.linked.settle()
        self._links()
        self._unused(media)
        self._limits()
        self._note_problems()
        for gap in entry_findings.calendar.gaps():
            self.notes.note("gap", gap)
        authors = [
            (author.name, entry_findings.uses[f"author {author.key}"])
            for author in store.all(Author)
        ]
        return Survey(
            sources=sources,
            site=store.site(),
            counts={
                kind: number
                for (table, kind), number in sorted(store.tally().items(), key=_in_order)
                if table not in ("site", FILE_KIND)
            },
            states=store.states("entry") | store.states("comment"),
            authors=[
                AuthorFacts(*pair)
                for pair in sorted(authors, key=lambda pair: (-pair[1], pair[0]))
            ],
            terms=[
                TermFacts(
                    term.vocabulary,
                    term.name,
                    term.parent,
                    term.key,
                    entry_findings.uses[f"term {term.key}"],
                )
                for term in store.all(Term)
            ],
            first=entry_findings.calendar.first,
            last=entry_findings.calendar.last,
            offsets=entry_findings.calendar.offsets,
            media=MediaFacts(**media),
            markups=dict(entry_findings.markups.most_common()),
            permalinks=[
                PermalinkFacts(pattern, number, entry_findings.pattern_examples[pattern])
                for pattern, number in sorted(
                    entry_findings.patterns.items(), key=lambda item: (-item[1], item[0])
                )
            ],
            largest=[EntrySize(*pair) for pair in entry_findings.largest],
            findings=self.notes.findings(),
        )

    # -- what is beside the entries ----------------------------------------------------------

    def _media(self) -> dict[str, int]:
        """Look at the files, and learn their addresses."""
        found = dict.fromkeys(MediaFacts.__struct_fields__, 0)
        hosts_of_site = {url.site_key(site.address) for site in self.sites}
        for media in self.store.all(Media):
            if media.path:
                found["bytes"] += media.size
            self.linked.know(media.address, *media.addresses)
            if media.path:
                found["in_export"] += 1
            elif url.site_key(media.address) not in ("", *hosts_of_site):
                found["elsewhere"] += 1
            else:
                found["missing"] += 1
                if UNREADABLE_FILE not in media.extra:  # noted by the reader
                    self.notes.note("missing-file", media.named_path or media.address)
            if media.path and not self.linked.new_bytes(media.digest):
                found["same_bytes"] += 1
                self.notes.note("file-twice", media.path)
            if media.path and not media.address:
                site, path = site_of_file(media.path, self.sites)
                self.linked.add_unaddressed(
                    url.full_path(url.resolve(site, quote(path))), media.path
                )
        return found

    def _addresses(self) -> None:
        """Learn every address besides those of entries and files that the export answers for."""
        for site in self.sites:
            self.linked.know(url.front_page(site.address))
        for site, dialect in pairs(self.sites, self.dialects):
            self.linked.know(*(url.resolve(site.address, feed) for feed in dialect.site.feeds))
        archives = OldArchives(self.store, self.dialects)
        for author in self.store.all(Author):
            self.linked.know(*archives.of_author(author))
        for term in self.store.all(Term):
            self.linked.know(*archives.of_term(term))

    def _unused(self, found: dict[str, int]) -> None:
        for media in self.store.all(Media):
            shown = self.linked.is_linked(
                media.address, *media.addresses
            ) or self.linked.is_shown(media.key)
            if (
                media.path
                and not shown
                and not self.linked.is_shown(media.address or media.path)
            ):
                found["never_shown"] += 1
                if file_kinds.is_content(media):
                    code = "file-unused"
                else:
                    code = "file-not-content"
                self.notes.note(code, media.path)

    def _limits(self) -> None:
        """Which of the hosts that ship this export is too large for."""
        total = self.store.count(Entry)
        for host in map(hosts.load, hosts.PROFILES.names()):
            if host.limits.entries and total > host.limits.entries:
                self.notes.note(
                    "host-limit",
                    f"{host.title} takes {host.limits.entries:,} entries, of {total:,}",
                )

    def _note_problems(self) -> None:
        """What the readers had to say, what is there twice, and what looks like one."""
        for first, other in alike(term.name for term in self.store.all(Term)):
            self.notes.note("like-terms", f"“{first}” and “{other}”")
        for problem in self.store.problems():
            if problem.where.file:
                where = f" ({problem.where})"
            else:
                where = ""
            self.notes.note(problem.code, problem.message.removesuffix(".") + where)
        for name, reason in self.store.left_out_files():
            self.notes.note("file-left-out", f"{name}: it {reason}")
        self._note_extras()
        for double in self.store.doubles():
            record = double.record
            title = getattr(record, "title", "") or getattr(record, "name", "") or record.key
            double_title = f"{double.kind} “{title}” ({record.source})"
            self.notes.note(
                "united" if double.why else "twice",
                f"{double_title}: {double.why}" if double.why else double_title,
            )
        for title, more in self.linked.same_titles():
            for _ in range(more):
                self.notes.note("same-title", title)

    def _note_extras(self) -> None:
        """What the model has no place for, and whose word the addresses of sites are."""
        for name, _found, example in self.store.extras():
            if name == UNSTATED_ADDRESS:
                unstated = (
                    site.address for site in self.store.all(Site) if not site.is_addressed
                )
                self.notes.note("site-address-unknown", next(unstated, example))
            elif name == LINKED_ADDRESS:
                self.notes.note("site-address-by-links", example)
            else:
                self.notes.note("unread-element", f"{name.rpartition('}')[2]}: {example}")

    def _links(self) -> None:
        """What is not the very address of anything may be so all the same: with a query, a resized variant, ..."""
        links = LinkMap(
            self.linked, self.linked, [site.address for site in self.sites], self.dialects
        )
        for tag, value, key in self.linked.unanswered():
            base, name = self._place(key)
            link = links.follow(value, base)
            if link.leads is LinkTarget.MOVED:
                self.linked.show(link.address)
            elif link.leads is LinkTarget.UNKNOWN and tag in LINKS:
                self.notes.note(
                    "dead-link" if tag == "a" else "missing-picture",
                    f"{link.old} in “{name}”",
                )

    def _place(self, key: str) -> tuple[str, str]:
        """Where links in an entry or a question start from, and its name."""
        if entry := self.store.get(Entry, key):
            return entry.body.base or entry.permalink, title_of(entry)
        question = self.store.get(Question, key)
        assert question is not None
        return question.prompt.base, question_survey.name_of(question, self.store)
