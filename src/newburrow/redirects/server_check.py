"""Following redirects: a running server is asked for every old address, and what it answers is held against the map."""

from __future__ import annotations

import html
import re
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from itertools import islice

import httpx
from msgspec import Struct

from newburrow.core import url
from newburrow.core.problem import refusal
from newburrow.core.progress import Event, Listener, nobody
from newburrow.store.journal.rows import GONE, REDIRECTED, OldAddress
from newburrow.store.redirects.title_index import TitleIndex

PARALLEL = 8  # requests at the same time
_BATCH = 200
_MOST_HOPS = 10
_SECONDS = 20.0
_READ = 1 << 20  # bytes of a page in which its title is looked for
_SPACE = re.compile(r"\s+")
_TAG = re.compile(r"<[^>]*>")


class Sites(Struct, frozen=True):
    """Where the two sites answer, while their names may still lead elsewhere: base addresses, without a path."""

    old: str
    # empty: the host in its addresses; if that is the old site's name, where that answers
    new: str = ""
    permanent: int = REDIRECTED  # the status that a redirect has to have


class FailedAnswer(Struct, frozen=True):
    """An old address that is not answered as the map says."""

    old: str
    wanted: str
    found: str


def follow(
    rows: Iterator[OldAddress],
    sites: Sites,
    titles: TitleIndex,
    listener: Listener = nobody,
    total: int = 0,
) -> Iterator[FailedAnswer]:
    """Ask a server for each old address, several at a time, and yield the wrong answers in order.

    Follows redirects to their end, at most a few steps. Redirects to the new site are asked at
    `sites.new` if it is given. Raises BurrowError if nobody answers at the server's address.
    """
    _reachable(sites)
    limits = httpx.Limits(max_connections=PARALLEL, max_keepalive_connections=PARALLEL)
    done = 0
    with (
        httpx.Client(timeout=_SECONDS, limits=limits, verify=False) as client,
        ThreadPoolExecutor(PARALLEL) as pool,
    ):
        asker = _Asker(client, sites)
        while batch := list(islice(rows, _BATCH)):
            wanted = [(row, titles.of(row.new)) for row in batch]
            for row, said in zip(
                batch,
                pool.map(lambda old_address: asker.check(*old_address), wanted),
                strict=True,
            ):
                if said:
                    if row.status == REDIRECTED:
                        status = sites.permanent
                    else:
                        status = row.status
                    yield FailedAnswer(row.old, f"{status} {row.new}".strip(), said)
            done += len(batch)
            listener(Event("Asking for old addresses", done, total, "addresses"))


def _reachable(sites: Sites) -> None:
    for base in filter(None, (sites.old, sites.new)):
        parts = url.split(base)
        if parts is None or parts.scheme not in ("http", "https") or not parts.hostname:
            raise refusal(
                "wrong-value",
                f"{base!r} is not the address of a server.",
                "Write it like http://127.0.0.1:8080.",
            )
        try:
            httpx.get(base, timeout=_SECONDS, verify=False)
        except httpx.HTTPError as error:
            advice = "Start the server, or correct the address."
            raise refusal("no-server", f"Nobody answers at {base}: {error}.", advice) from None


class _Asker:
    """Asks for one address and follows to the end."""

    def __init__(self, client: httpx.Client, sites: Sites) -> None:
        self.client, self.sites = client, sites

    def check(self, row: OldAddress, title: str) -> str:
        """What is wrong with the answer to an old address; empty where it is right."""
        try:
            return self._check(row, title)
        except httpx.HTTPError as error:
            return f"no answer ({type(error).__name__})"
        except (ValueError, UnicodeError, httpx.InvalidURL):
            return "the server sends an address that is none"

    def _check(self, row: OldAddress, title: str) -> str:
        answer, at, hops = self._get(row.old, self.sites.old), row.old, 0
        wanted = {GONE: GONE, REDIRECTED: self.sites.permanent}.get(row.status)
        if wanted and answer.status_code != wanted:
            return f"answers {answer.status_code}"
        while answer.is_redirect and hops < _MOST_HOPS:
            hops += 1
            at = url.resolve(at, answer.headers.get("location", ""))
            if hops == 1 and row.status == REDIRECTED and url.key(at) != url.key(row.new):
                return f"goes to {at}"
            answer = self._get(at, self._base(at, row.old))
        if row.status == GONE:
            return ""
        if hops > (row.status == REDIRECTED):
            if row.status == REDIRECTED:
                who = "the new host itself sends on"
            else:
                who = "it is sent on"
            return f"{who}: takes {hops} steps, and ends at {at}"
        if answer.status_code != 200:
            return f"the page there answers {answer.status_code}"
        if not title or title in shown(answer.text[:_READ]):
            return ""
        return f"the page there does not contain “{title}”"

    def _base(self, at: str, old: str) -> str:
        if url.site_key(at) == url.site_key(old):
            return self.sites.old
        return self.sites.new or at

    def _get(self, at: str, base: str) -> httpx.Response:
        parts, server = url.split(at), httpx.URL(base)
        assert parts is not None
        target = url.path_key(parts.path, "") + (f"?{parts.query}" if parts.query else "")
        asked = server.copy_with(raw_path=url.safe(target).encode())
        return self.client.get(
            asked, headers={"Host": parts.netloc.rpartition("@")[2]}, follow_redirects=False
        )


def shown(page: str) -> str:
    """The visible words of a page, in the form in which titles are compared."""
    return _SPACE.sub(" ", html.unescape(_TAG.sub("", page))).casefold()
