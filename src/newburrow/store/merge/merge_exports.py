"""Merging what two exports have in common of a filled store: authors, terms, files, entries, comments."""

from __future__ import annotations

from collections import Counter
from typing import TypeVar

from msgspec.structs import replace

from newburrow.core import url
from newburrow.core.problem import NOWHERE, Problem
from newburrow.model import Author, Comment, Entry, Media, Record, Site, Term
from newburrow.model.keys import scope_of
from newburrow.store.merge.likeness import (
    NEAR,
    comment_word,
    folded_name,
    same_author,
    same_text,
    term_words,
    title_word,
    words_of,
)
from newburrow.store.merge.merged_record import MergedRecord, united
from newburrow.store.new_store import NewStore

R = TypeVar("R", bound=Record)
_MANY = {
    "entry": "entries",
    "author": "authors",
    "term": "terms",
    "comment": "comments",
    "media": "files",
}


def unite(store: NewStore) -> None:
    """Merge what several exports have in common, in a store that was just filled.

    Records with one key are one. Across exports, an entry is the same by id, by address, or by title,
    date and likeness of its text; authors, terms and files likewise. The fuller record is kept and gets
    what it lacked; what differs is a follow-up. References to a merged record are changed to the one
    that is kept.
    """
    work = _ExportMerger(store)
    work.doubles()
    if store.exports > 1:
        work.sites()
        work.authors()
        work.terms()
        work.files()
        work.entries()
        work.parents()
    work.say()


class _ExportMerger:
    def __init__(self, store: NewStore) -> None:
        self.store = store
        # key of an author or term -> that of the one it is; these are few
        self.same: dict[str, str] = {}
        # file, kind of object, fact -> number
        self.lacked: Counter[tuple[str, str, str]] = Counter()
        self.example: dict[tuple[str, str, str], str] = {}
        self.folded = False

    # -- one key, read twice ---------------------------------------------------------------------

    def doubles(self) -> None:
        """An object that two parts have is one object, unless the two clearly differ."""
        for double in self.store.doubles():
            if double.differs:
                first = self.store.get(type(double.record), double.record.key)
            else:
                first = None
            if first is not None and _fit(first, double.record):
                found = united(first, double.record)
                self.store.change(found.record)
                self._count(first, double.record, found)
                self.store.explain(
                    double,
                    self._reason(first, double.record, "by its id", found),
                    bool(found.differ),
                )
            if isinstance(double.record, Entry) and self.store.exports > 1:
                self._comments(double.record.key)

    # -- two keys --------------------------------------------------------------------------------

    def sites(self) -> None:
        """Two exports of one site."""
        known: dict[str, Site] = {}
        for site in list(self.store.all(Site)):
            key = url.site_key(site.address)
            if key in known:
                known[key] = self._fold(known[key], site, "by its address")
            elif key:
                known[key] = site

    def authors(self) -> None:
        """The same person in two exports."""
        people = {author.key: author for author in self.store.all(Author)}
        known: dict[str, str] = {}  # word -> key
        for author in list(people.values()):
            statement = (
                ("email", author.email),
                ("login", author.login),
                ("name", folded_name(author.name)),
            )
            words = [f"{name} {word.casefold()}" for name, word in statement if word]
            hits = [people[known[word]] for word in words if word in known]
            hit = next(
                (hit for hit in hits if self._apart(hit, author) and same_author(hit, author)),
                None,
            )
            if hit:
                self.same[author.key] = hit.key
                people[hit.key] = self._fold(hit, author, "by e-mail address, login or name")
            for word in words:
                known.setdefault(word, hit.key if hit else author.key)

    def terms(self) -> None:
        """The same term in two exports: of one vocabulary and name, under the same parent."""
        terms = {term.key: term for term in self.store.all(Term)}
        known: dict[str, str] = {}
        done: set[str] = set()
        for key in list(terms):
            above: list[str] = []  # from this up to the first that is done
            while key in terms and key not in done:
                done.add(key)
                above.append(key)
                key = terms[key].parent
            for parent in reversed(above):
                self._term(parent, terms, known)

    def _term(self, key: str, terms: dict[str, Term], known: dict[str, str]) -> None:
        term = replace(terms[key], parent=self.same.get(terms[key].parent, terms[key].parent))
        words = list(term_words(term, term.parent))
        hit = next((known[word] for word in words if word in known), "") or known.get(
            f"any {folded_name(term.name)}", ""
        )
        # the tags of one host may be the categories of another
        words.append(f"any {folded_name(term.name)}")
        if hit and self._apart(terms[hit], term):
            self.same[key] = hit
            terms[hit] = self._fold(terms[hit], term, "by its name")
        elif term != terms[key]:
            terms[key] = term
            self.store.change(term)
        for word in words:
            known.setdefault(word, self.same.get(key, key))

    def files(self) -> None:
        """The same address in two exports is one file."""
        for export, media in self.store.by_export(Media):
            words = [
                f"file {key}"
                for address in (media.address, *media.addresses)
                if (key := url.key(address))
            ]
            hit = next((key for word in words for key in self.store.known(word, export)), "")
            if hit:
                first = self.store.get(Media, hit)
            else:
                first = None
            if first:
                self._fold(first, media, "by its address")
                self.store.learn(f"same {media.key}", hit)
            for word in words:
                self.store.learn(word, hit or media.key, export)

    def entries(self) -> None:
        """The same entry in two exports."""
        for export, entry in self.store.by_export(Entry):
            own = self._translated(entry)
            hit, why = self._match(own, export)
            if hit:
                self._fold(hit, own, why)
                self.folded = True
                self.store.learn(f"same {own.key}", hit.key)
                self.store.learn(f"taken {hit.key} {export}", hit.key)
                for comment in self.store.comments_of(own):
                    self.store.change(replace(comment, entry=hit.key))
                self._comments(hit.key)
            elif own != entry:
                self.store.change(own)
            for word in (*words_of(own), title_word(own)):
                if word:
                    self.store.learn(word, hit.key if hit else own.key, export)

    def _match(self, entry: Entry, export: int) -> tuple[Entry | None, str]:
        for word in words_of(entry):
            for key in self.store.known(word, export):
                return self.store.get(Entry, key), "by its address"
        title = title_word(entry)
        for key in self.store.known(title, export) if title and export else ():
            other = self.store.get(Entry, key)
            if (
                other
                and same_text(other, entry)
                and not self.store.known(f"taken {key} {export}")
            ):
                return other, "by title, date and text"
        return None, ""

    def parents(self) -> None:
        """What names an entry that is another now."""
        for entry in self.store.all(Entry) if self.folded else ():
            if entry.parent and (new := self._same(entry.parent)) != entry.parent:
                self.store.change(replace(entry, parent=new))
        for media in self.store.all(Media) if self.folded else ():
            if media.entry and (new := self._same(media.entry)) != media.entry:
                self.store.change(replace(media, entry=new))

    def _comments(self, key: str) -> None:
        """Two comments of two exports with the same words by the same name are one."""
        first_seen: dict[tuple[str, str], tuple[int, Comment]] = {}
        same: dict[str, str] = {}
        for export, comment in self.store.comments_by_export(key):
            if comment.parent in same:
                comment = replace(comment, parent=same[comment.parent])
                self.store.change(comment)
            word = comment_word(comment)
            other = first_seen.get(word)
            if other and other[0] != export and any(word) and _near(other[1], comment):
                same[comment.key] = other[1].key
                first_seen[word] = (other[0], self._fold(other[1], comment, "by name and text"))
            else:
                first_seen.setdefault(word, (export, comment))

    # -- shared ----------------------------------------------------------------------------------

    def _apart(self, record: Record, other: Record) -> bool:
        return scope_of(record.key) != scope_of(other.key)

    def _same(self, key: str) -> str:
        return next(iter(self.store.known(f"same {key}")), key)

    def _translated(self, entry: Entry) -> Entry:
        return replace(
            entry,
            authors=tuple(dict.fromkeys(self.same.get(key, key) for key in entry.authors)),
            terms=tuple(dict.fromkeys(self.same.get(key, key) for key in entry.terms)),
            enclosures=tuple(dict.fromkeys(map(self._same, entry.enclosures))),
            lead_picture=self._same(entry.lead_picture) if entry.lead_picture else "",
        )

    def _fold(self, first: R, second: R, why: str) -> R:
        """Put the second into the first; gives the one they are now."""
        found = united(first, second)
        if found.record != first:
            self.store.change(found.record)
        self._count(first, second, found)
        self.store.fold(second, self._reason(first, second, why, found), bool(found.differ))
        record: R = found.record
        return record

    def _reason(self, first: Record, second: Record, why: str, found: MergedRecord) -> str:
        reason = f"the same as {first.key} in {first.source.file or 'another export'} ({why})"
        if found.second_lacked:
            reason += f"; it lacked {', '.join(found.second_lacked)}"
        if found.first_lacked:
            reason += f"; it gave {', '.join(found.first_lacked)}"
        if found.differ:
            reason += f"; the two differ in {', '.join(found.differ)}"
        return reason

    def _count(self, first: Record, second: Record, found: MergedRecord) -> None:
        if first.source.file == second.source.file:
            return  # a record that is in a document twice; the reason of the merge says so
        kind = type(first).__name__.lower()
        for record, facts in ((first, found.first_lacked), (second, found.second_lacked)):
            for fact in facts:
                mark = (record.source.file, kind, fact)
                self.lacked[mark] += 1
                self.example.setdefault(
                    mark,
                    getattr(record, "title", "") or getattr(record, "name", "") or record.key,
                )

    def say(self) -> None:
        """What each source lacked that another had."""
        for (file, kind, fact), number in sorted(self.lacked.items()):
            example = self.example[file, kind, fact]
            if number == 1:
                of = f"1 {kind}"
            else:
                of = f"{number:,} {_MANY.get(kind, kind)}"
            if number > 1:
                which = "such as"
            else:
                which = "namely"
            self.store.add(
                Problem.at(
                    NOWHERE,
                    "lacked",
                    file=file or "An export",
                    fact=fact,
                    objects=of,
                    such=which,
                    example=example,
                )
            )


def _fit(first: Record, second: Record) -> bool:
    """Whether two records of one key can be one object."""
    if isinstance(first, Entry) and isinstance(second, Entry):
        shared = set(words_of(first)) & set(words_of(second))
        return bool(shared) or (
            title_word(first) == title_word(second) and same_text(first, second)
        )
    if isinstance(first, Comment) and isinstance(second, Comment):
        return comment_word(first) == comment_word(second)
    return not united(first, second).differ


def _near(comment: Comment, other: Comment) -> bool:
    return (
        not (comment.published and other.published)
        or abs(comment.published - other.published) <= NEAR
    )
