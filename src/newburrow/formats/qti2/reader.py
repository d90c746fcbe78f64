"""Reading QTI 2.1 and 2.2: a test with the items that it refers to, or items alone (QTI 2.1, sections 5 and 10)."""

from __future__ import annotations

import posixpath
from collections.abc import Callable, Iterator, Sequence
from typing import BinaryIO
from urllib.parse import quote, unquote

from lxml import etree
from msgspec import Struct
from msgspec.structs import replace

from newburrow.core import url
from newburrow.core.problem import BurrowError, Problem
from newburrow.formats import xml_stream
from newburrow.formats.item_place import ItemPlace
from newburrow.formats.qti2.body import html_of
from newburrow.formats.qti2.item import read_item
from newburrow.formats.xml_names import (
    attribute,
    child,
    children,
    descendants,
    line_of,
    local,
    number,
)
from newburrow.model import Body, Entry, Question, Quiz, QuizSection, Where

# What a test says besides, which has no place in the content model.
_UNREAD = ("preCondition", "branchRule", "outcomeProcessing", "testFeedback", "templateDefault")
TEST, ITEM = "assessmentTest", "assessmentItem"
NAMESPACES = ("http://www.imsglobal.org/xsd/imsqti_v2p0", "http://www.imsglobal.org/xsd/imsqti_v2p1",
              "http://www.imsglobal.org/xsd/imsqti_v2p2")  # fmt: skip
Sibling = Callable[[str], BinaryIO | None]


class TestFile(Struct, frozen=True):
    """A test of a package, and how the files that it refers to are opened."""

    name: str  # path in the package
    label: str
    key: str  # of the entry that it becomes
    sibling: Sibling
    site: str = ""  # address that paths in the package start from
    title: str = ""  # for one that has none
    banks: dict[str, str] = {}  # path of an item -> key of the question bank that it is in


def read_test(file: TestFile) -> Iterator[Entry | Question | Problem]:
    """The questions of a test, then the quiz that they are in. Raises BurrowError as `xml_stream` does."""
    root = xml_stream.root_of(_opener(file.sibling, file.name), file.label)
    yield from _TestFile(file, root).records()


def read_bank(
    names: Sequence[str], entry: Entry, site: str, sibling: Sibling
) -> Iterator[Entry | Question | Problem]:
    """The questions in these files, then the question bank that they are."""
    reader = _Items(entry.key, site, sibling)
    for name in names:
        yield from reader.item(name, name, "", None)
    yield entry


def _opener(sibling: Sibling, name: str) -> xml_stream.Opener:
    def opened() -> BinaryIO:
        stream = sibling(name)
        if stream is None:
            raise FileNotFoundError(name)
        return stream

    return opened


class _Items:
    """Items being read, in their order."""

    def __init__(
        self, entry: str, site: str, sibling: Sibling, is_survey: bool = False
    ) -> None:
        self.entry, self.site, self.sibling = entry, site, sibling
        self.is_survey = is_survey
        self.count = 0
        self.seen: set[str] = set()

    def item(
        self, name: str, label: str, section: str, weight: float | None
    ) -> Iterator[Question | Problem]:
        """The question in a file of the package; a problem where it cannot be read."""
        self.count += 1
        try:
            root = xml_stream.root_of(_opener(self.sibling, name), name)
        except FileNotFoundError:
            yield Problem.at(
                Where(label), "package-file-missing", file=name, of="an item of a test"
            )
            return
        except BurrowError as error:
            yield error.problem
            return
        base = url.resolve(self.site, quote(name))
        place = ItemPlace(
            self.entry,
            section,
            self.count,
            base,
            Where(name, line_of(root)),
            self.is_survey,
            weight,
        )
        question, problems = read_item(root, place)
        if question.key in self.seen:
            question = replace(question, key=f"{question.key}-{self.count}")
            problems = [replace(problem, key=question.key) for problem in problems]
        self.seen.add(question.key)
        yield question
        yield from problems


class _TestFile:
    """One test being read."""

    def __init__(self, file: TestFile, root: etree._Element) -> None:
        self.file, self.root = file, root
        is_survey = self._kind() == "survey"
        self.items = _Items(file.key, file.site, file.sibling, is_survey)
        self.sections: list[QuizSection] = []
        self.instructions: list[str] = []

    def records(self) -> Iterator[Entry | Question | Problem]:
        """What the test holds."""
        for part in children(self.root, "testPart"):
            for section in children(part, "assessmentSection"):
                yield from self._section(section)
        base = url.resolve(self.file.site, quote(self.file.name))
        entry = Entry(
            key=self.file.key,
            kind="quiz",
            title=attribute(self.root, "title") or self.file.title,
            guid=attribute(self.root, "identifier"),
            body=Body("\n".join(filter(None, self.instructions)), base=base),
            quiz=self._quiz(),
            source=Where(self.file.name, line_of(self.root)),
        )
        yield entry
        unread = dict.fromkeys(local(found) for found in descendants(self.root, *_UNREAD))
        if unread:
            yield Problem.about(entry, "test-rule-unread", rules=", ".join(unread))

    def _section(self, section: etree._Element) -> Iterator[Question | Problem]:
        name = attribute(section, "identifier")
        self.instructions += [html_of(found) for found in children(section, "rubricBlock")]
        selection, ordering = child(section, "selection"), child(section, "ordering")
        draw = int(number(attribute(selection, "select")) or 0) if selection is not None else 0
        references = list(children(section, "assessmentItemRef"))
        paths = [self._path(reference) for reference in references]
        banks = {self.file.banks.get(path, "") for path in paths}
        bank = banks.pop() if len(banks) == 1 and draw else ""
        if references or draw:
            shuffles = ordering is not None and attribute(ordering, "shuffle") == "true"
            each = _weight(references[0]) if bank and references else None
            title = attribute(section, "title")
            self.sections.append(QuizSection(name, title, bank, draw, shuffles, each))
        for reference, path in zip(references, paths, strict=True) if not bank else ():
            yield from self.items.item(path, self.file.label, name, _weight(reference))
        for inner in children(section, "assessmentSection"):
            yield from self._section(inner)

    def _path(self, reference: etree._Element) -> str:
        href = unquote(attribute(reference, "href"))
        return posixpath.normpath(posixpath.join(posixpath.dirname(self.file.name), href))

    def _quiz(self) -> Quiz:
        limits = next(descendants(self.root, "timeLimits"), None)
        seconds = number(attribute(limits, "maxTime")) if limits is not None else None
        control = next(descendants(self.root, "itemSessionControl"), None)
        attempts: int | None = 1
        if control is not None and attribute(control, "maxAttempts"):
            attempts = int(number(attribute(control, "maxAttempts")) or 0) or None
        return Quiz(
            kind=self._kind(),
            sections=tuple(self.sections),
            minutes=seconds / 60 if seconds else None,
            attempts=attempts,
            shows_answers=control is not None and attribute(control, "showSolution") == "true",
            gives_feedback=control is None or attribute(control, "showFeedback") != "false",
        )

    def _kind(self) -> str:
        """A test of which no outcome is a score is a survey."""
        outcomes = [
            attribute(found, "identifier")
            for found in children(self.root, "outcomeDeclaration")
        ]
        return "survey" if "SURVEY" in outcomes else "quiz"


def _weight(reference: etree._Element) -> float | None:
    weight = child(reference, "weight")
    return number(attribute(weight, "value")) if weight is not None else None
