"""Archives: recognised by their first bytes, and opened as the files in them.

An archive is hostile: names are never used as paths, links and devices are left out, and what would fill
the disk or the memory is refused while it is read, by the budget of the source.
"""

from __future__ import annotations

import lzma
import struct
import tarfile
import tempfile
import zipfile
import zlib
from collections.abc import Callable, Iterable, Sequence
from typing import BinaryIO, cast

from msgspec.structs import replace

from newburrow.core.problem import BurrowError, refusal
from newburrow.intake import compressed, tars, warcs, zips
from newburrow.intake.archive_member import ArchiveMember, LockedMember
from newburrow.intake.budget import Budget
from newburrow.intake.held_file import HeldFile, HeldView
from newburrow.intake.part import Contents, LeftOut, Part, junk, numbered_name
from newburrow.model.record import Where

# office files, books, programs
_DOCUMENTS = {
    "[Content_Types].xml",
    "mimetype",
    "META-INF/MANIFEST.MF",
}
_BLOCK = 1 << 18
_WEB_ARCHIVES = (".warc", ".warc.gz")
_BETWEEN_WARCS = (
    b"\r\n\r\n"  # so that a file that is cut off does not hide the first record of the next
)
_UNSUPPORTED = {b"7z\xbc\xaf\x27\x1c": "7z", b"Rar!\x1a\x07": "RAR"}
_BROKEN = (
    zipfile.BadZipFile,
    tarfile.TarError,
    zlib.error,
    lzma.LZMAError,
    EOFError,
    OSError,
    ValueError,
    NotImplementedError,
    struct.error,
)


def kind_of(start: bytes) -> str:
    """The kind by the first bytes (at least 512 for a tar), or empty.

    The kinds are `zip`, `tar`, `warc`, `gzip`, `bzip2` and `xz`.
    """
    if start[:4] in (b"PK\3\4", b"PK\5\6"):
        return "zip"
    if tars.is_tar(start):
        return "tar"
    if warcs.is_warc(start):
        return "warc"
    return compressed.kind_of(start)


def unsupported_kind(start: bytes) -> str:
    """The name of an archive format that is recognised and not read; empty for anything else."""
    return next((kind for mark, kind in _UNSUPPORTED.items() if start.startswith(mark)), "")


def unpacked(part: Part, kind: str, budget: Budget) -> Contents:
    """The files in an archive (zip or tar, also compressed), in order of their names.

    Nothing is written to disk under a name of the archive. Raises BurrowError if the archive is damaged or
    costs more than the budget of its source.
    """
    try:
        if kind == "zip":
            held = HeldFile(part.seekable())
            with held:
                budget.file(part.label, zips.listed(held.file))
                return _contents(part, zips.members(held), budget)
        if kind == "tar":
            return _in_tar(part, budget)
        if kind == "warc":
            return _in_warc(part, HeldFile(part.seekable()), budget)
        if kind == "gzip":
            with part.open() as packed:
                is_warc = warcs.is_packed_warc(packed)
            if is_warc:
                return _in_packed_warc(part, budget)
        return _in_compressed(part, kind, budget)
    except _BROKEN as error:
        raise _damaged(kind, error, part.label) from None


def _in_tar(part: Part, budget: Budget) -> Contents:
    held = HeldFile(part.seekable())
    with held:
        return _contents(part, tars.members(held, lambda: budget.file(part.label)), budget)


def _in_packed_warc(part: Part, budget: Budget) -> Contents:
    held = HeldFile(cast(BinaryIO, tempfile.TemporaryFile()))  # noqa: SIM115 (`held` closes it)
    with held, part.open() as packed:
        warcs.unpack(packed, held.file, budget.meter(part.label))
    return _in_warc(part, held, budget)


def _in_warc(part: Part, held: HeldFile, budget: Budget) -> Contents:
    """What the addresses in a web archive answered last; `held` has it unpacked, `part` its label."""
    with held:
        found, answers = warcs.members(held, lambda: budget.file(part.label))
    return replace(_contents(part, found, budget), answers=tuple(answers))


def with_one_web_archive(contents: Contents, budget: Budget) -> Contents:
    """The same, with what the addresses answered in the place of several web archives: a crawl writes several files.

    An answer may repeat one that is in another file (ISO 28500:2017, section 6.7), and the latest answer of an address
    may be in any of them. One archive by itself stays as it is. Raises BurrowError where they cost more than the
    budget.
    """
    found = [part for part in contents.parts if _is_warc(part)]
    if len(found) < 2:
        return contents
    held = HeldFile(cast(BinaryIO, tempfile.TemporaryFile()))  # noqa: SIM115 (`held` closes it)
    with held:
        for part in found:
            _append_warc(part, held.file, budget)
    label = f"{found[0].label} and {len(found) - 1} more"
    made = _in_warc(Part("", -1, label, found[0].opener), held, budget)
    others = [part for part in contents.parts if part not in found]
    seen = dict.fromkeys([part.name for part in others], 1)
    parts = [replace(part, name=numbered_name(part.name, seen)) for part in made.parts]
    return Contents(
        tuple(sorted([*others, *parts], key=lambda part: part.name)),
        (*contents.left_out, *made.left_out),
        made.answers,
        tuple(part.name for part in found),
    )


def _is_warc(part: Part) -> bool:
    if not part.name.lower().endswith(_WEB_ARCHIVES):
        return False
    try:
        with part.open() as stream:
            start = stream.read(512)
        if kind_of(start) == "warc":
            return True
        with part.open() as stream:
            return warcs.is_packed_warc(stream)
    except BurrowError:
        return False


def _append_warc(part: Part, target: BinaryIO, budget: Budget) -> None:
    """Add a web archive, unpacked, to the file that holds them all."""
    begin = target.tell()
    meter = budget.meter(part.label)
    with part.open() as stream:
        is_packed = kind_of(stream.read(512)) != "warc"
    with part.open() as stream:
        if is_packed:
            warcs.unpack(stream, target, meter)
        else:
            while block := stream.read(_BLOCK):
                target.write(block)
                meter(target.tell() - begin)
    target.write(_BETWEEN_WARCS)


def _in_compressed(part: Part, kind: str, budget: Budget) -> Contents:
    """The files of a tar, or the one file; unpacked into a temporary file without a name."""
    held = HeldFile(cast(BinaryIO, tempfile.TemporaryFile()))  # noqa: SIM115 (`held` closes it)
    meter = budget.meter(part.label)
    size = 0
    with held:
        with part.open() as packed, compressed.unpacking(kind, packed) as stream:
            while block := stream.read(_BLOCK):
                size += len(block)
                meter(size)
                held.file.write(block)
        held.file.seek(0)
        start = held.file.read(512)
    name = compressed.unpacked_name(part.name).rpartition("/")[2]
    inner = Part(name, size, part.label, lambda: cast(BinaryIO, HeldView(held)))
    if tars.is_tar(start):
        return _in_tar(inner, budget)
    budget.file(part.label)
    return Contents((inner,))


def is_one_file(kind: str, name: str, contents: Contents) -> bool:
    """Whether what an archive of this kind and name holds is one file, which was compressed by itself."""
    if kind not in compressed.KINDS or len(contents.parts) != 1:
        return False
    own = compressed.unpacked_name(name).rpartition("/")[2]
    return contents.parts[0].name == own and not contents.answers


def _contents(part: Part, members: Iterable[ArchiveMember], budget: Budget) -> Contents:
    """The members of an archive as parts of the source."""
    found, left_out = [], []
    seen: dict[str, int] = {}
    for member in members:
        name = numbered_name(member.name, seen)
        label = f"{name} in {part.label}"
        if why := member.not_read or junk(name):
            left_out.append(LeftOut(name, label, why, member.target))
        else:
            opener = _opener(member, label)
            meter = budget.meter(label)
            found.append(
                Part(
                    name,
                    member.size,
                    label,
                    opener,
                    meter=meter,
                    address=member.address,
                    charset=member.charset,
                )
            )
    return Contents(tuple(found), tuple(left_out))


def _opener(member: ArchiveMember, label: str) -> Callable[[], BinaryIO]:
    def opener() -> BinaryIO:
        try:
            return member.opener()
        except LockedMember:
            raise refusal(
                "encrypted",
                "The file is locked with a password.",
                "Unpack the archive with its password and hand in the folder.",
                Where(label),
            ) from None

    return opener


def _damaged(kind: str, error: Exception, label: str) -> BurrowError:
    words = str(error).rstrip(".").lower() or "it ends too early"
    if words == "file is not a zip file":  # it begins like one
        words = "it was cut off, and the list of its files, which stands at the end, is missing"
    return refusal(
        "damaged",
        f"The {kind} is damaged: {words}.",
        "Download the export again; if it came in several downloads, all of them are needed.",
        Where(label),
    )


def is_document(parts: Sequence[Part]) -> bool:
    """Whether a zip is a document or a program rather than a bundle of files."""
    return any(part.name in _DOCUMENTS for part in parts)
