"""A course as a package with a manifest: IMS Content Packaging 1.1.4 and 1.2, with QTI 2.1."""

from __future__ import annotations

from newburrow.formats.base import Job, Output, Writer
from newburrow.formats.cartridge import CourseManifest
from newburrow.formats.package.writer import PackageWriter
from newburrow.intake.head import Head


class ContentPackage(CourseManifest):
    """A content package."""

    name = "content-package"
    title = "Content Packaging 1.1.4 and 1.2 with QTI (1EdTech)"

    def recognise(self, head: Head) -> bool:
        """Whether it is the manifest of a package that is no cartridge."""
        return self.is_root(head) and not self.names_cartridge(head)

    def write(self, output: Output, job: Job) -> Writer:
        """A writer for one course."""
        return PackageWriter(output, job)


FORMAT = ContentPackage()
