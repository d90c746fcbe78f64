"""Writing the demo site as the export of a stand-in platform, by a template of that platform."""

from __future__ import annotations

import zipfile
from email.utils import format_datetime
from pathlib import Path

from jinja2 import Environment, FileSystemLoader, StrictUndefined

from newburrow.demo.orchard import Orchard, build

_DATE = (2026, 11, 1, 8, 0, 0)  # of all files in the zip, so that two zips are the same


def document(orchard: Orchard) -> str:
    """The export's XML, as the platform named by the demo data writes it."""
    environment = Environment(
        loader=FileSystemLoader(Path(__file__).parent),
        autoescape=True,
        undefined=StrictUndefined,
        keep_trailing_newline=True,
    )
    template = environment.get_template(f"{orchard.dialect}.xml.j2")
    return template.render(
        site=orchard.site,
        authors=orchard.authors,
        terms=orchard.terms,
        entries=orchard.entries,
        lines=orchard.lines,
        pictures=[picture.media for picture in orchard.pictures],
        mail_date=format_datetime,
    )


def write(path: Path) -> Orchard:
    """Write the export of the demo site as a zip, with its pictures; the same bytes every time."""
    orchard = build()
    with zipfile.ZipFile(path, "w") as archive:
        add(
            archive,
            "export/mistlebank.xml",
            document(orchard).encode("utf-8"),
            zipfile.ZIP_DEFLATED,
        )
        for picture in orchard.pictures:
            add(archive, f"export/{picture.media.path}", picture.data, zipfile.ZIP_STORED)
    return orchard


def add(archive: zipfile.ZipFile, name: str, data: bytes, how: int) -> None:
    """Add a file to an archive, compressed as `how` says, with a date that is always the same."""
    info = zipfile.ZipInfo(name, _DATE)
    info.compress_type = how
    info.external_attr = 0o644 << 16
    archive.writestr(info, data)
