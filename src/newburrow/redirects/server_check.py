"""Following redirects: a running server is asked for every old address, and what it answers is held against the map."""

from __future__ import annotations

import html
import re
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from itertools import islice

import httpx

from newburrow.core import url
from newburrow.core.problem import refusal
from newburrow.core.progress import Event, Listener, nobody
from newburrow.redirects.followed_address import NOT_UP, RIGHT, FollowedAddress, Sites
from newburrow.redirects.spellings import other_spellings
from newburrow.store.journal.rows import GONE, REDIRECTED, OldAddress
from newburrow.store.redirects.title_index import TitleIndex

PARALLEL = 8  # requests at the same time
_BATCH = 200
_EACH = 20  # of so many old addresses one is asked for in other spellings too
_MOST_HOPS = 10
_SECONDS = 20.0
_READ = 1 << 20  # bytes of a page in which its title is looked for
_SPACE = re.compile(r"\s+")
_TAG = re.compile(r"<[^>]*>")


class _Verdict(Exception):
    """The end of a check."""

    def __init__(self, outcome: str, found: str) -> None:
        super().__init__(found)
        self.outcome, self.found = outcome, found


def follow(
    rows: Iterator[OldAddress],
    sites: Sites,
    titles: TitleIndex,
    listener: Listener = nobody,
    total: int = 0,
) -> Iterator[FollowedAddress]:
    """Ask a server for each old address as it is spelled in the table, several at a time, in order.

    One in twenty, and each that a browser or a person may spell in several ways, is asked for in those too. Follows
    redirects to their end, at most a few steps. Redirects to the new site are asked at `sites.new` if it is given.
    Raises BurrowError if nobody answers at the old server's address.
    """
    _reachable(sites)
    limits = httpx.Limits(max_connections=PARALLEL, max_keepalive_connections=PARALLEL)
    done = 0
    with (
        httpx.Client(
            timeout=_SECONDS, limits=limits, verify=sites.checks_certificates
        ) as client,
        ThreadPoolExecutor(PARALLEL) as pool,
    ):
        asker = _Asker(client, sites)
        while batch := list(islice(rows, _BATCH)):
            wanted = [
                (row, target, titles.of(row.new))
                for number, row in enumerate(batch, done)
                for target in _targets(row, number)
            ]
            yield from pool.map(lambda one: asker.check(*one), wanted)
            done += len(batch)
            listener(Event("Asking for old addresses", done, total, "addresses"))


def _targets(row: OldAddress, number: int) -> Iterator[str]:
    """What is sent for an old address: as it stands there, and in other spellings."""
    own = request_target(row.old)
    yield own
    is_plain = row.old.isascii() and not set("%+&") & set(row.old)
    if number % _EACH == 0 or not is_plain:
        yield from other_spellings(own)


def request_target(address: str) -> str:
    """Path and query as a browser sends them (RFC 9112, section 3.2.1); what it encodes is encoded, and no more."""
    parts = url.split(address)
    if parts is None:
        return "/"
    path = parts.path or "/"
    return url.safe(path + (f"?{parts.query}" if parts.query else ""))


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
        httpx.get(sites.old, timeout=_SECONDS, verify=False)  # whether anybody is there
    except httpx.HTTPError as error:
        advice = "Start the server, or correct the address."
        raise refusal("no-server", f"Nobody answers at {sites.old}: {error}.", advice) from None


class _Asker:
    """Asks for one address and follows to the end."""

    def __init__(self, client: httpx.Client, sites: Sites) -> None:
        self.client, self.sites = client, sites

    def check(self, row: OldAddress, target: str, title: str) -> FollowedAddress:
        """What a server answers for an old address, asked by this target."""
        if row.status == REDIRECTED:
            status = self.sites.status
        else:
            status = row.status
        wanted = f"{status} {row.new}".strip()
        try:
            self._check(row, target, title)
        except _Verdict as answer:
            return FollowedAddress(row.old, target, wanted, answer.found, answer.outcome)
        except httpx.HTTPError as error:
            found = f"no answer ({type(error).__name__}: {error})"
            return FollowedAddress(row.old, target, wanted, found, "no-answer")
        except (ValueError, UnicodeError, httpx.InvalidURL):
            found = "the server sends something that is not an address"
            return FollowedAddress(row.old, target, wanted, found, "wrong-target")
        return FollowedAddress(row.old, target, wanted, wanted, RIGHT)

    def _check(self, row: OldAddress, target: str, title: str) -> None:
        answer, at = self._get(row.old, target, self.sites.old), row.old
        wanted = {GONE: GONE, REDIRECTED: self.sites.status}.get(row.status)
        if wanted and answer.status_code != wanted:
            raise _Verdict("wrong-status", f"answers {answer.status_code}")
        seen, hops = {url.key(at)}, 0
        while answer.is_redirect:
            hops += 1
            at = url.resolve(at, answer.headers.get("location", ""))
            if hops == 1 and row.status == REDIRECTED and not _is_same(at, row.new):
                raise _Verdict("wrong-target", f"goes to {at}")
            if url.key(at) in seen or hops > _MOST_HOPS:
                raise _Verdict("loop", f"goes in a circle: it comes to {at} again")
            seen.add(url.key(at))
            answer = self._page(at, row)
        if row.status == GONE:
            return
        if hops > (row.status == REDIRECTED):
            if row.status == REDIRECTED:
                who = "the new host itself sends on"
            else:
                who = "it is sent on"
            raise _Verdict("more-steps", f"{who}: takes {hops} steps, and ends at {at}")
        if answer.status_code != 200:
            raise _Verdict("wrong-page", f"the page there answers {answer.status_code}")
        if title and title not in shown(answer.text[:_READ]):
            raise _Verdict("wrong-page", f"the page there does not contain “{title}”")

    def _page(self, at: str, row: OldAddress) -> httpx.Response:
        base = self._base(at, row.old)
        try:
            return self._get(at, request_target(at), base)
        except httpx.ConnectError as error:
            if base == self.sites.old:
                raise
            found = f"the redirect is right; the new site does not answer ({error})"
            raise _Verdict(NOT_UP, found) from None

    def _base(self, at: str, old: str) -> str:
        if url.site_key(at) == url.site_key(old):
            return self.sites.old
        return self.sites.new or at

    def _get(self, at: str, target: str, base: str) -> httpx.Response:
        parts, server = url.split(at), httpx.URL(base)
        assert parts is not None
        return self.client.get(
            server.copy_with(raw_path=target.encode()),
            headers={"Host": parts.netloc.rpartition("@")[2]},
            # The certificate has to be that of the site, wherever it answers for now.
            extensions={"sni_hostname": parts.hostname or ""},
            follow_redirects=False,
        )


def _is_same(found: str, wanted: str) -> bool:
    """Whether an address is the one that is wanted, its scheme and fragment too, however it is spelled."""
    if url.safe(found) == url.safe(wanted):
        return True
    one, other = url.split(found), url.split(wanted)
    return (
        one is not None
        and other is not None
        and url.key(found) == url.key(wanted)
        and one.scheme == other.scheme
        and url.safe(one.fragment) == url.safe(other.fragment)
    )


def shown(page: str) -> str:
    """The visible words of a page, in the form in which titles are compared."""
    return _SPACE.sub(" ", html.unescape(_TAG.sub("", page))).casefold()
