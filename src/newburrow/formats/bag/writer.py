"""Writing a bag: the records by type, the digest of each file, and the manifests at the end."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable
from typing import Any, BinaryIO

import msgspec
from msgspec import NODEFAULT, Struct
from msgspec.structs import fields, replace

from newburrow.core.problem import Problem
from newburrow.dialects.schema import Dialect
from newburrow.formats.base import Files
from newburrow.model import Author, Media, MenuItem, Record, Revision, Site, Term
from newburrow.model.bundle import Bundle
from newburrow.model.record_types import all_types, table_of

FOLDER = "content-model"
# dialects: what the old host's words, macros and archives mean, kept with the content
DIALECTS = "dialects"
MARK = b'{"content_model":1,'


def plain(record: Struct) -> dict[str, Any]:
    """What a record says, without what it says by default: equal records are written in equal bytes.

    Of itself the encoder leaves out a default only where it is the very same object.
    """
    names = {}
    for field in fields(record):
        value = getattr(record, field.name)
        if field.default is NODEFAULT and field.default_factory is not NODEFAULT:
            default = field.default_factory()
        else:
            default = field.default
        if value != default:
            if isinstance(value, Struct):
                names[field.encode_name] = plain(value)
            else:
                names[field.encode_name] = value
    return names


class BagWriter:
    """One bag being written. Files of media are written by whoever has them, to `data/` and their path."""

    def __init__(
        self,
        output: Files,
        site: Site,
        dialects: Iterable[Dialect] = (),
        menus: Iterable[MenuItem] = (),
        terms: Iterable[Term] = (),
    ) -> None:
        self._output = output
        self._encode = msgspec.json.Encoder(order="deterministic").encode
        self._files: dict[str, _DigestedFile] = {}  # type -> its file
        self._digests: dict[str, tuple[str, int]] = {}  # path below the bag -> digest, bytes
        self._written: set[str] = set()  # authors and terms, which are few
        for record_type in all_types():
            # a file of each type; an empty one shows that there are none
            if record_type.planned:
                self._open(record_type.table)
        self._files[DIALECTS] = _DigestedFile(output.open(f"data/{FOLDER}/{DIALECTS}.jsonl"))
        for dialect in dialects:
            self._files[DIALECTS].write(self._encode(dialect) + b"\n")
        if site != Site(key="site"):
            self.record(site)
        for item in menus:
            self.record(item)
        for term in terms:
            self._once(term)

    def _open(self, table: str) -> None:
        self._files[table] = _DigestedFile(self._output.open(f"data/{FOLDER}/{table}.jsonl"))
        self._files[table].write(MARK + b'"type":"' + table.encode() + b'"}\n')

    def record(self, record: Record) -> None:
        """Write one record; of a media that has a file, the manifest lists it too."""
        table = table_of(type(record))
        if table not in self._files:
            self._open(table)
        self._files[table].write(self._encode(plain(record)) + b"\n")
        if isinstance(record, Media) and record.path:
            self._digests[f"data/{record.path}"] = (record.digest, record.size)

    def entry(self, bundle: Bundle) -> Iterable[Problem]:
        """An entry at its new address, with the authors, terms and comments that are on it."""
        for author in bundle.authors:
            self._once(author)
        for term in bundle.terms:
            self._once(term)
        lead = bundle.lead_picture
        self.record(
            replace(
                bundle.entry,
                permalink=bundle.new_address,
                addresses=(),
                authors=tuple(author.key for author in bundle.authors),
                terms=tuple(term.key for term in bundle.terms),
                enclosures=tuple(
                    enclosure.key or enclosure.address for enclosure in bundle.enclosures
                ),
                lead_picture=(lead.key or lead.address) if lead else "",
            )
        )
        for record in (*bundle.comments, *bundle.questions):
            self.record(record)
        return ()

    def revision(self, revision: Revision, _new_address: str) -> Iterable[Problem]:
        """The record of one state of an entry."""
        self.record(revision)
        return ()

    def _once(self, record: Author | Term) -> None:
        mark = f"{type(record).__name__} {record.key}"
        if mark not in self._written:
            self._written.add(mark)
            self.record(record)

    def media(self, media: Media) -> Iterable[Problem]:
        """The record of a file; its path is relative to the payload."""
        self.record(replace(media, path=media.path.removeprefix("data/"), addresses=()))
        return ()

    def finish(self) -> None:
        """Write the manifests and what a bag says of itself (RFC 8493 sections 2.1 and 2.2)."""
        for name, file in self._files.items():
            file.close()
            self._digests[f"data/{FOLDER}/{name}.jsonl"] = (file.digest.hexdigest(), file.size)
        total = sum(size for _digest, size in self._digests.values())
        tags = {
            "bagit.txt": "BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n",
            "bag-info.txt": f"Bag-Software-Agent: New Burrow\nPayload-Oxum: {total}.{len(self._digests)}\n",
            "manifest-sha256.txt": "".join(
                f"{digest}  {_encoded(name)}\n"
                for name, (digest, _size) in sorted(self._digests.items())
            ),
        }
        listed = "".join(
            f"{hashlib.sha256(text.encode()).hexdigest()}  {name}\n"
            for name, text in sorted(tags.items())
        )
        for name, text in (*tags.items(), ("tagmanifest-sha256.txt", listed)):
            with self._output.open(name) as stream:
                stream.write(text.encode("utf-8", "surrogateescape"))


class _DigestedFile:
    """A file that knows its digest and size while it is written."""

    def __init__(self, stream: BinaryIO) -> None:
        self.stream, self.digest, self.size = stream, hashlib.sha256(), 0

    def write(self, data: bytes) -> None:
        self.stream.write(data)
        self.digest.update(data)
        self.size += len(data)

    def close(self) -> None:
        self.stream.close()


def _encoded(name: str) -> str:
    """A path with its line ends and percent signs encoded (RFC 8493 section 2.1.3)."""
    return name.replace("%", "%25").replace("\n", "%0A").replace("\r", "%0D")
