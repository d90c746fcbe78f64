"""The answer to every old address: unchanged, redirected, or gone.

Each address has one answer. The more certain claim comes first: permalinks, then addresses by id and
earlier ones, then files, then archives. An old address that is another entry's new one belongs to that.
"""

from __future__ import annotations

from collections.abc import Iterator

from msgspec.structs import replace

from newburrow.assess.old_archives import pairs
from newburrow.assess.old_lists import Lists, pages
from newburrow.convert.context import Context
from newburrow.convert.plan import term_pages
from newburrow.core import url, url_pattern
from newburrow.core.problem import NOWHERE, Problem
from newburrow.model import COPY_OF, Author, Comment, Entry, Media, Term
from newburrow.model.media import UNREADABLE_FILE
from newburrow.store.journal.plan import PlaceFilter
from newburrow.store.journal.rows import (
    GONE,
    NOT_PUBLIC,
    PERMALINK,
    REDIRECTED,
    UNCHANGED,
    WAS_GONE,
    OldAddress,
)

HELD = "a page that the new host holds already"
_TOGETHER = 500  # answers that are set at a time


def plan(context: Context, lists: Lists) -> None:
    """Fill the journal with the answers; `lists` are those of entries on the old site."""
    _AnswerWriter(context, lists).fill()


class _AnswerWriter:
    def __init__(self, context: Context, lists: Lists) -> None:
        self.context, self.journal, self.lists = context, context.planning, lists
        # answers, each with the entry it is for
        self._waiting: list[tuple[OldAddress, str]] = []
        self.new = context.new.address
        self.has_chosen = bool(context.decisions.choose.only.names())
        self.sites = {url.site_key(site.address) for site in context.sites} - {""}

    def fill(self) -> None:
        self._held()
        self._permalinks()
        for key, _old, others, new, new_key, _file, public in self.journal.plan.claims():
            why = "other address of the entry" if public else NOT_PUBLIC
            for other in filter(None, others.split("\n")):
                self._answer(other, new, why, key, new_key=new_key)
        for media in self.context.store.all(Media):
            _name, new = self.journal.files.get(media.key)
            if UNREADABLE_FILE in media.extra:
                lack = "the file cannot be read"
            else:
                lack = "the file is not in the export"
            for old in filter(None, (media.address, *media.addresses)):
                self._answer(
                    old,
                    new,
                    "file" if old == media.address else "other address of the file",
                    "",
                    lack,
                )
        self._site()
        self._feeds_of_entries()
        self._archives()
        self._dates()
        self._write()
        self._index_files()
        self._comments()
        for old in self.context.store.gone_addresses():
            self._set(OldAddress.of(old, "", GONE, WAS_GONE), "")
        for place in self.journal.plan.matching(PlaceFilter.LEFT_OUT):
            for old in filter(None, (place.old, *place.others.split("\n"))):
                self._left_out(old, place.key, "its entry is left out", place.aside)
        self._write()

    def _held(self) -> None:
        """What the new host holds on the same site keeps its address, whatever was there on the old one."""
        for address in self.journal.existing.addresses():
            if url.site_key(address) in self.sites and not self.journal.plan.key_at(
                url.key(address)
            ):
                self._waiting.append((OldAddress.of(address, address, UNCHANGED, HELD), ""))
        self._write()

    def _left_out(self, old: str, key: str, why: str, aside: bool) -> None:
        """Answer for an address of which nothing moves, as decided; one of a copy leads to the original."""
        if new := self._of_original(key):
            self._set(OldAddress.of(old, new, REDIRECTED, "a copy of the page"), key)
            return
        decided = self.context.decisions.redirects
        policy = decided.not_chosen if aside else decided.left_out
        if policy == "gone":
            self._set(OldAddress.of(old, "", GONE, why), key)
        elif policy == "stays":
            self._set(
                OldAddress.of(old, old, UNCHANGED, f"{why}; the old server keeps it"), key
            )
        else:
            parts = url.split(old)
            if parts:
                path = parts._replace(scheme="", netloc="").geturl()
            else:
                path = ""
            new = policy.rstrip("/") + path
            self._set(OldAddress.of(old, new, REDIRECTED, f"{why}; another site has it"), key)

    def _of_original(self, key: str) -> str:
        """Where the page moved that an entry names as its original; empty for one that names none."""
        entry = self.context.store.get(Entry, key) if key else None
        for original in entry.extra.get(COPY_OF, ()) if entry else ():
            answer = self.journal.urls.get(url.key(original))
            if answer and answer.status != GONE:
                return answer.new
        return ""

    def _permalinks(self) -> None:
        for key, old, _others, new, new_key, file, public in self.journal.plan.claims():
            if old and key == self.context.old.front_page and self._is_root(old):
                continue  # answered for as the front page
            if old:
                why = PERMALINK if public else NOT_PUBLIC
                self._answer(old, new, why, key, new_key=new_key)
            if file:
                self.journal.files.add_unaddressed(file, new)

    def _is_root(self, old: str) -> bool:
        return any(
            url.key(old) == url.key(url.front_page(site.address)) for site in self.context.sites
        )

    def _front(self) -> str:
        """What a visitor of the old front page should see: that of the new site, or the page that it was."""
        place = self.journal.plan.get(self.context.old.front_page)
        if place and not self.context.host.site.front_page:
            return place.new
        return url.resolve(self.new, "/")

    def _site(self) -> None:
        for site in self.context.sites:
            for front in self._front_pages(site.address):
                new = "" if self.has_chosen else self._front()
                self._list(
                    front, new, "front page", self.lists.all, "most of the site does not move"
                )
        for site, dialect in pairs(self.context.sites, self.context.dialects):
            for feed in dialect.site.feeds:
                old = url.resolve(site.address, feed)
                new = "" if self.has_chosen else self._feed()
                self._answer(old, new, "feed", "", "the new host has no feed")

    def _front_pages(self, site: str) -> Iterator[str]:
        """The first page of a site, and that of its host, unless the site is a folder there with all of its pages."""
        if not site:
            return
        self._write()
        front, root = url.front_page(site), url.resolve(site, "/")
        yield front
        if front != root and self.journal.urls.has_permalink_outside(url.key(front)):
            yield root

    def _feed(self) -> str:
        if self.context.host.site.feed:
            return url.resolve(self.new, self.context.host.site.feed)
        return ""

    def _feeds_of_entries(self) -> None:
        new = self._feed()
        for place in self.journal.plan.matching(PlaceFilter.WITH_FEEDS):
            for feed in filter(None, place.feeds.split("\n")):
                self._answer(
                    feed, new, "feed of an entry's comments", "", "the new host has no feed"
                )

    def _archives(self) -> None:
        for author in self.context.store.all(Author):
            new_author = self.context.authors.get(author.key)
            if new_author:
                new = self.context.new_pages.archives.of_author(new_author.name)
            else:
                new = ""
            if new_author:
                gone = "the new host has no author archives"
            else:
                gone = "nothing of theirs moves"
            for old in self.context.old_archives.of_author(author):
                self._list(old, new, "author archive", self.lists.authors[author.key], gone)
                self._feed_of_list(old)
        listed = self.lists.of_terms(self.context.store.all(Term))
        for term in self.context.store.all(Term):
            filed = self.context.terms.get(term.key)
            if filed:
                new = self.context.new_pages.archives.of_term(filed.name)
            else:
                new = ""
            if term.key in self.context.pages_of_terms:
                new = term_pages.address_of(term, self.context)
            if filed:
                gone = "the new host has no such archives"
            else:
                gone = "nothing that moves has this term"
            for old in self.context.old_archives.of_term(term):
                self._list(old, new, f"{term.vocabulary} archive", listed[term.key], gone)
                self._feed_of_list(old)

    def _dates(self) -> None:
        """Lists of what was published in a year, month or on a day; the new host's may be of a longer time."""
        for site, dialect in pairs(self.context.sites, self.context.dialects):
            for pattern in dialect.addresses.dates:
                for values, count, moves in self.lists.dates(url_pattern.variables(pattern)):
                    if moves:
                        new = self.context.new_pages.archives.of_date(values)
                    else:
                        new = ""
                    if moves:
                        gone = "the new host has no such archives"
                    else:
                        gone = "nothing published then moves"
                    old = url.resolve(site.address, url_pattern.expand(pattern, values))
                    self._list(old, new, "date archive", count, gone)

    def _list(self, old: str, new: str, why: str, count: int, gone: str = "") -> None:
        """Answer for a list of so many entries: for its first page and the further ones."""
        self._answer(old, new, why, "", gone)
        for dialect in self.context.dialects:
            lists = dialect.addresses
            for page in pages(count, lists):
                further = url_pattern.expand(lists.further, {"list": old, "page": str(page)})
                self._answer(further, new, f"{why}, a further page", "", gone)

    def _feed_of_list(self, old: str) -> None:
        for dialect in self.context.dialects:
            if dialect.addresses.feed:
                feed = url_pattern.expand(dialect.addresses.feed, {"list": old})
                self._answer(
                    feed, self._feed(), "feed of a list", "", "the new host has no feed"
                )

    def _index_files(self) -> None:
        """Where a folder's address shows a file in it, both were addresses of the same."""
        for name in url.INDEX_FILES:
            for row in self.journal.urls.ending_in(f"/{name}"):
                folder = row.old.rpartition("/")[0] + "/"
                if not self._is_known(folder):
                    owner = self.journal.plan.key_at(row.new_key)
                    self._answer(folder, row.new, row.why, owner, row.why, row.new_key)
            self._write()
        names = [name for dialect in self.context.dialects for name in dialect.addresses.index]
        for row in self.journal.urls.ending_in("/") if names else ():
            for name in names:
                address = f"{row.old.rstrip('/')}/{name}"
                if not self._is_known(address) and not self._has_there(row.old, address):
                    self._answer(address, row.new, row.why, "", row.why)

    def _is_known(self, old: str) -> bool:
        """Whether there is an answer to an old address already."""
        return self.journal.urls.get(url.key(old)) is not None

    def _has_there(self, old: str, new: str) -> bool:
        """Whether the page of an old address has this new one."""
        place = self.journal.plan.get(self.journal.plan.key_at(url.key(new)))
        return place is not None and place.old == old

    def _comments(self) -> None:
        """No server sees a fragment: what cannot be answered for is reported once."""
        theirs = {dialect.addresses.comment for dialect in self.context.dialects} - {""}
        ours = self.context.host.comments.fragment
        if not theirs or theirs == {ours} or not self.context.store.count(Comment):
            return
        old = ", ".join(f"#{fragment}" for fragment in sorted(theirs))
        if ours:
            now = f"the new host names them #{ours}"
        else:
            now = "the host's profile does not say how it names them"
        self.journal.follow_ups.add(Problem.at(NOWHERE, "comment-links", old=old, now=now))

    def _answer(
        self, old: str, new: str, why: str, key: str = "", gone: str = "", new_key: str = ""
    ) -> None:
        """Set one answer; `gone` is why there is none where nothing new stands there."""
        if new:
            self._set(OldAddress.of(old, new, REDIRECTED, why, new_key=new_key), key)
        else:
            self._left_out(old, key, gone, self.has_chosen)

    def _set(self, row: OldAddress, key: str) -> None:
        """Set an answer, unless the old address is another entry's new one or has an answer already."""
        if not row.key:
            return
        if row.new_key == row.key or self.context.new_pages.archives.is_list(row.old):
            row = OldAddress.of(row.old, row.old, UNCHANGED, row.why, row.key, row.key)
        self._waiting.append((row, key))
        if len(self._waiting) >= _TOGETHER:
            self._write()

    def _write(self) -> None:
        """Set the answers that wait, in their order; say of those that could not be set why."""
        waiting, self._waiting = self._waiting, []
        for row, key in waiting if not self.journal.urls.add_free(waiting) else ():
            if row.status == GONE:
                new = ""
            else:
                new = row.new
            owner, other = self.journal.plan.key_at(row.key), self.journal.urls.get(row.key)
            if owner and owner != key:
                message = (
                    f"{row.old} is the new address of another entry, which is now shown there."
                )
                self._conflict(row.old, key, message)
            elif other and other.new_key != row.new_key:
                message = f"{row.old} had two meanings; it goes to {other.new or 'nothing'}, not to {new or 'nothing'}."
                self._conflict(row.old, key, message)

    def _conflict(self, old: str, key: str, message: str) -> None:
        self.journal.follow_ups.add(
            replace(
                Problem.at(
                    NOWHERE,
                    "address-conflict",
                    message=message,
                    advice=f"Decide what readers of {old} should find.",
                ),
                object="entry" if key else "",
                key=key,
            )
        )
