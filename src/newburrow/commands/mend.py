"""Mending an export: one file, or an archive of which each XML and JSON file is mended and everything else moves."""

from __future__ import annotations

import shutil
import zipfile
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import BinaryIO, cast

from newburrow.core.problem import refusal
from newburrow.intake.budget import USUAL, ReadingLimits
from newburrow.intake.opening import open_source
from newburrow.intake.part import Part
from newburrow.intake.repair.json_repair import check_json, is_json, mend_json
from newburrow.intake.repair.record import Tell
from newburrow.intake.repair.xml_repair import check, mend

_XML_NAMES = (".xml", ".rss", ".atom", ".rdf")
_XML_STARTS = (b"<?xml", b"<rss", b"<feed", b"<rdf:RDF")


def mend_path(path: Path, out: Path, tell: Tell, limits: ReadingLimits = USUAL) -> int:
    """Write what lies at a path to `out`, mended; gives the number of files that needed it.

    Raises BurrowError where `out` exists already, or where the result would still not be well-formed.
    """
    if out.exists():
        raise refusal(
            "file-in-use",
            f"{str(out)!r} exists already; it is left alone.",
            "Give another name for -o.",
        )
    source = open_source(path, limits)
    if path.is_dir():
        raise refusal(
            "is-a-folder",
            f"{str(path)!r} is a folder.",
            "Mend the file in it that is not well-formed.",
        )
    try:
        if len(source.parts) == 1 and source.parts[0].label == path.name:
            return _mend_file(source.parts[0], out, tell)
        return _mend_archive(source.parts, out, tell)
    except BaseException:
        out.unlink(missing_ok=True)
        raise


def is_xml(part: Part) -> bool:
    """Whether a file is XML, or was before it broke."""
    with part.open() as stream:
        start = stream.read(4096)
    return part.name.lower().endswith(_XML_NAMES) or any(mark in start for mark in _XML_STARTS)


def _mend_file(part: Part, out: Path, tell: Tell) -> int:
    if not is_xml(part) and not is_json(part):
        raise refusal(
            "nothing-to-mend",
            "This is neither XML nor JSON, and nothing else can be mended.",
            "Hand in the XML or JSON file of the export.",
        )
    with out.open("wb") as target:
        changed = _mend(part, target, tell)
    _check(part, lambda: out.open("rb"), f"{out.name} (what {part.label} was mended to)")
    return int(changed)


def _mend(part: Part, target: BinaryIO, tell: Tell) -> bool:
    if is_xml(part):
        return mend(part, target, tell)
    return mend_json(part, target, tell)


def _check(part: Part, open_file: Callable[[], BinaryIO], label: str) -> None:
    if is_xml(part):
        check(open_file, label)
    else:
        check_json(open_file, part, label)


def _mend_archive(parts: tuple[Part, ...], out: Path, tell: Tell) -> int:
    count = 0
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for part in parts:
            info = zipfile.ZipInfo(part.name, (1980, 1, 1, 0, 0, 0))
            info.compress_type = zipfile.ZIP_DEFLATED
            with archive.open(info, "w", force_zip64=True) as target:
                if is_xml(part) or is_json(part):
                    count += _mend(part, cast(BinaryIO, target), tell)
                else:
                    with part.open() as stream:
                        shutil.copyfileobj(stream, target, 1 << 18)
    with zipfile.ZipFile(out) as archive:
        for part in parts:
            if is_xml(part) or is_json(part):
                _check(
                    part,
                    cast(Callable[[], BinaryIO], partial(archive.open, part.name)),
                    f"{part.name} in {out.name}",
                )
    return count
