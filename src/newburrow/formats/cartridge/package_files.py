"""The files of a package being written: identifiers, links between files, and the resources that the manifest lists."""

from __future__ import annotations

import hashlib
import html
import re
import sqlite3
from collections.abc import Iterable, Iterator
from urllib.parse import quote, unquote

from msgspec import Struct

from newburrow.core import url
from newburrow.formats.base import Job

_ADDRESS = re.compile(r'\b(href|src|poster|data)="([^"]*)"')
_ONLY_LINK = re.compile(r'<p><a href="([^"#]*)">[^<]*</a></p>')
PAGES = "lessons"  # folder of the pages, in addresses as in the package


def identifier(key: str) -> str:
    """An identifier for a manifest (xsd:ID, unique for each key), the same in every run."""
    return f"i{hashlib.sha256(key.encode('utf-8', 'replace')).hexdigest()[:24]}"


def name_of(address: str, key: str) -> str:
    """The name of the file of an entry: the last name of its address, with what makes it unique."""
    last = unquote(address.rstrip("/").rpartition("/")[2])
    plain = re.sub(r"[^\w-]+", "-", last, flags=re.ASCII).strip("-")[:60]
    return f"{plain or 'entry'}-{identifier(key)[1:7]}"


BY_PATH = "path "  # before the path of a file, where a place names its resource by that


class Linked(Struct, frozen=True):
    """A text with its links as the package has them."""

    text: str
    files: tuple[str, ...]  # paths in the package that it refers to


class Links:
    """Turns addresses of the new site into paths in the package, where the package has the file."""

    def __init__(self, job: Job, media: str) -> None:
        """`media` is the folder of files, in addresses as in the package."""
        self.site, self.media = url.resolve(job.site.address, "/"), media
        self._goes_to = job.goes_to

    def of(self, text: str, before: str) -> Linked:
        """The text with `before` put before paths, such as `../`."""
        files: list[str] = []

        def changed(found: re.Match[str]) -> str:
            address, mark, fragment = html.unescape(found[2]).partition("#")
            path = self.path(address)
            if not path:
                return found[0]
            files.append(path)
            target = html.escape(before + quote(path, safe="/~-._") + mark + fragment)
            return f'{found[1]}="{target}"'

        made = _ADDRESS.sub(changed, text)
        return Linked(made, tuple(dict.fromkeys(files)))

    def only_link(self, text: str) -> str:
        """The path that a text leads to that is nothing but one link; else empty."""
        found = _ONLY_LINK.fullmatch(text.strip())
        return self.path(html.unescape(found[1])) if found else ""

    def path(self, address: str) -> str:
        """The path in the package of the page or the file at an address; empty for what is neither."""
        if not address.startswith(self.site) or not self._goes_to(address):
            return ""
        path = unquote(address.removeprefix(self.site))
        if path.startswith(f"{self.media}/"):
            return path
        if path.startswith(f"{PAGES}/"):
            return f"{path.rstrip('/').removesuffix('.html')}.html"
        return ""


class Written(Struct, frozen=True):
    """One resource of the package being written."""

    identifier: str
    type: str
    href: str  # empty where the standard wants none
    files: tuple[str, ...]
    depends: tuple[str, ...] = ()  # paths of files that it refers to
    metadata: str = ""  # what is known of its file, as XML


class Standing(Struct, frozen=True):
    """Where something stands in the course."""

    key: str
    parent: str
    position: int | None
    title: str
    resource: str  # identifier; empty for a heading
    is_visible: bool = True


class PackageList:
    """Resources and places of a package, on disk until the manifest is written at the end."""

    def __init__(self) -> None:
        # An empty path is a database on disk, which goes away with the connection.
        self._db = sqlite3.connect("")
        self._db.execute(
            "CREATE TABLE resource (id TEXT PRIMARY KEY, type TEXT, href TEXT, files TEXT, depends TEXT, more TEXT)"
        )
        self._db.execute("CREATE TABLE file (path TEXT PRIMARY KEY, id TEXT)")
        self._db.execute(
            "CREATE TABLE place (seq INTEGER PRIMARY KEY, key TEXT UNIQUE, parent TEXT, position INTEGER, "
            "title TEXT, resource TEXT, visible INTEGER)"
        )
        self._db.execute("CREATE INDEX place_parent ON place (parent)")

    def add(self, resource: Written) -> None:
        """A resource with its files."""
        self._db.execute(
            "INSERT OR IGNORE INTO resource VALUES (?, ?, ?, ?, ?, ?)",
            (resource.identifier, resource.type, resource.href, "\n".join(resource.files),
             "\n".join(resource.depends), resource.metadata),
        )  # fmt: skip
        for path in resource.files:
            self._db.execute(
                "INSERT OR IGNORE INTO file VALUES (?, ?)", (path, resource.identifier)
            )

    def place(self, standing: Standing) -> None:
        """A place in the course."""
        self._db.execute(
            "INSERT OR IGNORE INTO place (key, parent, position, title, resource, visible) VALUES (?, ?, ?, ?, ?, ?)",
            (standing.key, standing.parent, standing.position, standing.title, standing.resource, standing.is_visible),
        )  # fmt: skip

    def resources(self) -> Iterator[tuple[Written, list[str]]]:
        """Each resource, with the identifiers of those that it depends on."""
        for id_, type_, href, files, depends, more in self._db.execute(
            "SELECT * FROM resource ORDER BY rowid"
        ).fetchall():
            found = []
            for path in filter(None, depends.split("\n")):
                row = self._db.execute("SELECT id FROM file WHERE path = ?", (path,)).fetchone()
                if row and row[0] != id_ and row[0] not in found:
                    found.append(row[0])
            yield (
                Written(id_, type_, href, tuple(filter(None, files.split("\n"))), (), more),
                found,
            )

    def under(self, parent: str) -> list[Standing]:
        """What stands under a key, in its order; with the empty key what stands under nothing that is written."""
        where = "parent = ?"
        if not parent:
            where = "(parent = ? OR parent NOT IN (SELECT key FROM place))"
        rows: Iterable[tuple[str, str, int | None, str, str, int]] = self._db.execute(
            f"SELECT key, parent, position, title, resource, visible FROM place WHERE {where} "
            "ORDER BY position IS NULL, position, seq",
            (parent,),
        ).fetchall()
        return [
            Standing(key, above, position, title, self._resolved(resource), bool(visible))
            for key, above, position, title, resource, visible in rows
        ]

    def _resolved(self, resource: str) -> str:
        """The identifier of a resource, which may be named by the path of its file."""
        if not resource.startswith(BY_PATH):
            return resource
        path = resource.removeprefix(BY_PATH)
        row = self._db.execute("SELECT id FROM file WHERE path = ?", (path,)).fetchone()
        return str(row[0]) if row else ""
