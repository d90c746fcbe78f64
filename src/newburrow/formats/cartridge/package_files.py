"""The files of a package being written: identifiers, links between files, and the resources that the manifest lists."""

from __future__ import annotations

import hashlib
import html
import re
from tempfile import TemporaryFile
from urllib.parse import quote, unquote

from msgspec import Struct

from newburrow.core import url
from newburrow.formats.base import Job
from newburrow.formats.xml_output import attribute
from newburrow.markup.html_tags import changed_in_tags

_ADDRESS = re.compile(r'(?<=\s)(href|src|poster|data)="([^"]*)"')
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


def identifier_of_file(path: str) -> str:
    """The identifier of the resource that a file of a package is."""
    return identifier(f"file {path}")


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

        made = changed_in_tags(_ADDRESS, changed, text)
        return Linked(made, tuple(dict.fromkeys(files)))

    def only_link(self, text: str) -> str:
        """The path that a text leads to that is nothing but one link; else empty."""
        found = _ONLY_LINK.fullmatch(text.strip())
        if found:
            return self.path(html.unescape(found[1]))
        return ""

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
    """Resources and places of a package until the manifest is written at the end.

    Resources wait on disk as they will stand in the manifest. Places name things and hold none, and are in memory.
    """

    def __init__(self) -> None:
        self.resources = TemporaryFile("w+", encoding="utf-8", newline="\n")  # noqa: SIM115 (closed by `close`)
        self._known: set[str] = set()  # digests of identifiers
        self._places: dict[str, Standing] = {}

    def close(self) -> None:
        """Remove what waits on disk."""
        self.resources.close()

    def add(self, resource: Written) -> None:
        """A resource with its files. One that is known already stays as it is."""
        if resource.identifier in self._known:
            return
        self._known.add(resource.identifier)
        if resource.href:
            href = f" href={attribute(_quoted(resource.href))}"
        else:
            href = ""
        lines = [
            f'<resource identifier="{resource.identifier}" type="{resource.type}"{href}>',
            resource.metadata,
        ]
        lines += (f"<file href={attribute(_quoted(path))}/>" for path in resource.files)
        depends = dict.fromkeys(identifier_of_file(path) for path in resource.depends)
        lines += (
            f'<dependency identifierref="{other}"/>'
            for other in depends
            if other != resource.identifier
        )
        self.resources.write("\n".join(filter(None, lines)) + "\n</resource>\n")

    def place(self, standing: Standing) -> None:
        """A place in the course."""
        self._places.setdefault(standing.key, standing)

    def tree(self) -> dict[str, list[Standing]]:
        """What stands under each key, in its order; under the empty key what stands under nothing that is written."""
        under: dict[str, list[Standing]] = {}
        for standing in self._places.values():
            if standing.parent in self._places:
                parent = standing.parent
            else:
                parent = ""
            under.setdefault(parent, []).append(standing)
        for places in under.values():
            places.sort(
                key=lambda standing: (standing.position is None, standing.position or 0)
            )
        return under


def _quoted(path: str) -> str:
    return quote(path, safe="/~-._")
