"""What the writers of packages with a manifest have in common: files, pages, and the manifest at the end."""

from __future__ import annotations

from collections.abc import Callable, Iterable

import msgspec
from msgspec import Struct

from newburrow.core.problem import Problem
from newburrow.formats.base import Job, Output
from newburrow.formats.cartridge import manifest_writer
from newburrow.formats.cartridge.kinds import is_page
from newburrow.formats.cartridge.package_files import (
    PAGES,
    Links,
    PackageList,
    Standing,
    Written,
    identifier,
    identifier_of_file,
    name_of,
)
from newburrow.formats.cartridge.small_files_writer import TOOL_FACT, page
from newburrow.formats.xml_output import text
from newburrow.model import Body, Entry, Media
from newburrow.model.bundle import Bundle

# Fields that an assignment has a place for, and those of a tool, which is a link.
_OF_ASSIGNMENTS = ("points", "graded", "hand_in", "for_teachers", "tool")


class CourseOptions(Struct, frozen=True, forbid_unknown_fields=True):
    """The [write] table of a host that takes packages with a manifest."""

    media: str = "files"  # the folder of files, as media.folder has it
    mark: str = ""  # the word that the identifier of the manifest begins with
    zip: str = ""  # name of the zip in which all of it is handed over; empty: a folder


class CourseWriter:
    """The base of these writers. A subclass says `head`, and hands each entry to `place`."""

    structure = ""  # of the organisation
    lom = ""  # namespace of what is known of a resource
    associated = ""  # type of a page that belongs to others and is none of the course
    string = ""  # the element that holds a text there

    def __init__(self, output: Output, job: Job) -> None:
        self.output, self.job = output, job
        self.options = msgspec.convert(job.options, CourseOptions)
        self.listed = PackageList()
        self.links = Links(job, self.options.media)

    def manifest_identifier(self) -> str:
        """The identifier of the manifest, which begins with the word of the host."""
        own = identifier("the manifest")
        if self.options.mark:
            return f"{self.options.mark}-{own}"
        return own

    def head(self) -> str:
        """The beginning of the manifest, with the metadata."""
        raise NotImplementedError

    def media(self, media: Media) -> Iterable[Problem]:
        """The resource of a file."""
        if media.path:
            path = media.path
            known = self._facts(media)
            kind = self.associated if is_page(path) else "webcontent"
            self.listed.add(Written(identifier_of_file(path), kind, path, (path,), (), known))
        return ()

    def finish(self) -> None:
        """Write the manifest."""
        organisation = (
            f'identifier="{identifier("the organisation")}" structure="{self.structure}"'
        )
        with self.output.open("imsmanifest.xml") as stream:
            manifest_writer.write(stream, self.head(), organisation, self.listed)
        self.listed.close()

    def _facts(self, media: Media) -> str:
        """Title, caption and alternative text of a file (LOM sections 1.2, 1.4 and 8.3)."""
        general = "".join(
            self._text(name, words)
            for name, words in (("title", media.title), ("description", media.caption))
            if words
        )
        if not general and not media.alternative_text:
            return ""
        if media.alternative_text:
            note = self._text("description", media.alternative_text)
        else:
            note = ""
        return (
            f'<metadata>\n<lom xmlns="{self.lom}">\n'
            + (f"<general>\n{general}</general>\n" if general else "")
            + (f"<annotation>\n{note}</annotation>\n" if note else "")
            + "</lom>\n</metadata>\n"
        )

    def _text(self, name: str, words: str) -> str:
        return f"<{name}>\n<{self.string}>{text(words)}</{self.string}>\n</{name}>\n"

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

    @staticmethod
    def lost(bundle: Bundle) -> Iterable[Problem]:
        """What an entry says that only a page has a place for."""
        entry = bundle.entry
        facts = {
            "summary": entry.summary,
            "authors": ", ".join(author.name for author in bundle.authors),
            "terms": ", ".join(term.name for term in bundle.terms),
            "files": ", ".join(file.address for file in bundle.enclosures),
            "fields": ", ".join(
                f"{name}: {value}"
                for name, value in entry.fields.items()
                if name not in _OF_ASSIGNMENTS and not name.startswith(TOOL_FACT)
            ),
        }
        for name, value in facts.items():
            if value:
                yield Problem.about(
                    entry, "fact-without-place", value, fact=name, kind=entry.kind
                )

    def page(self, bundle: Bundle) -> str:
        """Write the HTML page of an entry; gives the identifier of its resource."""
        entry = bundle.entry
        own = f"{PAGES}/{name_of(bundle.new_address, entry.key)}.html"
        name = self.links.path(bundle.new_address) or own
        linked = self.links.of(entry.body.text, "../")
        self.write(name, [page(bundle, linked.text, self.job.site)])
        id_ = identifier_of_file(name)
        self.listed.add(Written(id_, "webcontent", name, (name,), linked.files))
        return id_

    def second_place(self, bundle: Bundle) -> str:
        """For an entry that is only a link to a page of the course: that page's resource; else empty."""
        path = self.links.only_link(bundle.entry.body.text)
        if path:
            return identifier_of_file(path)
        return ""

    def noted_links(self, before: str) -> tuple[Callable[[Body], str], dict[str, None]]:
        """What gives bodies with the links of the package, and the paths that these refer to, filled meanwhile."""
        files: dict[str, None] = {}

        def html(body: Body) -> str:
            linked = self.links.of(body.text, before)
            files.update(dict.fromkeys(linked.files))
            return linked.text

        return html, files
