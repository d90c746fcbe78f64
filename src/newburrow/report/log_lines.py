"""The lines of a log that are about one object: of a log as text or as JSON Lines, as `--log` writes it."""

from __future__ import annotations

import json
from collections.abc import Iterator
from itertools import islice
from pathlib import Path

from newburrow.core.problem import refusal
from newburrow.model import Where

MOST = 500  # lines that are given


def lines_about(log: Path, table: str, key: str) -> list[str]:
    """The lines about the object of a table (`entry`, `media`, ...) with this key, the first MOST of them.

    Raises BurrowError where the log cannot be read.
    """
    try:
        with log.open(encoding="utf-8", errors="replace") as stream:
            return list(islice(_about(stream, table, key), MOST))
    except OSError as error:
        raise refusal(
            "unreadable",
            f"The log cannot be read: {error.strerror}.",
            "Name the file that --log wrote.",
            Where(str(log)),
        ) from None


def _about(lines: Iterator[str], table: str, key: str) -> Iterator[str]:
    of_object, of_key = f"object={table!r}", f"key={key!r}"
    for line in lines:
        if line.startswith("{"):
            if _is_about(line, table, key):
                yield line.rstrip("\n")
        elif of_object in line and f"{of_key} " in f"{line.rstrip()} ":
            yield line.rstrip("\n")


def _is_about(line: str, table: str, key: str) -> bool:
    """Whether a line of JSON is about an object."""
    try:
        facts = json.loads(line)
    except ValueError:
        return False
    return isinstance(facts, dict) and (facts.get("object"), facts.get("key")) == (table, key)
