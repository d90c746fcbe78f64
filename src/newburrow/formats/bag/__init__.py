"""Our own interchange: a BagIt bag (RFC 8493) with the content model in JSON Lines and the files as they are.

Each payload file `content-model/TYPE.jsonl` begins with a line that says what it is; each further line is a record.
Files lie under the paths that their media records say. The bag itself is checked where it is opened.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import msgspec

from newburrow.core.problem import Problem, refusal
from newburrow.core.suggestions import suggest
from newburrow.dialects.schema import Dialect
from newburrow.formats.bag.writer import DIALECTS, FOLDER, MARK, BagWriter
from newburrow.formats.base import Format, Input, Job, Output, Writer
from newburrow.formats.json_stream import not_json
from newburrow.intake.head import Head
from newburrow.intake.part import Part
from newburrow.model.reading import Item
from newburrow.model.record_types import all_types


class Bag(Format):
    """A bag of records."""

    name = "bag"
    has_menus, has_history, has_parts = True, True, False
    title = "a BagIt bag of New Burrow (RFC 8493)"

    def recognise(self, head: Head) -> bool:
        """Whether the first line says that records of the content model follow."""
        return head.start.startswith(MARK) and FOLDER in head.name

    def read(self, source: Input) -> Iterator[Item | Problem]:
        """Each record as it was written."""
        first = source.stream.readline()
        try:
            header = msgspec.json.decode(first)
            name = str(header["type"])
        except (msgspec.DecodeError, KeyError, TypeError, UnicodeDecodeError):
            raise not_json(
                source.label, "the first line does not say what follows", 1
            ) from None
        known = {record_type.table: record_type.record for record_type in all_types()}
        if name not in known:
            advice = suggest(name, known, "The types are")
            raise refusal("wrong-value", f"There is no type {name!r}.", advice)
        decode = msgspec.json.Decoder(known[name]).decode
        for number, line in enumerate(source.stream, 2):
            try:
                yield decode(line)
            except (msgspec.DecodeError, UnicodeDecodeError, RecursionError) as error:
                raise not_json(source.label, str(error).rstrip("."), number) from None
            source.progress(number - 1)

    def kept_dialects(self, files: dict[str, Part]) -> list[Dialect]:
        """The dialects that were kept in a bag, which its own file lists."""
        part = files.pop(f"{FOLDER}/{DIALECTS}.jsonl", None)
        if part is None:
            return []
        found = []
        with part.open() as stream:
            for number, line in enumerate(stream, 1):
                try:
                    found.append(msgspec.json.decode(line, type=Dialect))
                except (msgspec.DecodeError, UnicodeDecodeError, RecursionError) as error:
                    raise not_json(part.label, str(error).rstrip("."), number) from None
        return found

    def check_options(self, options: dict[str, Any]) -> None:
        """There are no options."""
        if options:
            raise msgspec.ValidationError(
                f"a bag takes no options, and not {sorted(options)[0]!r}"
            )

    def write(self, output: Output, job: Job) -> Writer:
        """A bag of the records as they are on the new site."""
        return BagWriter(output, job.site, menus=job.menus, terms=job.terms)


FORMAT = Bag()
