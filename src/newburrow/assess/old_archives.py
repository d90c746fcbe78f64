"""Archives of the old site: where the entries of one author or one term were listed."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from newburrow.assess.old_lists import DATES
from newburrow.core import url, url_pattern
from newburrow.dialects.schema import Dialect
from newburrow.model.author import Author
from newburrow.model.keys import bare, scope_of
from newburrow.model.lookup import RecordLookup
from newburrow.model.site import Site
from newburrow.model.term import Term


def pairs(sites: Sequence[Site], dialects: Sequence[Dialect]) -> list[tuple[Site, Dialect]]:
    """Each site that has an address, with each dialect that describes it.

    A site that says its dialect is paired with that one only. One that does not, or the only site of the
    move, is paired with all of them.
    """
    return [
        (site, dialect)
        for site in sites
        for dialect in dialects
        if site.address and (len(sites) == 1 or site.dialect in ("", dialect.name))
    ]


class OldArchives:
    """Where archives are on the old sites, by what their dialects say; none where nothing is known."""

    def __init__(self, store: RecordLookup, dialects: Sequence[Dialect]) -> None:
        self.store = store
        self.pairs = pairs(list(store.all(Site)), dialects)

    def of_author(self, author: Author) -> Iterator[str]:
        """The addresses of the archives of an author's entries."""
        from slugify import slugify  # heavy: imported where it is used

        facts = {"login": author.login, "slug": slugify(author.name)}
        for site, dialect in self._of(author.key):
            names = url_pattern.variables(dialect.author.archive)
            if names and all(facts.get(name) for name in names):
                yield url.resolve(
                    site.address, url_pattern.expand(dialect.author.archive, facts)
                )

    def of_term(self, term: Term) -> Iterator[str]:
        """The addresses of the archives of a term's entries."""
        for site, dialect in self._of(term.key):
            pattern = dialect.term.archives.get(term.vocabulary, "")
            if pattern:
                values = {"slug": term.slug, "id": bare(term.key), "path": self._path(term)}
                yield url.resolve(site.address, url_pattern.expand(pattern, values))

    def of_date(self, key: str, day: tuple[str, str, str]) -> Iterator[str]:
        """The addresses of the lists by date that hold the entry with this key."""
        for site, dialect in self._of(key):
            for pattern in dialect.addresses.dates:
                values = dict(zip(DATES, day, strict=True))
                yield url.resolve(site.address, url_pattern.expand(pattern, values))

    def _of(self, key: str) -> Iterator[tuple[Site, Dialect]]:
        """The sites that an author or term can be of. One of the first export can have been united with others."""
        return (
            (site, dialect)
            for site, dialect in self.pairs
            if scope_of(key) in ("", scope_of(site.key))
        )

    def _path(self, term: Term) -> str:
        """The slugs from the topmost term down to this one; a circle of parents is cut."""
        names: list[str] = []
        seen: set[str] = set()
        at: Term | None = term
        while at and at.key not in seen:
            seen.add(at.key)
            names.append(at.slug)
            if at.parent:
                at = self.store.get(Term, at.parent)
            else:
                at = None
        return "/".join(reversed(names))
