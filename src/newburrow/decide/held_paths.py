"""What the new host holds, as it is handed in: its own export, or a list of its addresses."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from pathlib import Path

from newburrow.core import csvfile, url
from newburrow.core.problem import refusal
from newburrow.model import Where

_COLUMNS = ("address", "title")
_PEEKED = 4096  # bytes that tell what a file is


def check(paths: Sequence[Path], examine: Callable[[Path], object]) -> None:
    """Raises BurrowError for a path at which nothing is, or neither an export nor a list of addresses.

    `examine` looks an export through, and raises for what is none.
    """
    check_are_there(paths)
    for path in paths:
        if is_list(path):
            for _address in addresses(path):
                pass
        else:
            examine(path)


def check_are_there(paths: Sequence[Path]) -> None:
    """Raises BurrowError for a path at which nothing is."""
    for path in paths:
        if not path.exists():
            raise refusal(
                "no-such-file",
                f"There is no file or folder {str(path)!r}.",
                "Correct it (--holds, or new.holds in move.toml).",
            )


def is_list(path: Path) -> bool:
    """Whether a path is a list of addresses, and not an export."""
    if not path.is_file():
        return False
    with csvfile.opened(path, "replace") as stream:
        start = stream.read(_PEEKED)
    first = start.lstrip().partition("\n")[0].strip()
    return csvfile.columns(start)[:1] == ["address"] or bool(
        url.key(first) and " " not in first
    )


def addresses(path: Path) -> Iterator[tuple[str, str]]:
    """The addresses of a list, each with a title or none.

    A list is a text with an address on each line, or a table with the columns `address` and, where known,
    `title`. Raises BurrowError, with the line, for what is not a web address.
    """
    with csvfile.opened(path, "replace") as stream:
        names = csvfile.columns(stream.read(_PEEKED))
        stream.seek(0)
        if names[:1] == ["address"]:
            columns: tuple[str, ...] = _COLUMNS[:1]
            if "title" in names:
                columns = _COLUMNS
            for line, cells in csvfile.rows(stream, str(path), columns):
                address = cells["address"].strip()
                yield _checked(address, Where(str(path), line)), cells.get("title", "").strip()
            return
        for line, text in enumerate(stream, 1):
            if text.strip():
                yield _checked(text.strip(), Where(str(path), line)), ""


def _checked(text: str, where: Where) -> str:
    if url.key(text):
        return text
    advice = "Each line holds one address, with scheme and host."
    raise refusal("wrong-value", f"{text[:80]!r} is not a web address.", advice, where)
