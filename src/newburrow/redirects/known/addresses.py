"""Old addresses that are known from elsewhere are answered too, or named as unknown, the most visited first."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from itertools import islice

from newburrow.assess.link_map import Link, LinkTarget
from newburrow.convert.context import Context
from newburrow.core import url
from newburrow.core.problem import NOWHERE, Problem
from newburrow.redirects.known.found import KnownUrl
from newburrow.store.journal.rows import (
    GONE,
    REDIRECTED,
    UNCHANGED,
    WAS_GONE,
    OldAddress,
)
from newburrow.store.redirects.known_urls import KnownUrls

_NAMED = 20  # unknown addresses named in follow-ups; all are in the table
_LONGEST_CHAIN = 20


class KnownAddresses:
    """The addresses known from elsewhere, on disk, since a log grows with the visits."""

    def __init__(self, site: str) -> None:
        self.site = site
        self._urls = KnownUrls()
        self.elsewhere = 0  # addresses on other sites

    def add(self, rows: Iterable[KnownUrl], sites: frozenset[str]) -> Iterator[Problem]:
        """Keep the known addresses that are on these sites (as `url.site_key`).

        An address that is sent to two places is a follow-up; the first counts. Visits of one address are added up.
        """
        for found in rows:
            target = found.target
            full_url = url.resolve(self.site, found.address)
            key = url.key(full_url)
            if key.partition("/")[0] not in sites:
                self.elsewhere += 1
                continue
            before = self._urls.target_of(key)
            if target:
                to = url.resolve(self.site, target)
            else:
                to = ""
            if before and to and url.key(before) != url.key(to):
                yield Problem.at(
                    NOWHERE,
                    "address-conflict",
                    message=f"The old site sends {full_url} to two places: {before} and {to}; the first counts.",
                    advice="Check which of the two is right.",
                )
                to = ""
            self._urls.add(key, full_url, to, found.visits, found.is_gone)

    def answer(self, context: Context) -> None:
        """Set the answers for known addresses, and report those of which nothing is known."""
        if self.elsewhere:
            context.journal.follow_ups.add(
                Problem.at(
                    NOWHERE,
                    "known-skipped",
                    message=f"{self.elsewhere:,} of the known old addresses belong to other sites; they were skipped.",
                )
            )
        for key, full_url, target, visits, is_gone in self._urls.all():
            if visits:
                context.planning.urls.add_visits(key, visits)
            if context.journal.urls.get(key) is not None:
                continue
            if is_gone and not target:
                context.journal.urls.add(OldAddress.of(full_url, "", GONE, WAS_GONE))
            else:
                self._answer_one(key, full_url, target, visits, context)
        for full_url, visits in islice(self.unknown(), _NAMED):
            shown = f", which was visited {visits:,} times" if visits else ""
            context.journal.follow_ups.add(
                Problem.at(NOWHERE, "unknown-address", address=full_url, visits=shown)
            )

    def _answer_one(
        self, key: str, full_url: str, target: str, visits: int, context: Context
    ) -> None:
        end = self._end(key, target)
        if end is None:
            context.journal.follow_ups.add(
                Problem.at(NOWHERE, "redirect-loop", address=full_url)
            )
            return
        link = context.links.follow(end or full_url, full_url)
        if link.leads is LinkTarget.MOVED and not target and "?" in full_url:
            return  # known without its further parameters, which servers pass on
        row = _row(
            full_url, link, "redirect of the old site" if target else "known from elsewhere"
        )
        if row is None or context.journal.plan.key_at(key):
            self._urls.add_unknown(full_url, visits)
        elif row.new_key != row.key and not context.new_pages.archives.is_list(full_url):
            context.journal.urls.add(row)
        else:
            context.journal.urls.add(OldAddress.of(full_url, full_url, UNCHANGED, row.why))

    def _end(self, key: str, target: str) -> str | None:
        """Where a chain of redirects of the old site ends; None where it goes in a circle."""
        seen = {key}
        for _step in range(_LONGEST_CHAIN):
            at = url.key(target)
            if at in seen:
                return None
            seen.add(at)
            further = self._urls.target_of(at)
            if not further:
                return target
            target = further
        return None

    def unknown(self) -> Iterator[tuple[str, int]]:
        """The addresses where the export has nothing, the most visited first."""
        return self._urls.unknown()


def _row(full_url: str, link: Link, why: str) -> OldAddress | None:
    if link.leads in (LinkTarget.MOVED, LinkTarget.ELSEWHERE) and url.key(link.address):
        return OldAddress.of(full_url, link.address, REDIRECTED, why)
    if link.leads is LinkTarget.GONE:
        return OldAddress.of(full_url, "", GONE, "its entry is left out")
    return None
