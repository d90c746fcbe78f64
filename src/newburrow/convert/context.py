"""What every step may look at."""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import datetime, tzinfo
from functools import cached_property

from msgspec.structs import replace

from newburrow import registry
from newburrow.convert.archives import NewArchives, OldArchives
from newburrow.convert.conditions import Test, compiled
from newburrow.convert.decisions import AuthorChoice, Decisions, TermChoice
from newburrow.convert.edits import Edits
from newburrow.convert.links import LinkMap
from newburrow.convert.rules import Rules
from newburrow.formats.dates import zone_named
from newburrow.formats.dialect import Dialect, Macro
from newburrow.hosts.profile import Profile
from newburrow.journal import Journal
from newburrow.markup.base import Written
from newburrow.model import ENTRY_KINDS, Author, Entry, Media, Site, Term
from newburrow.store import Store


@dataclass
class Context:
    """One move: what was read, what was decided, what the host takes, and the journal."""

    store: Store
    journal: Journal
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

    @cached_property
    def sites(self) -> list[Site]:
        """The old sites; mostly one."""
        return list(self.store.all(Site)) or [self.old]

    @cached_property
    def rules(self) -> Rules:
        """What entries become before anything else is decided of them."""
        return Rules(self.decisions.rules, self.store, self.local)

    @cached_property
    def edits(self) -> Edits:
        """What a person's table of entries says."""
        kinds = tuple(dict.fromkeys((*self.host.kinds, *ENTRY_KINDS)))
        return Edits(self.store, self.journal, kinds, "entries.csv")

    def decided(self, entry: Entry, count: bool = False) -> Entry:
        """An entry as rules and the table of entries make it, before anything else is decided of it."""
        now = self.rules.changed(entry, count)
        return self.edits.changed(entry, now) if self.has_edits else now

    @cached_property
    def chosen(self) -> tuple[Test, list[Test]]:
        """What moves, and what of that stays behind all the same."""
        choose = self.decisions.choose
        return compiled(choose.only, self.store, self.local), [
            compiled(one, self.store, self.local) for one in choose.leave
        ]

    @cached_property
    def links(self) -> LinkMap:
        """Where addresses of the old site lead."""
        return LinkMap(self.journal, [site.address for site in self.sites], self.dialects)

    @cached_property
    def allowed(self) -> frozenset[str]:
        """The HTML elements that a body may hold on the new host; empty allows all."""
        return frozenset(self.host.markup.elements)

    @cached_property
    def markup(self) -> Written:
        """What bodies are written in on the new host."""
        written: Written = registry.get(registry.MARKUPS, self.host.markup.name)
        return written

    @cached_property
    def markup_of_comments(self) -> Written:
        """What comments are written in on the new host."""
        written: Written = registry.get(registry.MARKUPS, self.host.comments.markup or self.host.markup.name)
        return written

    @cached_property
    def macros(self) -> tuple[Macro, ...]:
        """The placeholders of the old host."""
        return tuple(macro for dialect in self.dialects for macro in dialect.macros)

    @cached_property
    def old_archives(self) -> OldArchives:
        """Where archives stood."""
        return OldArchives(self.store, self.dialects)

    @cached_property
    def new_archives(self) -> NewArchives:
        """Where archives will stand."""
        return NewArchives(self.host, self.new.address)

    @cached_property
    def zone(self) -> tzinfo:
        """The time zone in which permalinks tell dates."""
        return zone_named(self.old.zone)

    def local(self, moment: datetime) -> datetime:
        """A date as a reader on the site sees it: in the site's zone, where that is known."""
        return moment.astimezone(self.zone) if self.old.zone else moment

    def new_media(self, key: str) -> Media | None:
        """A media as it will be on the new host; None for one that does not go there."""
        name, new = self.journal.file_of(key)
        media = self.store.get(Media, key) if new else None
        if media is None:
            return None
        if not name:  # it stays where it is, on another site
            return replace(media, address=new)
        owner, _digest = self.journal.file_named(name)  # of files with the same bytes one goes along, under its own key
        return replace(media, key=owner or key, address=new, path=f"{self.host.media.folder}/{name}")
