"""What is wrong with the [[records]] of a dialect: facts that are none, selectors that do not compile."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from typing import Any

from newburrow.core.suggestions import suggest
from newburrow.dialects.json_selector import JsonSelector
from newburrow.dialects.record_facts import FACTS
from newburrow.dialects.schema import Dialect, RecordMap

Mistake = tuple[list[str], str, str]  # key path, message, advice
WITH_RECORDS = ("xml", "json", "jsonlines", "csv", "markdown", "creole", "html")


def record_mistakes(dialect: Dialect, format_named: Callable[[str], Any]) -> Iterator[Mistake]:
    """Each mistake in the record maps; `format_named` gives a format by its name."""
    if (
        dialect.format in WITH_RECORDS
        and not dialect.records
        and not dialect.entry.id_addresses
    ):
        yield (
            ["format"],
            f"A dialect of {dialect.format} says with [[records]] where they are.",
            "Add at least one.",
        )
    for number, rules in enumerate(dialect.records):
        yield from _in_map(
            dialect, rules, ["records", str(number)], dialect.format, format_named
        )


def _in_map(
    dialect: Dialect,
    rules: RecordMap,
    path: list[str],
    format_name: str,
    format_named: Callable[[str], Any],
) -> Iterator[Mistake]:
    format_name = rules.format or format_name
    if format_name not in WITH_RECORDS:
        advice = suggest(format_name, WITH_RECORDS, "These have records")
        yield (
            [*path, "format"],
            f"{format_name!r} is not a format with records of its own.",
            advice,
        )
        return
    yield from _unknown_facts(rules, path)
    format_ = format_named(format_name)
    if hasattr(format_, "compiler"):
        compile_ = format_.compiler(dialect)
    else:
        compile_ = JsonSelector
    if rules.layout and format_name != "html":
        yield [*path, "layout"], "Only HTML pages have a layout.", "Remove the key."
        return
    for where, text in _selectors(rules, path):
        try:
            selector = compile_(text)
            if where[-1] == "layout" and (selector.fact or selector.attribute):
                raise ValueError(f"{text!r} is not an element")
            if where[-1] == "each" and len(path) == 2 and text and format_.needs_dialect:
                format_.check_each(text)
        except ValueError as error:
            yield where, f"In [{'.'.join(where)}], {error}.", "Correct the selector."
    for number, inner in enumerate(rules.inner):
        yield from _in_map(
            dialect, inner, [*path, "inner", str(number)], format_name, format_named
        )


def _unknown_facts(rules: RecordMap, path: list[str]) -> Iterator[Mistake]:
    known = FACTS[rules.of]
    for table in ("take", "always", "shape"):
        for fact in getattr(rules, table):
            if fact not in known:
                message = f"A record of {rules.of} has no fact {fact!r}."
                yield [*path, table, fact], message, suggest(fact, known, "Its facts are")
    for fact, text in rules.shape.items():
        if "{text}" not in text:
            yield (
                [*path, "shape", fact],
                f"The shape {text!r} has no place for the text.",
                "Put {text} into it.",
            )


def _selectors(rules: RecordMap, path: list[str]) -> Iterator[tuple[list[str], str]]:
    """Every selector of a record map with its key path."""
    if rules.each:
        yield [*path, "each"], rules.each
    for table in ("take", "terms", "fields"):
        group: dict[str, Any] = getattr(rules, table)
        for name, texts in group.items():
            for text in _listed(texts):
                yield [*path, table, name], text
    for text in rules.layout:
        yield [*path, "layout"], text
    for number, pair in enumerate(rules.pairs):
        for key in ("element", "name", "value"):
            yield [*path, "pairs", str(number), key], getattr(pair, key)


def _listed(texts: str | Iterable[str]) -> Iterable[str]:
    if isinstance(texts, str):
        return [texts]
    return texts
