"""What the formats of plain records share."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable, Iterator
from typing import Any

from newburrow.core.problem import Problem
from newburrow.dialects.json_selector import JsonSelector
from newburrow.dialects.schema import PASSED_OVER, Dialect
from newburrow.formats.base import Format, Input
from newburrow.formats.records.mapping import Mapper, maps_for
from newburrow.formats.records.record_facts import CompiledMap
from newburrow.formats.records.record_view import RecordView
from newburrow.model import Where
from newburrow.model.reading import Item


class RecordFormat(Format):
    """A format that says nothing of what its records are: only a dialect does."""

    needs_dialect = True

    def compiler(self, _dialect: Dialect) -> Callable[[str], Any]:
        """The function that compiles the text of a selector. It raises ValueError if the text is not one."""
        return JsonSelector

    def check_each(self, text: str) -> None:
        """Check a selector of records. Raises ValueError if it cannot be followed while the file streams."""
        self.compiler(Dialect(name="probe", format=self.name))(text)

    def views(
        self, source: Input, maps: list[CompiledMap], unread: Counter[str]
    ) -> Iterable[tuple[CompiledMap, RecordView]]:
        """Each record with its map, in document order; what is outside of all records is counted as unread."""
        raise NotImplementedError

    def read(self, source: Input) -> Iterator[Item | Problem]:
        """Everything that the dialect names in this part."""
        maps = [
            CompiledMap(record_map, self.compiler(source.dialect))
            for record_map in maps_for(source, self.name)
        ]
        mapper = Mapper(source)
        unread: Counter[str] = Counter()
        for count, (rules, view) in enumerate(self.views(source, maps, unread), 1):
            if rules.rules.of == PASSED_OVER:
                continue
            yield from mapper.records(rules, view)
            source.progress(count)
        for name, number in sorted(unread.items()):
            yield Problem.at(
                Where(source.label),
                "unread-element",
                message=f"{number:,} × {name!r} are outside all records and were not read.",
                advice="If they matter, add a [[records]] table for them to the dialect.",
            )
