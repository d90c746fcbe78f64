"""The forms of `--json` that are made in the command line itself: of mend, keep, draft, hosts and dialects."""

from __future__ import annotations

from pathlib import Path

from msgspec import Struct

from newburrow.intake.repair.record import Repair


class RepairForm(Struct, frozen=True):
    """A repair of a file."""

    line: int
    code: str
    before: str
    after: str


class MendForm(Struct, frozen=True):
    """What mending came to."""

    out: str
    changed: bool  # false: it was well-formed
    counts: dict[str, int]  # code of a repair -> how often
    first: list[RepairForm]


def of_mended(
    out: Path, changed: bool, counts: dict[str, int], first: list[Repair]
) -> MendForm:
    """The form of a mended file: each kind of repair with its number, and the first repairs."""
    repairs = [RepairForm(each.line, each.code, each.before, each.after) for each in first]
    return MendForm(str(out), changed, dict(sorted(counts.items())), repairs)


class KeepForm(Struct, frozen=True):
    """What a bag keeps."""

    out: str
    counts: dict[str, int]  # records and files -> number


class DraftForm(Struct, frozen=True):
    """The move folder that was made."""

    out: str
    files: list[str]  # with the decisions


class Shipped(Struct, frozen=True):
    """A dialect or a host profile that ships."""

    name: str
    format: str
    title: str
    about: str


class ListForm(Struct, frozen=True):
    """What ships."""

    shipped: list[Shipped]
