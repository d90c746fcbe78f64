"""Fields: named metadata under the new host's names, in its types."""

from __future__ import annotations

from collections.abc import Iterator

from msgspec.structs import replace

from newburrow.convert.context import Context
from newburrow.core.problem import Problem
from newburrow.decide.decisions import FieldChoice
from newburrow.decide.field_types import typed
from newburrow.hosts.profile import FieldRule, Kind
from newburrow.model import Entry
from newburrow.model.bundle import Bundle

_OF_ENTRY = "entry."


def step(bundle: Bundle, context: Context) -> tuple[Bundle, list[Problem]]:
    """The entry with its fields as the new host has them."""
    entry, kind = bundle.entry, context.host.kinds[bundle.entry.kind]
    maps = context.decisions.fields
    if not (maps or kind.fields or (entry.fields and not kind.other_fields)):
        return bundle, []
    made = _EntryFields(entry, kind, maps)
    problems = list(made.make())
    return replace(bundle, entry=made.entry), problems


class _EntryFields:
    """The fields of one entry being made."""

    def __init__(self, entry: Entry, kind: Kind, maps: list[FieldChoice]) -> None:
        self.entry, self.kind, self.maps = entry, kind, maps
        self.fields: dict[str, str] = {}

    def make(self) -> Iterator[Problem]:
        """Fill `fields` and `entry`; what has no place or no right value is reported."""
        mapped = {field_map.old for field_map in self.maps}
        for field_map in self.maps:
            yield from self._mapped(field_map)
        for name, value in self.entry.fields.items():
            if name not in mapped:
                yield from self._put(name, name, value, FieldChoice())
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

    def _mapped(self, field_map: FieldChoice) -> Iterator[Problem]:
        new = field_map.new or field_map.old
        if new == "-":
            return
        if field_map.old:
            value = self._old(field_map.old)
        else:
            value = None
        if value is not None:
            yield from self._put(
                field_map.old, new, field_map.values.get(value.strip(), value), field_map
            )
        elif field_map.default:
            yield from self._put(field_map.old or new, new, field_map.default, field_map)
        elif field_map.required and not (
            new in self.kind.fields and self.kind.fields[new].required
        ):
            yield self._lacking(new)

    def _put(self, old: str, new: str, value: str, field_map: FieldChoice) -> Iterator[Problem]:
        if new.startswith(_OF_ENTRY):
            self.entry = replace(self.entry, **{new.removeprefix(_OF_ENTRY): value})
            return
        rule = self.kind.fields.get(new)
        if rule is None and not self.kind.other_fields:
            yield Problem.about(self.entry, "field-dropped", field=old, value=value)
            return
        rule = rule or FieldRule()
        made = typed(value, field_map.type or rule.type)
        if made is None or (rule.values and made not in rule.values):
            if rule.values:
                allowed = f"one of {', '.join(rule.values)}"
            else:
                allowed = f"of the type {field_map.type or rule.type}"
            otherwise = field_map.default or rule.default
            if otherwise:
                becomes = f"; it becomes {otherwise!r}"
            else:
                becomes = "; it was left out"
            yield Problem.about(
                self.entry,
                "field-value",
                field=old,
                value=value,
                expected=allowed,
                becomes=becomes,
            )
            made = otherwise
        if made:
            self.fields[new] = made
        elif (
            field_map.required and not rule.required
        ):  # what the host requires is reported at the end
            yield self._lacking(new)

    def _lacking(self, name: str) -> Problem:
        return Problem.about(self.entry, "field-missing", field=name)
