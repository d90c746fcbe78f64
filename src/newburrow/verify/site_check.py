"""What is beside the entries of a result: facts of the site, menus, files, and what nobody put there."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import zip_longest
from pathlib import Path

from newburrow.convert.body.comment_place import DATA_FILE
from newburrow.core import url
from newburrow.hosts.profile import Profile
from newburrow.model import Author, Entry, Media, MenuItem, Site, Term
from newburrow.store.content_store import Store
from newburrow.store.journal.kept_journal import KeptJournal
from newburrow.store.met_records import MetRecords
from newburrow.verify.body_facts import words_of
from newburrow.verify.difference import Difference
from newburrow.verify.entry_facts import Facts

_FILE_FACTS = ("title", "alternative_text", "caption")
_SITE_FACTS = ("title", "address", "language", "description")


class SiteCheck:
    """Checks what is beside the entries."""

    def __init__(
        self,
        journal: KeptJournal,
        result: tuple[Store, MetRecords],
        host: Profile,
        folder: Path,
    ) -> None:
        """`folder` is what the new host imports."""
        self._journal, self._host, self._folder = journal, host, folder
        self._store, self._records = result

    def files(self) -> Iterator[Difference]:
        """Every file that was handed over: whether it is there, byte for byte. To be called before entries."""
        for _key, media in self._journal.handed.files():
            found = self._records.take_file(media)
            self._records.add_page(media.address)
            if found is None or (media.digest and not found.digest):
                yield _of_file(media, "missing", "a file", "")
                continue
            if media.digest and found.digest != media.digest:
                yield _of_file(media, "bytes", _digest(media), _digest(found))
            for fact in _FILE_FACTS:
                before, after = _plain(getattr(media, fact)), _plain(getattr(found, fact))
                if before != after:
                    yield _of_file(media, fact, before, after)

    def site(self) -> Iterator[Difference]:
        """The facts of the site, and its menus where the import has a place for them."""
        handed = self._journal.handed.site()
        site, menus = handed.site, list(handed.menus)
        found = self._store.site()
        for fact in _SITE_FACTS:
            before, after = getattr(site, fact), getattr(found, fact)
            if fact == "address":
                before, after = url.key(before), url.key(after)
            if before != after:
                yield Difference("site", site.title, site.address, fact, before, after)
        if menus:
            yield from self._menus(menus, site)

    def terms(self) -> Iterator[Difference]:
        """Terms that are missing or added, and what is said of each."""
        handed, rules = self._journal.handed.site().terms, self._host.terms
        names = {term.key: term.name for term in handed}
        expected: dict[tuple[str, str], list[Facts]] = {}
        for term in handed:  # several can have become one
            expected.setdefault((term.vocabulary, term.name), []).append(_of_term(term, names))
        no_place = {"parent": not rules.nested, "description": not rules.descriptions}
        names = {term.key: term.name for term in self._store.all(Term)}
        found = {(term.vocabulary, term.name) for term in self._store.all(Term)}
        for vocabulary, name in expected:
            if (vocabulary, name) not in found:
                yield Difference("term", name, "", "missing", f"a {vocabulary}", "")
        for term in self._store.all(Term):
            before = expected.get((term.vocabulary, term.name), [])
            if not before:
                yield Difference("term", term.name, "", "added", "", f"a {term.vocabulary}")
                continue
            after = _of_term(term, names)
            no_place["slug"] = (
                term.slug == term.name
            )  # the format says terms by their names alone
            yield from _unlike("term", term.name, before, after, no_place)

    def authors(self) -> Iterator[Difference]:
        """What is said of each author of the result."""
        rules = self._host.authors
        no_place = {"about": not rules.profiles, "login": not rules.logins}
        expected = {
            author.name: [_of_author(author)] for author in self._journal.handed.site().authors
        }
        for author in self._store.all(Author):
            before = expected.get(author.name)
            if before is not None:
                yield from _unlike("author", author.name, before, _of_author(author), no_place)

    def _menus(self, menus: list[MenuItem], site: Site) -> Iterator[Difference]:
        found = self._store.all(MenuItem)
        there = sorted(map(self._line, found), key=_menu)
        lines = zip_longest(sorted(map(self._line, menus), key=_menu), there, fillvalue="")
        for number, (before, after) in enumerate(lines, 1):
            if before != after:
                yield Difference(
                    "menu-item",
                    f"line {number} of the menus",
                    site.address,
                    "line",
                    before,
                    after,
                )

    def _line(self, item: MenuItem) -> str:
        """A line of a menu as it is compared: menu, label, target."""
        entry, target = self._store.get(Entry, item.target), item.target
        if entry:
            target = entry.permalink
        return f"{item.menu}: {_plain(item.label)} → {url.key(target) or target}"

    def data_file(self) -> Iterator[Difference]:
        """The comments that the new host has no place for, line by line."""
        lines = _lines(self._folder / DATA_FILE)
        pairs = zip_longest(self._journal.data_lines.all(), lines, fillvalue="")
        for number, (before, after) in enumerate(pairs, 1):
            if before != after:
                yield Difference(
                    "comment",
                    f"line {number} of {DATA_FILE}",
                    "",
                    "line",
                    before[:80],
                    after[:80],
                )

    def left(self) -> Iterator[Difference]:
        """Entries and files in the result that nobody handed over."""
        for entry in self._records.left():
            if entry.permalink or not self._is_made(entry):
                yield Difference(
                    "entry", entry.title, entry.permalink, "added", "", f"a {entry.kind}"
                )
        for media in self._records.files_left():
            if media.path and not media.path.endswith(DATA_FILE):
                yield _of_file(media, "added", "", "a file")

    def _is_made(self, entry: Entry) -> bool:
        """Whether a module of a package stands around a page of its title that has others under it."""
        return entry.kind == "module" and self._records.has_title(entry.title)


def _of_term(term: Term, names: dict[str, str]) -> Facts:
    return {
        "parent": names.get(term.parent, ""),
        "slug": term.slug,
        "description": " ".join(words_of(term.description)),
    }


def _of_author(author: Author) -> Facts:
    return {
        "login": author.login,
        "email": author.email,
        "address": author.address,
        "about": " ".join(words_of(author.about)),
    }


def _unlike(
    object_: str, title: str, before: Sequence[Facts], after: Facts, no_place: dict[str, bool]
) -> Iterator[Difference]:
    """What differs from all that became this one, but for what the new host has no place for.

    A follow-up says the latter of each. The name stands in for a fact that a format has to say and nobody knows.
    """
    for fact, value in after.items():
        expected = [facts.get(fact, "") for facts in before]
        is_of_format = no_place.get(fact, False) and value in ("", title)
        is_name = value == title and "" in expected
        if value not in expected and not is_of_format and not is_name:
            yield Difference(object_, title, "", fact, " or ".join(expected), value)


def _menu(line: str) -> str:
    """The name of a menu: the order of lines counts within one, that of menus does not."""
    return line.partition(": ")[0]


def _plain(text: str) -> str:
    """A text of one line as it is compared."""
    return " ".join(text.split())


def _lines(path: Path) -> Iterator[str]:
    """The lines of a text file, if it is there."""
    if path.is_file():
        with path.open(encoding="utf-8", errors="replace", newline="\n") as stream:
            for line in stream:
                yield line.removesuffix("\n")


def _of_file(media: Media, fact: str, before: str, after: str) -> Difference:
    return Difference("media", media.title or media.path, media.address, fact, before, after)


def _digest(media: Media) -> str:
    return f"SHA-256 {media.digest[:16]}…"
