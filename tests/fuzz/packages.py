"""Packages of courses to begin from: the demo's, of which one file at a time is changed."""

import tempfile
import zipfile
from collections.abc import Callable
from functools import lru_cache
from pathlib import Path

from newburrow.demo import course
from newburrow.formats.exports import detection, export_records
from newburrow.intake.budget import ReadingLimits
from tests.formats.cartridge.packages import content_package, resource

MANIFEST = "imsmanifest.xml"
_LIMITS = ReadingLimits(unpacked=20_000_000, files=2000)
_LONGEST = 20_000  # bytes of a file to begin from
ITEM, QUIZ = "imsqti_item_xmlv2p1", "imsqti_xmlv1p2/imscc_xmlv1p3/assessment"


@lru_cache
def files(host: str) -> dict[str, bytes]:
    """The XML files of the demo's course as a host exports it: name -> bytes."""
    with tempfile.TemporaryDirectory() as name:
        path = Path(name) / "course.zip"
        course.write(course.build(), host, path)
        with zipfile.ZipFile(path) as archive:
            return {
                name: archive.read(name) for name in archive.namelist() if name.endswith(".xml")
            }


def seeds(host: str, marks: bytes) -> list[bytes]:
    """Those that hold some bytes, from the start as far as inputs go."""
    return [data[:_LONGEST] for data in files(host).values() if marks in data]


def as_file(kind: str) -> Callable[[bytes, Path], object]:
    """Read a package that has one file of a kind of resource."""

    def run(data: bytes, folder: Path) -> object:
        (folder / MANIFEST).write_text(content_package(resource("r", kind, "file.xml")))
        (folder / "file.xml").write_bytes(data)
        return _read(folder)

    return run


def as_manifest(host: str) -> Callable[[bytes, Path], object]:
    """Read the package of the demo with another manifest."""

    def run(data: bytes, folder: Path) -> object:
        for name, own in files(host).items():
            path = folder / name
            path.parent.mkdir(parents=True, exist_ok=True)
            if not path.exists():
                path.write_bytes(own)
        (folder / MANIFEST).write_bytes(data)
        return _read(folder)

    return run


def _read(folder: Path) -> int:
    request = detection.ExportRequest((), limits=_LIMITS)
    export = detection.examine(folder, request=request)
    return sum(1 for _record in export_records.records(export))
