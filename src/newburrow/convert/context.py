"""What every step may look at."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, field
from datetime import datetime, tzinfo
from functools import cached_property

from msgspec.structs import replace

from newburrow.assess.link_map import LinkMap
from newburrow.assess.named_links import NamedLinks
from newburrow.assess.old_archives import OldArchives
from newburrow.convert.body.embeds import Embeds
from newburrow.convert.body.sections import Sections
from newburrow.core import plugins
from newburrow.core.dates import zone_named
from newburrow.decide.conditions import Test, compiled
from newburrow.decide.decisions import AuthorChoice, Decisions, TermChoice
from newburrow.decide.entry_edits import EntryEdits
from newburrow.decide.rules import Rules
from newburrow.dialects.schema import Dialect, Macro, with_heading_ids
from newburrow.hosts.new_pages import NewPages
from newburrow.hosts.profile import Profile
from newburrow.markup.base import WritableMarkup
from newburrow.model import ENTRY_KINDS, Author, Entry, Media, Site, Term
from newburrow.model.keys import bare
from newburrow.store.content_store import Store
from newburrow.store.journal.journal import Journal
from newburrow.store.journal.view import JournalView

_DEEPEST = 50  # levels of a tree; parents in a circle end there


@dataclass
class Context:
    """One move: what was read, what was decided, what the host takes, and the journal."""

    store: Store
    journal: JournalView
    host: Profile
    dialects: tuple[Dialect, ...]
    decisions: Decisions
    author_choices: dict[str, AuthorChoice]
    term_choices: dict[str, TermChoice]
    old: Site
    new: Site  # the old site's facts at the new address
    # Authors and terms are few; they are held, as they will be on the new host.
    authors: dict[str, Author] = field(default_factory=dict)
    terms: dict[str, Term] = field(default_factory=dict)
    has_edits: bool = False  # whether there is a table of entries
    has_ids: bool = False  # whether ids were given anew
    # of the old server: expression for a path, target
    old_rules: list[tuple[str, str]] = field(default_factory=list)
    # what is reported once, by how often it was
    tally: Counter[str] = field(default_factory=Counter)

    @property
    def planning(self) -> Journal:
        """The journal to write the plan into; only the first process has it."""
        assert isinstance(self.journal, Journal)
        return self.journal

    @cached_property
    def sites(self) -> list[Site]:
        """The old sites; mostly one."""
        return list(self.store.all(Site)) or [self.old]

    @cached_property
    def rules(self) -> Rules:
        """The rules, which change entries before anything else is decided."""
        return Rules(self.decisions.rules, self.store, self.local)

    @cached_property
    def edits(self) -> EntryEdits:
        """The edits of `entries.csv`."""
        kinds = tuple(dict.fromkeys((*self.host.kinds, *ENTRY_KINDS)))
        return EntryEdits(
            self.store, self.store.site().zone, self.journal.edits, kinds, "entries.csv"
        )

    def decided(self, entry: Entry) -> Entry:
        """An entry as rules and the table of entries make it, before anything else is decided of it."""
        return self.edited(entry, self.rules.changed(entry).entry)

    def edited(self, entry: Entry, now: Entry) -> Entry:
        """An entry as the table of entries makes it; `now` is as the rules have made it."""
        if self.has_edits:
            return self.edits.changed(entry, now)
        return now

    @cached_property
    def pages_of_terms(self) -> dict[str, Term]:
        """The terms that become pages, by key."""
        chosen = [key for key, choice in self.term_choices.items() if choice.action == "page"]
        return {key: term for key in chosen if (term := self.store.get(Term, key))}

    @cached_property
    def kinds_read(self) -> frozenset[str]:
        """The kinds of entries in the export."""
        return frozenset(self.store.states("entry"))

    def new_id(self, object_: str, key: str) -> str:
        """The id of an object on the new host."""
        return (self.journal.ids.get(object_, key) if self.has_ids else "") or bare(key)

    def kind_for(self, kind: str) -> str:
        """The host's kind that a kind becomes; empty where it has none for it."""
        return self.decisions.kinds.get(kind) or self.host.kind_for(kind)

    def vocabulary_for(self, vocabulary: str) -> str:
        """The host's vocabulary that terms of one go into."""
        return self.host.vocabulary_for(self.decisions.vocabularies.get(vocabulary, vocabulary))

    @cached_property
    def chosen(self) -> tuple[Test, list[Test]]:
        """The condition of what moves, and the conditions of what is left out of it."""
        choose = self.decisions.choose
        return compiled(choose.only, self.store, self.local), [
            compiled(condition, self.store, self.local) for condition in choose.leave
        ]

    @cached_property
    def links(self) -> LinkMap:
        """Where addresses of the old site lead."""
        return LinkMap(
            self.journal.urls,
            self.journal.files,
            [site.address for site in self.sites],
            self.dialects,
            self.old_rules,
        )

    @cached_property
    def named_links(self) -> NamedLinks:
        """What the names in links of wiki pages mean."""
        return NamedLinks(self.store.page_names, self.dialects)

    @cached_property
    def with_heading_ids(self) -> frozenset[str]:
        """The markups in which the old host gave each heading an id made of its words."""
        return with_heading_ids(self.dialects)

    @cached_property
    def sections(self) -> Sections:
        """The sections of pages, by the new addresses of these."""
        return Sections(self._entry_at, self.named_links.at, self.with_heading_ids)

    def _entry_at(self, new_key: str) -> Entry | None:
        """The entry of the old site that goes to an address of the new one."""
        key = self.journal.plan.key_at(new_key)
        if key:
            return self.store.get(Entry, key)
        return None

    def ancestors(self, entry: Entry) -> Iterator[Entry]:
        """The entries above one on the old site, the nearest first, each as it is decided."""
        seen = {entry.key}
        while entry.parent and entry.parent not in seen and len(seen) < _DEEPEST:
            seen.add(entry.parent)
            above = self.store.get(Entry, entry.parent)
            if above is None:
                return
            entry = self.decided(above)
            yield entry

    @cached_property
    def old_archives(self) -> OldArchives:
        """The addresses of archives on the old site."""
        return OldArchives(self.store, self.dialects)

    @cached_property
    def new_pages(self) -> NewPages:
        """Names and addresses of pages on the new site."""
        return NewPages(self.host, self.decisions.addresses, self.new.address)

    @cached_property
    def allowed(self) -> frozenset[str]:
        """The HTML elements that a body may hold on the new host; empty allows all."""
        return frozenset(self.host.markup.elements or self.markup.elements)

    @cached_property
    def allowed_in_comments(self) -> frozenset[str]:
        """The HTML elements that a comment may hold on the new host; empty allows all."""
        own = self.host.comments.markup
        if own:
            return frozenset(self.markup_of_comments.elements)
        return self.allowed

    @cached_property
    def markup(self) -> WritableMarkup:
        """The markup of bodies on the new host."""
        written: WritableMarkup = plugins.get(plugins.MARKUPS, self.host.markup.name)
        return written

    @cached_property
    def markup_of_comments(self) -> WritableMarkup:
        """The markup of comments on the new host."""
        written: WritableMarkup = plugins.get(
            plugins.MARKUPS, self.host.comments.markup or self.host.markup.name
        )
        return written

    @cached_property
    def embeds(self) -> Embeds:
        """The forms of videos and frames from other sites."""
        return Embeds(
            [embed for dialect in self.dialects for embed in dialect.embeds],
            self.host.markup.embed,
        )

    def show(self, new: str) -> None:
        """Note that something that moves shows or links to a new address."""
        self.journal.shown.add(new.partition("#")[0])

    def media_at(self, new: str) -> Media | None:
        """The file of the export that gets a new address."""
        key = self.journal.files.key_at(new)
        if key:
            return self.store.get(Media, key)
        return None

    @cached_property
    def macros(self) -> tuple[Macro, ...]:
        """The placeholders of the old host."""
        return tuple(macro for dialect in self.dialects for macro in dialect.macros)

    @cached_property
    def is_package(self) -> bool:
        """Whether the old site is a package whose manifest says where each file lies."""
        formats = (plugins.get(plugins.FORMATS, dialect.format) for dialect in self.dialects)
        return any(format_.manifest for format_ in formats)

    @cached_property
    def zone(self) -> tzinfo:
        """The time zone of the dates in permalinks."""
        return zone_named(self.old.zone)

    def local(self, moment: datetime) -> datetime:
        """A date as a reader on the site sees it: in the site's zone, where that is known."""
        if self.old.zone:
            return moment.astimezone(self.zone)
        return moment

    def new_media(self, key: str) -> Media | None:
        """A media as it will be on the new host; None for one that does not go there."""
        name, new = self.journal.files.get(key)
        if new:
            media = self.store.get(Media, key)
        else:
            media = None
        if media is None:
            return None
        if not name:  # it stays where it is, on another site
            return replace(media, address=new)
        # of files with the same bytes one moves, under its own key
        owner, _digest = self.journal.files.with_name(name)
        return replace(
            media, key=owner or key, address=new, path=f"{self.host.media.folder}/{name}"
        )
