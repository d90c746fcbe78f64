"""A move held in the hand: a store of given records, a journal, a host profile, without a command line."""

from __future__ import annotations

from collections.abc import Callable

from newburrow.convert import conversion, result
from newburrow.convert.context import Context
from newburrow.convert.plan import order
from newburrow.core import tomlfile
from newburrow.core.problem import Problem
from newburrow.core.progress import nobody
from newburrow.decide.decisions import (
    AuthorChoice,
    Decisions,
    NewChoice,
    OldChoice,
    Rule,
    Selection,
    TermChoice,
)
from newburrow.dialects.schema import (
    Dialect,
    Macro,
    MediaMap,
    Preset,
    Resized,
    SiteMap,
    TermMap,
)
from newburrow.hosts.profile import Profile
from newburrow.model import Media, Record, Site
from newburrow.model.bundle import Bundle
from newburrow.store.fill import fill
from newburrow.store.journal.journal import Journal
from tests.helpers import SITE, FolderCase

HOST = """
name = "newhost"
format = "atom"
[kinds.post]
address = "/{year}/{month}/{slug}.html"
[kinds.page]
address = "/p/{slug}.html"
takes = ["document"]
[terms]
name = "label"
address = "/labels/{slug}/"
[authors]
address = "/by/{slug}/"
[markup]
elements = ["a", "b", "figcaption", "figure", "i", "img", "p", "pre", "source", "picture", "video"]
"""
DIALECT = Dialect(
    name="oldhost", format="rss", site=SiteMap(feeds=["/feed/"]),
    media=MediaMap(resized=[Resized("/files/sized/{width}/{+name}", "/files/{+name}")]),
    term=TermMap(archives={"tag": "/marks/{slug}/", "category": "/in/{+path}/"}),
    macros=[Macro("signup", "bracket", "a form"), Macro("toc", "brace")], presets=[Preset(slug="hello", kind="post")],
)  # fmt: skip


class Recorder:
    """A writer that keeps what it is given."""

    def __init__(self) -> None:
        self.bundles: list[Bundle] = []
        self.files: list[Media] = []

    def entry(self, bundle: Bundle) -> list[Problem]:
        self.bundles.append(bundle)
        return []

    def media(self, media: Media) -> list[Problem]:
        self.files.append(media)
        return []

    def finish(self) -> None:
        pass


class MoveCase(FolderCase):
    """A test that converts records."""

    host_toml = HOST
    dialect = DIALECT
    new_address = SITE

    def converted(self, *records: Record, choose: Selection = Selection(), authors: dict[str, AuthorChoice] | None = None,
                  terms: dict[str, TermChoice] | None = None, states: dict[str, str] | None = None, rules: list[Rule] | None = None, site_facts: dict[str, str] | None = None, held: Callable[[Journal], None] = lambda _journal: None, **decided: object) -> dict[str, Bundle]:  # fmt: skip
        """The bundles written, by the key of their entry."""
        site = Site(key="site", title="Orchard", address=SITE, **(site_facts or {}))
        decided |= {
            name: decided.pop(f"{name[:-1]}_rules")
            for name in ("authors", "terms")
            if f"{name[:-1]}_rules" in decided
        }
        store = fill(self.folder / "content.sqlite", [(site, *records)], dict)
        self.journal = Journal(self.folder / "journal.sqlite")
        self.addCleanup(store.__exit__)
        self.addCleanup(self.journal.__exit__)
        decisions = Decisions(
            OldChoice([]),
            decided.pop("new", None) or NewChoice("newhost", self.new_address),
            choose,
            states=states or {},
            rules=rules or [],
            **decided,
        )  # type: ignore[arg-type]
        new = Site(key="site", title="Orchard", address=self.new_address)
        self.context = Context(store, self.journal, tomlfile.load(self.host_toml, "host.toml", Profile), (self.dialect,), decisions,
                               authors or {}, terms or {}, site, new)  # fmt: skip
        held(self.journal)
        self.newest = order.plan(self.context, nobody)
        self.writer = Recorder()
        self.copied: list[str] = []
        result.write(
            self.context,
            conversion.converted(self.context, 1),
            self.writer,
            lambda old, new: self.copied.append(new.path),
            nobody,
        )
        return {bundle.entry.key: bundle for bundle in self.writer.bundles}

    def fate(self, key: str, object_: str = "entry") -> tuple[str, str]:
        """Fate and reason of an object."""
        return next(
            (row.fate.value, row.reason)
            for row in self.journal.ledger.all()
            if (row.object, row.key) == (object_, key)
        )

    def codes(self) -> list[str]:
        return [row[0] for row in self.journal.follow_ups.rows()]

    def said_of(self, code: str) -> list[str]:
        """What was said under a code."""
        return [row[5] for row in self.journal.follow_ups.rows() if row[0] == code]

    def answers(self) -> dict[str, tuple[int, str]]:
        """Path of an old address -> status, path of the new."""
        return {row.old.removeprefix(SITE.rstrip("/")): (row.status, row.new.removeprefix(self.new_address.rstrip("/")))
                for row in self.journal.urls.all()}  # fmt: skip
