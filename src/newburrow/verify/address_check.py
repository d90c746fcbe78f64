"""Whether something is at each address that the result and the redirects lead to."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from newburrow.core import url
from newburrow.core.problem import BurrowError
from newburrow.hosts.archives import NewArchives
from newburrow.model import Author, Term
from newburrow.redirects import table
from newburrow.store.content_store import Store
from newburrow.store.journal.kept_journal import KeptJournal
from newburrow.store.journal.rows import REDIRECTED
from newburrow.store.met_records import MetRecords
from newburrow.verify.difference import Difference


def add_pages(
    records: MetRecords, store: Store, journal: KeptJournal, archives: NewArchives, site: str
) -> None:
    """Let the result know the pages that the new host makes by itself, and those that it has already.

    What was handed over is known too: if it is missing, that is said once, and not of each link to it.
    """
    for address in journal.plan.addresses():
        records.add_page(address)
    pages = [url.resolve(site, "/"), site]
    pages += [url.resolve(site, path) for path in archives.host.site.own_pages]
    pages += (archives.of_term(term.name) for term in store.all(Term))
    pages += (archives.of_author(author.name) for author in store.all(Author))
    for address in pages:
        if address:
            records.add_page(address)
    for address in journal.existing.addresses():
        records.add_page(address)


def redirects(
    path: Path, records: MetRecords, archives: NewArchives, site: str
) -> Iterator[Difference]:
    """The redirects in `addresses.csv` that lead to an address of the new site where nothing is."""
    try:
        for row in table.read(path):
            is_here = row.status == REDIRECTED and url.is_within(row.new, site)
            if is_here and not records.has(row.new) and not archives.is_list(row.new):
                yield Difference(
                    "redirect", row.old, row.new, "target", "a page or a file", "nothing"
                )
    except BurrowError as error:
        yield Difference("table", path.name, "", "reading", "a table", error.problem.message)
