"""BagIt bags (RFC 8493): checked against their manifests, then seen as the payload that they hold."""

from __future__ import annotations

import codecs
import hashlib
import re
from collections.abc import Sequence
from urllib.parse import unquote

from msgspec.structs import replace

from newburrow.core.problem import BurrowError, refusal
from newburrow.intake.part import Contents, LeftOut, Part
from newburrow.model.record import Where

# the best first; one complete manifest is enough (section 2.1.3)
_ALGORITHMS = (
    "sha512",
    "sha256",
    "sha1",
    "md5",
)
_PAYLOAD = "data/"
_TAG_FILES = re.compile(r"(bagit|bag-info|fetch|(tag)?manifest-\w+)\.txt")  # section 2
_MOST = 64 * 1024 * 1024  # bytes of a manifest


def payload(parts: Sequence[Part]) -> Contents:
    """The parts as they are, or those in a bag's payload under their names there.

    A bag is one only as the whole source: a bag among other files is a folder of files.
    Raises BurrowError where a bag is not complete or a file is not what its manifest says (section 3).
    """
    mark = next((part for part in parts if _at_the_top(part, parts)), None)
    if mark is None:
        return Contents(tuple(parts))
    root = mark.name.removesuffix("bagit.txt")
    inside = {
        part.name.removeprefix(root): part for part in parts if part.name.startswith(root)
    }
    manifests = [name for name in _ALGORITHMS if f"manifest-{name}.txt" in inside]
    if not manifests:
        raise _not_whole("it has no manifest in a digest that is known here", mark.label)
    for kind in ("manifest", "tagmanifest"):
        for algorithm in _ALGORITHMS:
            listed = inside.get(f"{kind}-{algorithm}.txt")
            if listed:
                _check(listed, algorithm, inside, kind == "manifest")
                break
    found, left_out = [], []
    for name, part in inside.items():
        if name.startswith(_PAYLOAD):
            found.append(replace(part, name=name.removeprefix(_PAYLOAD)))
        elif not _TAG_FILES.fullmatch(name):
            left_out.append(
                LeftOut(part.name, part.label, "stands beside the payload of a bag")
            )
    return Contents(tuple(found), tuple(left_out))


def is_mark(part: Part) -> bool:
    """Whether a file is the declaration of a bag (section 2.1.1)."""
    if part.name.rpartition("/")[2] != "bagit.txt":
        return False
    with part.open() as stream:
        return stream.read(20).removeprefix(codecs.BOM_UTF8).startswith(b"BagIt-Version:")


def _at_the_top(part: Part, parts: Sequence[Part]) -> bool:
    """Whether a part is the mark of a bag that is the whole source: at its root, or in the only folder there."""
    folder = part.name.rpartition("/")[0]
    if "/" in folder or not is_mark(part):
        return False
    return not folder or all(other.name.startswith(f"{folder}/") for other in parts)


def _check(manifest: Part, algorithm: str, inside: dict[str, Part], is_payload: bool) -> None:
    """Hold the files of a bag against one manifest."""
    digests: dict[str, str] = {}
    with manifest.open() as stream:
        text = (
            stream.read(_MOST)
            .decode("utf-8", "replace")
            .removeprefix("\N{ZERO WIDTH NO-BREAK SPACE}")
        )
    for number, line in enumerate(text.splitlines(), 1):
        digest, _space, name = line.strip().partition(" ")
        if digest:
            digests[_plain(name)] = digest.lower()
            if not name.strip():
                raise _not_whole("a line names no file", manifest.label, number)
    for name, digest in digests.items():
        part = inside.get(name)
        if part is None:
            raise _not_whole(f"{name} is missing", manifest.label)
        if _digest(part, algorithm) != digest:
            raise _not_whole(f"{name} is not what it was when the bag was made", part.label)
    if is_payload:
        for name, part in inside.items():
            if name.startswith(_PAYLOAD) and name not in digests:
                raise _not_whole(f"{name} is in it but not in its manifest", part.label)


def _plain(name: str) -> str:
    """A path as it is; only line ends and the percent sign are encoded (section 2.1.3)."""
    name = name.strip().removeprefix("*").removeprefix("./")
    if any(code in name.upper() for code in ("%0A", "%0D", "%25")):
        return unquote(name)
    return name


def _digest(part: Part, algorithm: str) -> str:
    digest = hashlib.new(algorithm, usedforsecurity=False)
    with part.open() as stream:
        while block := stream.read(1 << 18):
            digest.update(block)
    return digest.hexdigest()


def _not_whole(fault: str, label: str, line: int = 0) -> BurrowError:
    return refusal(
        "bag-not-whole",
        f"The bag is not complete: {fault}.",
        "Copy it again from where it was kept.",
        Where(label, line),
    )
