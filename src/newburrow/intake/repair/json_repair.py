"""Mending one file of JSON, or of JSON Lines."""

from __future__ import annotations

import codecs
import io
import json
from collections.abc import Callable, Iterator
from typing import BinaryIO, cast

from msgspec.structs import replace

from newburrow.core.problem import refusal
from newburrow.intake.encodings import mended_from
from newburrow.intake.head import as_utf8, head_of
from newburrow.intake.part import Part
from newburrow.intake.repair.encoding import CHUNK, as_text
from newburrow.intake.repair.json_scanner import JsonScanner, Out, no_constant
from newburrow.intake.repair.record import Repair, Tell, shown
from newburrow.model.record import Where

_NAMES = (".json", ".jsonl", ".ndjson")


def is_json(part: Part) -> bool:
    """Whether a file is JSON, or was before it broke."""
    with part.open() as stream:
        start = stream.read(4096).removeprefix(codecs.BOM_UTF8).lstrip()
    name = part.name.lower().rpartition("/")[2]
    # A text in another format may begin with a bracket too.
    return name.endswith(_NAMES) or (
        start[:1] in (b"{", b"[") and (name.endswith(".txt") or "." not in name)
    )


def mend_json(part: Part, target: BinaryIO, tell: Tell) -> bool:
    """Write a JSON or JSON Lines part to `target`, mended where it is wrong.

    `tell` gets every repair with its line, in order. Gives whether anything was mended. Right bytes are
    copied unchanged.
    """
    repaired = False

    def report(repair: Repair) -> None:
        nonlocal repaired
        repaired = True
        tell(repair)

    def out(text: str) -> None:
        target.write(text.encode("utf-8"))

    encoding = mended_from(part.open, head_of(part).encoding)
    if encoding:
        report(Repair("encoding", 1, encoding.name, "UTF-8"))
        part = as_utf8(
            part,
            encoding,
            lambda line, wrong: report(Repair("encoding", line, shown(wrong), "\ufffd")),
        )
    if _is_lines(part):
        with part.open() as stream:
            for number, line in _lines(stream, report):
                _line(line, number, out, report)
        return repaired
    scanner = JsonScanner(out, report)
    with part.open() as stream:
        for text in _texts(stream, report):
            scanner.feed(text)
    scanner.finish()
    return repaired


def check_json(open_file: Callable[[], BinaryIO], part: Part, label: str) -> None:
    """Read a mended part once more and make sure that it is JSON now.

    `open_file` opens the mended copy. Raises BurrowError, with line and column in `label`, if it is not.
    """
    found: list[Repair] = []
    counted = _CountedFile()
    mend_json(replace(part, opener=open_file), cast(BinaryIO, counted), found.append)
    if found or not counted.size:
        raise refusal(
            "not-mended",
            "This file is broken in a way that could not be mended.",
            "Export the site again, or correct the file in a text editor.",
            Where(label, found[0].line if found else 0),
        )


def _is_lines(part: Part) -> bool:
    """Whether each line is a document of its own."""
    with part.open() as stream:
        head = stream.read(CHUNK).removeprefix(codecs.BOM_UTF8).lstrip()
    first, _end, remaining = head.partition(b"\n")
    if part.name.lower().endswith(_NAMES[1:]):
        return True
    try:
        return isinstance(json.loads(first), dict) and remaining.lstrip().startswith(b"{")
    except (ValueError, RecursionError):
        return False


def _lines(stream: BinaryIO, tell: Tell) -> Iterator[tuple[int, str]]:
    """Each line with its number and its end."""
    for number, raw in enumerate(stream, 1):
        yield number, as_text(_without_mark(raw, tell) if number == 1 else raw, number, tell)


def _line(line: str, number: int, out: Out, tell: Tell) -> None:
    """One document of its own: passed on as it is where it is right, else mended, or left out and named."""
    try:
        right = not line.strip() or isinstance(
            json.loads(line, parse_constant=no_constant), dict
        )
    except (ValueError, RecursionError):
        right = False
    pieces: list[str] = [line]
    if not right:
        pieces = []
        scanner = JsonScanner(pieces.append, tell, number, each_an_item=True)
        scanner.feed(line)
        scanner.finish()
    out("".join(pieces))


def _texts(stream: BinaryIO, tell: Tell) -> Iterator[str]:
    """The text in pieces, none of which ends within a character."""
    buffer, line = _without_mark(stream.read(CHUNK), tell), 1
    while buffer:
        block = stream.read(CHUNK)
        if block:
            cut = _between_characters(buffer)
        else:
            cut = len(buffer)
        yield as_text(buffer[:cut], line, tell)
        line += buffer.count(b"\n", 0, cut)
        buffer = buffer[cut:] + block


def _between_characters(data: bytes) -> int:
    """A place near the end where no character of UTF-8 is cut: before the last byte that begins one."""
    place = len(data) - 1
    while place > len(data) - 4 and place > 0 and data[place] & 0xC0 == 0x80:
        place -= 1
    return place or len(data)


def _without_mark(data: bytes, tell: Tell) -> bytes:
    """Without a byte order mark, which JSON does not have (RFC 8259 section 8.1)."""
    if data.startswith(codecs.BOM_UTF8):
        tell(Repair("before-start", 1, shown(codecs.BOM_UTF8), ""))
    return data.removeprefix(codecs.BOM_UTF8)


class _CountedFile(io.RawIOBase):
    """A file that keeps nothing but how much was written."""

    size = 0

    def write(self, data: object) -> int:
        self.size += len(cast(bytes, data).strip())
        return len(cast(bytes, data))
