"""What the words mean by which an export says that an entry has an author, a term, a parent, ..."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any, Protocol

from msgspec.structs import replace

from newburrow.core.problem import Problem
from newburrow.model import Author, Comment, Entry, Term
from newburrow.model.keys import bare, belongs, marked
from newburrow.model.reading import Relation


class EntryLookup(Protocol):
    """Where entries and files are looked up."""

    def get(self, kind: type[Entry], key: str) -> Entry | None:
        """An entry by its key."""
        ...

    def with_slug(self, slug: str) -> Entry | None:
        """An entry by its slug."""
        ...

    def key_at(self, address: str) -> str:
        """The key of the entry at an old address; empty where there is none."""
        ...


class AuthorLookup(Protocol):
    """Where authors are looked up."""

    def get(self, kind: type[Author], key: str) -> Author | None:
        """An author by its key."""
        ...


class ReferenceNames:
    """The authors and terms of a store by all words that can mean them. They are few, and held in memory."""

    def __init__(self, scope: str, authors: Iterable[Author], terms: Iterable[Term]) -> None:
        """Of the authors and terms, those of one scope (`newburrow.model.keys`)."""
        self.scope = scope
        self.new: list[Author | Term] = []  # named by entries, and declared nowhere
        self._authors: dict[str, str] = {}
        self._terms: dict[tuple[str, str], str] = {}  # vocabulary (empty: any) and word -> key
        author_list = [author for author in authors if belongs(author.key, scope)]
        term_list = [term for term in terms if belongs(term.key, scope)]
        # A key means itself before any other word does, then a login before a name.
        for of in ("key", "login", "email", "name"):
            for author in author_list:
                self._authors.setdefault(bare(getattr(author, of)), author.key)
        for term in term_list:
            self._know(term, bare(term.key).partition("/")[2])
        for of in ("slug", "name"):
            for term in term_list:
                self._know(term, getattr(term, of))

    def _know(self, term: Term, word: str) -> None:
        for vocabulary in (term.vocabulary, ""):
            self._terms.setdefault((vocabulary, word), term.key)

    def related(self, entry: Entry, relations: list[Relation], known: EntryLookup) -> Entry:
        """The entry with the authors, terms, parents and fields that relations give it.

        What it has already stays. A word that means no author or term becomes one of that name.
        """
        authors, terms, fields = list(entry.authors), list(entry.terms), dict(entry.fields)
        single: dict[str, Any] = {}
        unknown = ""  # the word for a parent that is not there
        for relation in relations:
            if relation.of == "author":
                authors.append(self.author(relation))
            elif relation.of == "term":
                terms.append(self._term(relation))
            elif relation.of == "field":
                fields[relation.vocabulary] = "\n".join(
                    filter(None, (fields.get(relation.vocabulary), relation.word))
                )
            elif relation.of == "parent":
                if parent := self._parent(relation.word, known):
                    single["parent"] = parent
                else:
                    unknown = relation.word
            elif relation.of == "above":
                above = known.key_at(relation.word)
                if above and above != entry.key and belongs(above, self.scope):
                    single.setdefault("parent", above)
            else:
                single[relation.of] = marked(self.scope, relation.word)
        if unknown:
            single.setdefault("parent", unknown)
        return replace(
            entry,
            authors=tuple(dict.fromkeys(authors)),
            terms=tuple(dict.fromkeys(terms)),
            fields=fields,
            **single,
        )

    def _parent(self, word: str, known: EntryLookup) -> str:
        """The key of the entry that a word means: its key, its slug or its address; empty where there is none."""
        if "://" in word:
            return known.key_at(word)
        parent = known.get(Entry, marked(self.scope, word)) or known.with_slug(word)
        if parent and belongs(parent.key, self.scope):
            return parent.key
        return ""

    def written(self, comment: Comment, said: Relation, known: AuthorLookup) -> Comment:
        """The comment with what is known of the author that a relation names; what it says itself stays."""
        key = self._authors.get(said.word)
        if key:
            author = known.get(Author, key)
        else:
            author = None
        if author is None:
            return replace(comment, author_name=comment.author_name or said.word)
        return replace(
            comment,
            author_name=comment.author_name or author.name,
            email=comment.email or author.email,
            address=comment.address or author.address,
        )

    def author(self, said: Relation) -> str:
        """The key of the author that a relation names; one whom nothing declares is added to `new`."""
        if said.word not in self._authors:
            author = Author(
                key=marked(self.scope, said.word), name=said.word, source=said.source
            )
            self._authors[said.word] = author.key
            self.new.append(author)
        return self._authors[said.word]

    def _term(self, said: Relation) -> str:
        key = self._terms.get((said.vocabulary, said.word))
        if key is None:
            vocabulary = said.vocabulary or "tag"
            key = marked(self.scope, f"{vocabulary}/{said.word}")
            if vocabulary == "section":
                above, _slash, name = said.word.rpartition("/")
            else:
                above, _slash, name = ("", "", said.word)
            if above:
                parent = self._term(replace(said, word=above))
            else:
                parent = ""
            term = Term(
                key=key,
                vocabulary=vocabulary,
                slug=name,
                name=name,
                parent=parent,
                source=said.source,
            )
            self._know(term, said.word)
            self.new.append(term)
        return key

    def no_entry(self, relations: list[Relation]) -> Problem:
        """The problem of relations whose entry is not in the export."""
        first = relations[0]
        kinds = ", ".join(sorted({relation.of.replace("_", " ") for relation in relations}))
        return Problem.at(
            first.source,
            "relation-without-entry",
            number=len(relations),
            facts=kinds,
            entry=first.entry,
        )
