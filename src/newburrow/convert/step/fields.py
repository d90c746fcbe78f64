"""Fields: named metadata under the new host's names, in its types."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from datetime import UTC

from msgspec.structs import replace

from newburrow.convert.context import Context
from newburrow.core.dates import parse_date
from newburrow.core.problem import Problem, Severity
from newburrow.decide.decisions import FieldMap
from newburrow.hosts.profile import FieldRule, Kind
from newburrow.model import Entry
from newburrow.model.bundle import Bundle

# of an entry, which a field can be made from and made into
FACTS = (
    "title",
    "summary",
    "language",
)
_OF_ENTRY = "entry."
_YES, _NO = ("yes", "true", "1", "on"), ("no", "false", "0", "off", "")
_ADDRESS = re.compile(r"(?:https?://|mailto:|/)\S+", re.IGNORECASE)


def typed(value: str, type_: str) -> str | None:
    """A value written the way its type asks for.

    `type_` is one of `FIELD_TYPES`. Gives None where the value cannot be of that type. A type
    without a rule of its own takes the value as it is, without the spaces around it.
    """
    value = value.strip()
    parse = _PARSERS.get(type_)
    return parse(value) if parse else value


def _integer(value: str) -> str | None:
    if re.fullmatch(r"[+-]?\d{1,100}", value, re.ASCII):
        return str(int(value))
    return None


def _number(value: str) -> str | None:
    """A decimal number; a single comma is read as the decimal point."""
    if value.count(",") == 1 and "." not in value:
        value = value.replace(",", ".")
    return value if re.fullmatch(r"[+-]?\d+(\.\d+)?", value, re.ASCII) else None


def _yes_no(value: str) -> str | None:
    low = value.casefold()
    if low in _YES:
        return "yes"
    return "no" if low in _NO else None


def _date(value: str) -> str | None:
    """A day stays a day; a date with a time becomes RFC 3339."""
    moment = parse_date(value, UTC)
    if moment is None:
        return None
    if re.fullmatch(r"\d{4}-\d\d-\d\d", value):
        return value
    return moment.isoformat()


def _address(value: str) -> str | None:
    return value if _ADDRESS.fullmatch(value) else None


_PARSERS: dict[str, Callable[[str], str | None]] = {
    "integer": _integer,
    "number": _number,
    "yes-no": _yes_no,
    "date": _date,
    "address": _address,
}


def step(bundle: Bundle, context: Context) -> tuple[Bundle, list[Problem]]:
    """The entry with its fields as the new host has them."""
    entry, kind = bundle.entry, context.host.kinds[bundle.entry.kind]
    maps = context.decisions.fields
    if not (maps or kind.fields or (entry.fields and not kind.other_fields)):
        return bundle, []
    made = _Made(entry, kind, maps)
    problems = list(made.make())
    return replace(bundle, entry=made.entry), problems


class _Made:
    """The fields of one entry being made."""

    def __init__(self, entry: Entry, kind: Kind, maps: list[FieldMap]) -> None:
        self.entry, self.kind, self.maps = entry, kind, maps
        self.fields: dict[str, str] = {}

    def make(self) -> Iterator[Problem]:
        """Fill `fields` and `entry`; what has no place or no right value is said."""
        mapped = {one.old for one in self.maps}
        for one in self.maps:
            yield from self._mapped(one)
        for name, value in self.entry.fields.items():
            if name not in mapped:
                yield from self._put(name, name, value, FieldMap())
        for name, rule in self.kind.fields.items():
            if name not in self.fields:
                if rule.default:
                    self.fields[name] = rule.default
                elif rule.required:
                    yield self._lacking(name)
        self.entry = replace(self.entry, fields=self.fields)

    def _old(self, name: str) -> str | None:
        if name.startswith(_OF_ENTRY):
            return getattr(self.entry, name.removeprefix(_OF_ENTRY)) or None
        return self.entry.fields.get(name)

    def _mapped(self, one: FieldMap) -> Iterator[Problem]:
        new = one.new or one.old
        if new == "-":
            return
        if one.old:
            value = self._old(one.old)
        else:
            value = None
        if value is not None:
            yield from self._put(one.old, new, one.values.get(value.strip(), value), one)
        elif one.default:
            yield from self._put(one.old or new, new, one.default, one)
        elif one.required and not (new in self.kind.fields and self.kind.fields[new].required):
            yield self._lacking(new)

    def _put(self, old: str, new: str, value: str, one: FieldMap) -> Iterator[Problem]:
        if new.startswith(_OF_ENTRY):
            self.entry = replace(self.entry, **{new.removeprefix(_OF_ENTRY): value})
            return
        rule = self.kind.fields.get(new)
        if rule is None and not self.kind.other_fields:
            yield self._say(
                "field-dropped",
                f"The field {old} ({value}) has no place on the new host.",
                "Map it to another in [[fields]] of move.toml, or enter it by hand.",
            )
            return
        rule = rule or FieldRule()
        made = typed(value, one.type or rule.type)
        if made is None or (rule.values and made not in rule.values):
            if rule.values:
                wanted = f"one of {', '.join(rule.values)}"
            else:
                wanted = f"of the type {one.type or rule.type}"
            otherwise = one.default or rule.default
            if otherwise:
                becomes = f"; it becomes {otherwise!r}"
            else:
                becomes = "; it was left out"
            yield self._say(
                "field-value",
                f"The field {old} is {value!r}, which is not {wanted}{becomes}.",
                "Say in `values` of its [[fields]] in move.toml what it becomes.",
            )
            made = otherwise
        if made:
            self.fields[new] = made
        elif one.required and not rule.required:  # what the host requires is said at the end
            yield self._lacking(new)

    def _lacking(self, name: str) -> Problem:
        return self._say(
            "field-missing",
            f"The new host wants the field {name}, and the entry has none.",
            "Give [[fields]] in move.toml a default for it, or enter it by hand.",
        )

    def _say(self, code: str, message: str, advice: str) -> Problem:
        return Problem(
            Severity.WARNING, code, message, advice, self.entry.source, "entry", self.entry.key
        )
