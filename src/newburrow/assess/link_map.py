"""Where an address found in a body leads on the new site."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from enum import StrEnum
from itertools import takewhile
from typing import TYPE_CHECKING, Protocol
from urllib.parse import SplitResult, unquote

from msgspec import Struct
from msgspec.structs import replace

from newburrow.core import foreign_pattern, mirrored, url, url_pattern
from newburrow.core.old_encodings import as_utf8
from newburrow.core.web_schemes import runs_script
from newburrow.dialects.schema import Dialect
from newburrow.store.journal.answers import Answers
from newburrow.store.journal.rows import GONE, REDIRECTED, WAS_GONE, OldAddress

if TYPE_CHECKING:
    import regex

_PAGE_ENDINGS = ("html", "htm")
_ELSEWHERE = "file of the same name in another place: "
_SITE_AND_NAME = 2  # steps of a path that has no folders
_RULE = "rule of the old site"
_IN_OLD_ENCODING = "written otherwise: in the encoding of an old page"
_GROUP = re.compile(r"[$\\](\d)")  # as servers write a group in a target


class LinkTarget(StrEnum):
    """What an address turned out to be."""

    HERE = "here"  # a fragment of the same page, or nothing
    ELSEWHERE = "elsewhere"  # another site, a mail address, ...
    MOVED = "moved"  # to an address of the new site
    GONE = "gone"  # to something that is left out
    UNKNOWN = "unknown"  # to the old site, where the export has nothing
    UNSAFE = "unsafe"  # a script


class Link(Struct, frozen=True):
    """An address found in a body, and what becomes of it."""

    leads: LinkTarget
    address: str  # to be written
    old: str = ""  # absolute, where it leads into the old site
    # path of a file that has no more than its name in common with what was asked for
    found_at: str = ""
    is_version: bool = (
        False  # whether it asked for an older version of the page that it leads to
    )


class UnaddressedFiles(Protocol):
    """Files of which the export gives a path alone."""

    def unaddressed(self, last_name: str) -> list[tuple[str, str]]:
        """Path and new address of those with this last name, in any letter case."""
        ...


class LinkMap:
    """Where addresses of the old sites lead, by what answers there."""

    def __init__(
        self,
        answers: Answers,
        files: UnaddressedFiles,
        sites: Iterable[str],
        dialects: Sequence[Dialect],
        rules: Sequence[tuple[str, str]] = (),
    ) -> None:
        """`rules` are those of the old server, an expression for the path and a target; more may come to be known."""
        self.answers, self.files, self.rules = answers, files, rules
        self._sites = {key: site for site in sites if (key := url.site_key(site))}  # few
        self.site = next(iter(self._sites.values()), "")
        self.resized = [resized for dialect in dialects for resized in dialect.media.resized]
        self.further = [
            pattern for dialect in dialects if (pattern := dialect.addresses.further)
        ]
        self.versions = [pattern for dialect in dialects if (pattern := dialect.wiki.versions)]
        self.feeds = [
            (pattern, feed)
            for dialect in dialects
            if (pattern := dialect.addresses.feed)
            for feed in dialect.site.feeds[:1]
        ]

    def follow(self, found: str, base: str) -> Link:
        """Find where an address in a body leads.

        `base` is the old address of the page that it is in. The fragment and parameters that do not belong
        to the known address are kept. Gives the target (moved, gone, unknown, elsewhere) with its new
        address; an address in another form (slash, letter case, index file) is found too.
        """
        stripped = found.strip()
        if not stripped or stripped.startswith("#"):
            return Link(LinkTarget.HERE, found)
        if runs_script(stripped):
            return Link(LinkTarget.UNSAFE, "")
        old = url.resolve(base or self.site, stripped)
        if found_at := self._straight(old, found):
            return found_at
        parts = url.split(old)
        site = self._sites.get(url.site_key(old))
        if parts is None or site is None:
            return Link(LinkTarget.ELSEWHERE, found)
        if of_version := self._of_version(old, site, parts):
            return of_version
        if parts.fragment:
            fragment = f"#{parts.fragment}"
        else:
            fragment = ""
        for key, places in url.lookup_keys(parts):
            answer = self.answers.get(key)
            if answer and answer.status == GONE:
                return _to_nothing(answer, old)
            if answer:
                query = url.left_over(parts.query, places)
                return Link(
                    LinkTarget.MOVED, answer.new + _query(query, answer) + fragment, old
                )
        return (
            self._unplanned(old, site, parts)
            or self._by_rule(old, site, parts.path)
            or self._of_mirror(old)
            or self._in_old_encoding(old)
            or Link(LinkTarget.UNKNOWN, old, old)
        )

    def _of_mirror(self, old: str) -> Link | None:
        """Where an address leads that is the name of a file with a query in it."""
        original = mirrored.address_of(old)
        if original != old:
            return self.follow(original, "")
        return None

    def _in_old_encoding(self, old: str) -> Link | None:
        """Where an address leads whose letters are in the encoding of an old page; it is kept, as others name it."""
        for address in as_utf8(old):
            found = self.follow(address, "")
            if found.leads in (LinkTarget.MOVED, LinkTarget.GONE):
                bare, new = old.partition("#")[0], found.address.partition("#")[0]
                if found.leads is LinkTarget.MOVED:
                    self.answers.add(OldAddress.of(bare, new, REDIRECTED, _IN_OLD_ENCODING))
                return replace(found, old=old)
        return None

    def _unplanned(self, old: str, site: str, parts: SplitResult) -> Link | None:
        """Where an address leads that no record of the export tells; it is kept, since others may name it too."""
        if parts.fragment:
            fragment = f"#{parts.fragment}"
        else:
            fragment = ""
        answer = self._original(parts.path, site) or self._of_list(parts.path, site)
        if answer:
            self.answers.add(answer.at(re.split("[?#]", old)[0]))
            if answer.status == GONE:
                return Link(LinkTarget.GONE, old, old)
            return Link(LinkTarget.MOVED, answer.new + fragment, old)
        if found := self._spelled_otherwise(old, fragment):
            return found
        path = url.full_path(old)
        beside, found_at = self._beside(path)
        for mark in "?@" if parts.query and not beside else "":  # of a mirror
            beside, found_at = self._beside(f"{path}{mark}{unquote(parts.query)}")
            if beside:
                break
        if beside:
            if found_at:
                why = f"{_ELSEWHERE}{found_at}"
            else:
                why = "file of the same name"
            address = mirrored.address_of(old.partition("#")[0])
            row = OldAddress.of(address, beside, REDIRECTED, why)
            self.answers.add(row)
            return Link(LinkTarget.MOVED, beside + fragment, old, found_at)
        return None

    def _of_version(self, old: str, site: str, parts: SplitResult) -> Link | None:
        """Where an address leads that asks for an older version of a page: to the page as it is now."""
        address, mark, fragment = old.partition("#")
        asked = parts._replace(scheme="", netloc="", fragment="").geturl()
        for pattern in self.versions:
            found = url_pattern.matcher(pattern).fullmatch(asked)
            page = self.follow(found["page"], site) if found else None
            if page and page.leads is LinkTarget.MOVED:
                row = OldAddress.of(
                    address, page.address, REDIRECTED, "an older version of a page"
                )
                self.answers.add(row)
                return replace(
                    page, address=page.address + mark + fragment, old=old, is_version=True
                )
            if page and page.leads is LinkTarget.GONE:
                return replace(page, address=old, old=old)
        return None

    def _by_rule(self, old: str, site: str, path: str) -> Link | None:
        """Where the first rule of the old server that knows a path sends it, if something is there."""
        for expression, target in self.rules:
            new = rule_target(path, expression, target)
            if new:
                key = url.key(url.resolve(site, new))
            else:
                key = ""
            if key:
                answer = self.answers.get(key)
            else:
                answer = None
            if answer and answer.status != GONE:
                self.answers.add(
                    OldAddress.of(old.partition("#")[0], answer.new, REDIRECTED, _RULE)
                )
                _address, mark, fragment = old.partition("#")
                return Link(
                    LinkTarget.MOVED, answer.new + (mark + fragment if fragment else ""), old
                )
        return None

    def _straight(self, old: str, found: str) -> Link | None:
        """Where an address leads that is another site's, or the very one of something, as most are."""
        key = url.key(old)
        if not key:
            return None
        if key.partition("/")[0] not in self._sites:
            return Link(LinkTarget.ELSEWHERE, found)
        answer = self.answers.get(key)
        if answer is None:
            return None
        if answer.status == GONE:
            return _to_nothing(answer, old)
        _address, mark, fragment = old.partition("#")
        if answer.why.startswith(_ELSEWHERE):
            found_at = answer.why.removeprefix(_ELSEWHERE)
        else:
            found_at = ""
        new = answer.new + (mark + fragment if fragment else "")
        return Link(LinkTarget.MOVED, new, old, found_at)

    def _beside(self, path: str) -> tuple[str, str]:
        """The new address of the one file beside the feed whose path ends most like this; empty for none or two.

        The second text is its path, where both paths have folders and share only the name of the file.
        """
        segments = path.split("/")
        named = self.files.unaddressed(segments[-1]) if segments[-1] else []
        if any(other.rpartition("/")[2] == segments[-1] for other, _new in named):
            named = [pair for pair in named if pair[0].rpartition("/")[2] == segments[-1]]
        else:  # on a disk that does not tell capitals apart
            segments = path.lower().split("/")
            named = [(other.lower(), new) for other, new in named]
        best, found = 0, list[tuple[str, str]]()
        for other, new in named:
            pairs = zip(reversed(segments), reversed(other.split("/")), strict=False)
            shared = sum(1 for _ in takewhile(lambda pair: pair[0] == pair[1], pairs))
            if shared == best:
                found = [*found, (new, other)]
            elif shared > best:
                found = [(new, other)]
            best = max(best, shared)
        if len({new for new, _other in found}) != 1:
            return "", ""
        new, other = found[0]
        if best == 1 and segments[-1] in url.INDEX_FILES:  # every folder has one
            return "", ""
        is_elsewhere = best == 1 and "/" in other and len(segments) > _SITE_AND_NAME
        return new, other if is_elsewhere else ""

    def _original(self, path: str, site: str) -> OldAddress | None:
        """The answer to the file of which a path is a resized variant."""
        for resized in self.resized:
            found = url_pattern.matcher(resized.variant).fullmatch(path)
            if found:
                original = url_pattern.expand(resized.original, found.groupdict())
                answer = self._answer(original, site)
                if answer and answer.status != GONE:
                    return OldAddress.of(
                        original, answer.new, REDIRECTED, "resized variant of a file"
                    )
        return None

    def _of_list(self, path: str, site: str) -> OldAddress | None:
        """The answer to the list of which a path is a further page, however many it had, or the feed."""
        for pattern in self.further:
            found = url_pattern.matcher(pattern).fullmatch(path) or url_pattern.matcher(
                pattern
            ).fullmatch(path + "/")
            if found and found["page"].isdigit():
                answer = self._answer(found["list"], site)
            else:
                answer = None
            if answer:
                if answer.status == GONE:
                    return answer
                return replace(answer, status=REDIRECTED, why="a further page")
        for pattern, feed in self.feeds:
            found = url_pattern.matcher(pattern).fullmatch(path) or url_pattern.matcher(
                pattern
            ).fullmatch(path + "/")
            if found and self._answer(found["list"], site):
                answer = self._answer(feed, site)
            else:
                answer = None
            if answer:
                if answer.status == GONE:
                    return answer
                return replace(answer, status=REDIRECTED, why="feed of a list")
        return None

    def _spelled_otherwise(self, old: str, fragment: str) -> Link | None:
        """Where the same address leads, written a little differently, as people, visitors and old servers do."""
        path, mark, query = url.key(old).partition("?")
        bare = path.removesuffix("index.html").removesuffix("index.php")
        trimmed, lower = bare.rstrip("/"), bare.rstrip("/").lower()
        # A query may identify a page: it is left over only if the path alone is an address.
        if bare != path or "/" not in trimmed:
            tails = [mark + query]
        else:
            tails = [mark + query, ""]
        spellings = (bare, f"{trimmed}/", trimmed, f"{lower}/", lower)
        index_files = (f"{trimmed}/{name}" for name in url.INDEX_FILES)
        for variant in dict.fromkeys((*spellings, *index_files)):
            for tail in dict.fromkeys(tails):
                if variant != path:
                    known = self.answers.get(variant + tail)
                else:
                    known = None
                if known:
                    left = query if not tail else ""
                    return self._as_known(old, known, left, fragment)
        # A server on a disk that does not tell capitals apart had the page at every spelling.
        known = self.answers.in_any_case(path + mark + query) or self._at_file(trimmed)
        if known:
            return self._as_known(old, known, "", fragment)
        return None

    def _at_file(self, path: str) -> OldAddress | None:
        """The answer to the file of a page whose address had no ending, or to the page of such a file."""
        stem, dot, ending = path.rpartition(".")
        if dot and ending in _PAGE_ENDINGS:
            variants = [stem, f"{stem}/"]
        elif "." in path.rpartition("/")[2] or "/" not in path:
            return None
        else:
            variants = [f"{path}.{ending}" for ending in _PAGE_ENDINGS]
        return next(
            (known for variant in variants if (known := self.answers.get(variant))), None
        )

    def _as_known(self, old: str, known: OldAddress, query: str, fragment: str) -> Link:
        """The link to what is known at another spelling; `query` is what that does not have."""
        if known.status == GONE:
            return _to_nothing(known, old)
        carried = _query(query, known) if query else ""
        if not carried:
            why = f"written otherwise: {known.why}"
            row = OldAddress.of(old.partition("#")[0], known.new, REDIRECTED, why)
            self.answers.add(row)
        return Link(LinkTarget.MOVED, known.new + carried + fragment, old)

    def _answer(self, path: str, site: str) -> OldAddress | None:
        return self.answers.get(url.key(url.resolve(site, path)))


def _to_nothing(answer: OldAddress, old: str) -> Link:
    """A link to what is left out, or to what was not there on the old site either."""
    if answer.why == WAS_GONE:
        return Link(LinkTarget.UNKNOWN, old, old)
    return Link(LinkTarget.GONE, old, old)


def rule_target(path: str, expression: str, target: str) -> str:
    """The target of a rule for a path, with its groups filled in; empty where the rule is not about it, or is wrong."""
    # In a folder's own file the path has no slash before it.
    found = foreign_pattern.search(expression, path)
    found = found or foreign_pattern.search(expression, path.removeprefix("/"))
    if found:
        return _GROUP.sub(lambda sign: _group(found, int(sign[1])), target)
    return ""


def _group(found: regex.Match[str], number: int) -> str:
    if number <= (found.re.groups or 0):
        return found[number] or ""
    return ""


def _query(query_part: str, answer: OldAddress) -> str:
    """What is left of a query. What asks for a size or a version of a file asks for that file."""
    if query_part and not answer.why.endswith("file"):
        return ("&" if "?" in answer.new else "?") + query_part
    return ""
