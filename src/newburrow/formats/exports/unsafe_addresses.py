"""Addresses that run a script when somebody follows them: they are taken out of every record as it is read."""

from __future__ import annotations

from typing import Any, TypeVar

from msgspec.structs import replace

from newburrow.core.problem import Problem
from newburrow.core.web_schemes import runs_script
from newburrow.model import Record
from newburrow.model.record_types import type_of

R = TypeVar("R", bound=Record)


def without_unsafe(record: R) -> tuple[R, list[Problem]]:
    """The record without addresses that run a script, and a finding for each of them."""
    changed: dict[str, Any] = {}
    problems: list[Problem] = []
    for field in type_of(type(record)).addresses:
        value = getattr(record, field)
        if not value:
            continue
        kept, unsafe = _parted(value)
        if unsafe:
            changed[field] = kept
            problems += [
                Problem.about(record, "unsafe-address", address, place=field.replace("_", " "))
                for address in unsafe
            ]
    if changed:
        return replace(record, **changed), problems
    return record, problems


def _parted(value: Any) -> tuple[Any, list[str]]:
    """A value without what runs a script, and that."""
    if isinstance(value, str):
        if runs_script(value):
            return "", [value]
        return value, []
    if isinstance(value, dict):  # named texts
        unsafe = [text for text in value.values() if runs_script(text)]
        if not unsafe:
            return value, []
        return {name: text for name, text in value.items() if not runs_script(text)}, unsafe
    return (
        tuple(address for address in value if not runs_script(address)),
        [address for address in value if runs_script(address)],
    )
