"""What the writers of packages with a manifest have in common: files, pages, and the manifest at the end."""

from __future__ import annotations

from collections.abc import Callable, Iterable

from newburrow.core.problem import Problem
from newburrow.formats.base import Job, Output
from newburrow.formats.cartridge import manifest_writer
from newburrow.formats.cartridge.package_files import (
    BY_PATH,
    PAGES,
    Links,
    PackageList,
    Standing,
    Written,
    identifier,
    name_of,
)
from newburrow.formats.cartridge.small_files_writer import page
from newburrow.model import Body, Entry, Media
from newburrow.model.bundle import Bundle


class CourseWriter:
    """The base of these writers. A subclass says `head`, and hands each entry to `place`."""

    structure = ""  # of the organisation

    def __init__(self, output: Output, job: Job, media: str) -> None:
        """`media` is the folder of files."""
        self.output, self.job = output, job
        self.listed = PackageList()
        self.links = Links(job, media)

    @staticmethod
    def manifest_identifier(mark: str) -> str:
        """The identifier of the manifest, which begins with the word of the host."""
        own = identifier("the manifest")
        return f"{mark}-{own}" if mark else own

    def head(self) -> str:
        """The beginning of the manifest, with the metadata."""
        raise NotImplementedError

    def media(self, media: Media) -> Iterable[Problem]:
        """The resource of a file."""
        if media.path:
            path = media.path
            self.listed.add(Written(identifier(f"file {path}"), "webcontent", path, (path,)))
        return ()

    def finish(self) -> None:
        """Write the manifest."""
        organisation = (
            f'identifier="{identifier("the organisation")}" structure="{self.structure}"'
        )
        with self.output.open("imsmanifest.xml") as stream:
            manifest_writer.write(stream, self.head(), organisation, self.listed)

    def place(self, entry: Entry, resource: str) -> None:
        """Put an entry at its place in the course; `resource` is its identifier, empty for a heading."""
        is_visible = entry.status == "published"
        standing = Standing(
            entry.key, entry.parent, entry.position, entry.title, resource, is_visible
        )
        self.listed.place(standing)

    def write(self, name: str, pieces: Iterable[str]) -> None:
        """Write a file of the package."""
        with self.output.open(name) as stream:
            for piece in pieces:
                stream.write(piece.encode("utf-8", "replace"))

    def file_name(self, bundle: Bundle, kind: str) -> str:
        """The name of an XML file for an entry; these lie at the top, as what their links start from."""
        return f"{kind}-{name_of(bundle.new_address, bundle.entry.key)}.xml"

    def page(self, bundle: Bundle) -> str:
        """Write the HTML page of an entry; gives the identifier of its resource."""
        entry = bundle.entry
        own = f"{PAGES}/{name_of(bundle.new_address, entry.key)}.html"
        name = self.links.path(bundle.new_address) or own
        linked = self.links.of(entry.body.text, "../")
        self.write(name, [page(bundle, linked.text, self.job.site)])
        self.listed.add(
            Written(identifier(entry.key), "webcontent", name, (name,), linked.files)
        )
        return identifier(entry.key)

    def second_place(self, bundle: Bundle) -> str:
        """For an entry that is only a link to a page of the course: that page's resource; else empty."""
        path = self.links.only_link(bundle.entry.body.text)
        return f"{BY_PATH}{path}" if path else ""

    def noted_links(self, before: str) -> tuple[Callable[[Body], str], dict[str, None]]:
        """What gives bodies with the links of the package, and the paths that these refer to, filled meanwhile."""
        files: dict[str, None] = {}

        def html(body: Body) -> str:
            linked = self.links.of(body.text, before)
            files.update(dict.fromkeys(linked.files))
            return linked.text

        return html, files
