"""A course as a package with a manifest: Common Cartridge 1.0 to 1.3 (1EdTech), with QTI 1.2."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence
from typing import Any

import msgspec

from newburrow.core.problem import Problem
from newburrow.formats.base import Format, Input, Job, Output, Writer
from newburrow.formats.cartridge import reader
from newburrow.formats.cartridge.course_writer import CourseOptions
from newburrow.formats.cartridge.manifest import FILE_NAME, ROOT, read_manifest, site_of
from newburrow.formats.cartridge.package_files import identifier
from newburrow.formats.cartridge.writer import CartridgeWriter
from newburrow.intake.head import Head
from newburrow.intake.part import Part
from newburrow.model import Site
from newburrow.model.reading import Item

_CARTRIDGE = ("/imsccv1p", "/imscc/")


class CourseManifest(Format):
    """A package that a manifest describes; the base of those for courses."""

    manifest = FILE_NAME
    has_parts = False
    has_questions = True
    always_said = ("quiz: section titles",)
    never_said = ("address",)  # of what is no page

    def check_options(self, options: dict[str, Any]) -> None:
        """Check the options of `write`. Raises msgspec.ValidationError if one is unknown or wrong."""
        msgspec.convert(options, CourseOptions)

    def read(self, source: Input) -> Iterator[Item | Problem]:
        """The modules, pages, quizzes and questions of the course, and what else is in the package."""
        return reader.read(source)

    def site_of(self, parts: Sequence[Part], files: Collection[str]) -> Site | None:
        """The course as its manifest names it."""
        return site_of(read_manifest(parts[0].open, parts[0].label))

    def written_name(self, key: str) -> str:
        """The identifier of the item of a question."""
        return identifier(key)

    @staticmethod
    def names_cartridge(head: Head) -> bool:
        """Whether a manifest is that of a Common Cartridge."""
        named = b"cartridge" in head.start[:4096].lower()
        spaces = head.prolog.namespaces if head.prolog else ()
        return named or any(mark in space for space in spaces for mark in _CARTRIDGE)

    @staticmethod
    def is_root(head: Head) -> bool:
        """Whether a part is a manifest."""
        return head.prolog is not None and head.prolog.root.rpartition("}")[2] == ROOT


class Cartridge(CourseManifest):
    """Common Cartridge."""

    name = "common-cartridge"
    title = "Common Cartridge 1.0 to 1.3 (1EdTech)"

    def recognise(self, head: Head) -> bool:
        """Whether it is the manifest of a cartridge."""
        return self.is_root(head) and self.names_cartridge(head)

    def write(self, output: Output, job: Job) -> Writer:
        """A writer for one course."""
        return CartridgeWriter(output, job)


FORMAT = Cartridge()
