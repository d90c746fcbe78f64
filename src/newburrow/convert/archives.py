"""Archives: where the entries of one author or one term were listed, and where they are now."""

from __future__ import annotations

from collections.abc import Sequence

from slugify import slugify

from newburrow import address
from newburrow.convert import slugs
from newburrow.formats.dialect import Dialect
from newburrow.hosts.profile import Profile
from newburrow.model import Author, Term
from newburrow.store import Store


class OldArchives:
    """Where archives stand on the old site, by what its dialects say; an empty address where nothing is known."""

    def __init__(self, store: Store, dialects: Sequence[Dialect]) -> None:
        self.store, self.dialects = store, dialects
        self.site = store.site().address

    def of_author(self, author: Author) -> str:
        """The archive of an author's entries."""
        facts = {"login": author.login, "slug": slugify(author.name)}
        for dialect in self.dialects if self.site else ():
            names = address.variables(dialect.author.archive)
            if names and all(facts.get(name) for name in names):
                return address.resolve(self.site, address.expand(dialect.author.archive, facts))
        return ""

    def of_term(self, term: Term) -> str:
        """The archive of a term's entries."""
        for dialect in self.dialects if self.site else ():
            pattern = dialect.term.archives.get(term.vocabulary, "")
            if pattern:
                values = {"slug": term.slug, "id": term.key, "path": self._path(term)}
                return address.resolve(self.site, address.expand(pattern, values))
        return ""

    def _path(self, term: Term) -> str:
        """The slugs from the topmost term down to this one; a circle of parents is cut."""
        names: list[str] = []
        seen: set[str] = set()
        at: Term | None = term
        while at and at.key not in seen:
            seen.add(at.key)
            names.append(at.slug)
            at = self.store.get(Term, at.parent) if at.parent else None
        return "/".join(reversed(names))


class NewArchives:
    """Where archives stand on the new site; an empty address where the host has none."""

    def __init__(self, host: Profile, site: str) -> None:
        self.host, self.site = host, site

    def of_author(self, name: str) -> str:
        """The archive of an author's entries, by the author's name."""
        return self._of(self.host.authors.address, name)

    def of_term(self, name: str) -> str:
        """The archive of a term's entries, by the term's name."""
        return self._of(self.host.terms.address, name)

    def _of(self, pattern: str, name: str) -> str:
        slug = slugs.make(name, self.host.slugs) if pattern and name else ""
        return address.resolve(self.site, address.expand(pattern, {"slug": slug})) if slug else ""
