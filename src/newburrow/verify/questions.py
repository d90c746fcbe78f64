"""Questions held equal before and after: what was written is read back by the format's own reader, and compared."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from pathlib import Path
from tempfile import TemporaryDirectory

import msgspec
from msgspec.structs import replace

from newburrow.core import plugins
from newburrow.core.problem import NOWHERE, BurrowError, Problem
from newburrow.core.progress import nobody
from newburrow.core.workers import Pool
from newburrow.formats.base import Format
from newburrow.formats.exports import detection, export_records
from newburrow.model import Question
from newburrow.model.reading import HALVES, WHOLE
from newburrow.store.journal.handed_over import HandedEntry
from newburrow.store.question_table import QuestionTable
from newburrow.verify.question_facts import facts

MANY = 2000  # questions for which starting another process pays


def problems(
    format_: str, handed: Iterable[HandedEntry], folder: Path, jobs: int, many: int = MANY
) -> Iterator[Problem]:
    """A problem for each question that is missing in the result in `folder`, or differs there.

    `format_` is the name of the host's, `handed` what its writer was given. Two processes read the result if
    `jobs` allows and it has `many` questions.
    """
    written: Format = plugins.get(plugins.FORMATS, format_)
    if not written.has_questions:
        return
    with (
        TemporaryDirectory(prefix="newburrow-") as name,
        QuestionTable(Path(name) / "questions") as table,
    ):
        for entry in handed:
            table.expect(_rows(entry, written))
        if not table.expected():
            return
        try:
            if jobs > 1 and table.expected() >= many:
                _read_by_two(folder, table, Path(name) / "other")
            else:
                table.find(_found(folder, WHOLE))
        except BurrowError as error:
            yield _changed("The result", error.problem.message)
            return
        for place, before, after in table.differing():
            if what := _difference(before, after):
                yield _changed(place, what)


def _changed(place: str, what: str) -> Problem:
    return Problem.at(NOWHERE, "question-changed", place=place, what=what)


def _rows(entry: HandedEntry, written: Format) -> Iterator[tuple[str, str, str]]:
    """Name, place and facts of the questions of an entry as they were handed over."""
    for number, question in enumerate(entry.bundle.questions, 1):
        place = f"“{entry.bundle.entry.title or entry.bundle.entry.key}”, question {number}"
        yield written.written_name(question.key), place, _encoded(question)


def _read_by_two(folder: Path, table: QuestionTable, beside: Path) -> None:
    first, second = HALVES
    with Pool(1) as pool:
        other = pool.start(_find, folder, second, beside)
        table.find(_found(folder, first))
        other.result()
    table.take(beside)


def _find(folder: Path, share: tuple[float, float], path: Path) -> None:
    """Put the questions of a share into a table of its own."""
    with QuestionTable(path) as table:
        table.find(_found(folder, share))


def _found(folder: Path, share: tuple[float, float]) -> Iterator[tuple[str, str]]:
    """Name and facts of the questions of the result."""
    export = detection.examine(folder)
    site = export_records.site_first(export, export_records.UNKNOWN_SITE)
    progress = export_records.Progress(nobody)
    for piece in export.pieces:
        for item in export_records.read_piece(
            export, replace(piece, share=share), site, progress
        ):
            if isinstance(item, Question):
                yield item.key.rpartition("/")[2], _encoded(item)


def _encoded(question: Question) -> str:
    return msgspec.json.encode(facts(question)).decode()


def _difference(before: str, after: str) -> str:
    """The facts that differ, by their names; empty where numbers are only written otherwise."""
    if not after:
        return "it is not in the result"
    expected, found = msgspec.json.decode(before), msgspec.json.decode(after)
    return ", ".join(fact for fact in expected if expected[fact] != found[fact])
