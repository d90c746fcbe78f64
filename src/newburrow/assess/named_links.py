"""What the names in the links of a wiki mean: pages, sections, files, and pages of other wikis."""

from __future__ import annotations

import posixpath
import re
from collections.abc import Sequence
from urllib.parse import quote

from newburrow.core import url_pattern
from newburrow.core.web_schemes import SAFE_SCHEMES, runs_script
from newburrow.dialects.schema import Dialect
from newburrow.markup.base import section_id
from newburrow.store.page_names import PageNames

# An address rather than a name: a path from the root, a query or a fragment alone; or a scheme (RFC 3986
# section 3.1) before what has no space. Of a name that a page has nobody asks this.
_PATH = re.compile(r"[/?#]")
_SCHEME = re.compile(r"([a-zA-Z][a-zA-Z0-9+.-]*):\S+\Z")


class NamedLinks:
    """The names of one export."""

    def __init__(self, names: PageNames, dialects: Sequence[Dialect]) -> None:
        self.names = names
        self.other_wikis = {
            prefix.casefold(): pattern
            for dialect in dialects
            for prefix, pattern in dialect.wiki.other_wikis.items()
        }
        self.file_prefixes = {
            prefix.casefold() for dialect in dialects for prefix in dialect.wiki.file_prefixes
        }
        self.versions = [pattern for dialect in dialects if (pattern := dialect.wiki.versions)]
        self.marks = {mark for dialect in dialects if (mark := dialect.wiki.parent_mark)}

    def at(self, base: str) -> PageLinks:
        """The names as they are meant on the page at an old address."""
        return PageLinks(self, base)


class PageLinks:
    """What names mean on one page (`newburrow.markup.base.NameLookup`)."""

    def __init__(self, known: NamedLinks, base: str) -> None:
        self._known, self._base = known, base

    def link(self, target: str) -> str | None:
        """The address that a link leads to: a page, a section of one, a file, or a page of another wiki.

        A name is sought whole first, since it may hold `#`, `?`, `:` or `/`. A target that is an address
        stays. None for the name of a page that is not there.
        """
        if target.startswith("#"):
            return f"#{quote(section_id(target[1:]), safe='')}"
        if not target or "://" in target:
            return target
        if found := self._page(target):
            return found
        name, mark, section = target.rpartition("#")
        if mark and name and (found := self._page(name)):
            return f"{found}#{quote(section_id(section), safe='')}"
        if version := self._version(target):
            return version
        prefix, colon, rest = target.partition(":")
        if colon:
            pattern = self._known.other_wikis.get(prefix.strip().casefold())
        else:
            pattern = None
        if pattern:
            return url_pattern.expand(pattern, {"name": rest.strip()})
        if found := self._file(target):
            return found
        scheme = _SCHEME.match(target)
        known_scheme = scheme and scheme[1].lower() in SAFE_SCHEMES
        if _PATH.match(target) or known_scheme or runs_script(target):
            return target
        return None

    def file(self, name: str) -> str:
        """The address of a file by its name on this page, or of `page/name`; the name itself where there is none."""
        if "://" in name:
            return name
        return self._file(name) or name

    def _page(self, name: str) -> str:
        known = self._known
        if name.startswith(("./", "../")) or (name.startswith("/") and known.marks):
            own = known.names.name_at(self._base)
            for mark in sorted(known.marks or {"/"}):
                steps = name.replace(mark, "/").lstrip("/")
                above = own.replace(mark, "/")
                path = posixpath.normpath(f"/{above}/{steps}").lstrip("/")
                if found := known.names.address(path.replace("/", mark)):
                    return found
        return known.names.address(name)

    def _version(self, target: str) -> str:
        """The address of an older version of a page that is named; empty where the target names none."""
        for pattern in self._known.versions:
            found = url_pattern.matcher(pattern).fullmatch(target)
            page = self._page(found["page"]) if found else ""
            if found and page:
                return url_pattern.expand(pattern, found.groupdict() | {"page": page})
        return ""

    def _file(self, name: str) -> str:
        names, prefix = self._known.names, name.partition(":")
        if prefix[1] and prefix[0].strip().casefold() in self._known.file_prefixes:
            name = prefix[2].strip()
        if found := names.file(self._base, name):
            return found
        page, slash, last = name.rpartition("/")
        address = names.address(page) if slash else ""
        if address:
            return names.file(address, last)
        return ""
