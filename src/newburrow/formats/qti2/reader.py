"""Reading QTI 2.1, 2.2 and 3.0: a test with the items that it refers to, or items alone (QTI 2.1, sections 5, 10)."""

from __future__ import annotations

import posixpath
from collections.abc import Callable, Generator, Iterator, Sequence
from typing import BinaryIO
from urllib.parse import quote, unquote

from lxml import etree
from msgspec import Struct
from msgspec.structs import replace

from newburrow.core import url
from newburrow.core.problem import BurrowError, Problem
from newburrow.formats import xml_stream
from newburrow.formats.item_place import ItemPlace
from newburrow.formats.qti2 import qti3
from newburrow.formats.qti2.body import html_of, is_for_candidates
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
from newburrow.markup.resolved import resolved
from newburrow.model import Body, Entry, Question, Quiz, QuizSection, Where

# What a test says besides, which has no place in the content model.
_UNREAD = ("preCondition", "branchRule", "outcomeProcessing", "testFeedback", "templateDefault")
_SETTINGS = ("timeLimits", "itemSessionControl")  # of the whole test, and of less
TEST, ITEM = "assessmentTest", "assessmentItem"
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
    root = qti3.root_of(_opener(file.sibling, file.name), file.label)
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
            root = qti3.root_of(_opener(self.sibling, name), name)
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
        for found in children(root, "assessmentStimulusRef"):
            question = yield from self._with_stimulus(question, found, name)
        if question.key in self.seen:
            question = replace(question, key=f"{question.key}-{self.count}")
            problems = [replace(problem, key=question.key) for problem in problems]
        self.seen.add(question.key)
        yield question
        yield from problems

    def points(self, name: str, weight: float) -> float | None:
        """What the item in a file is worth at a weight; None where it cannot be read."""
        try:
            root = qti3.root_of(_opener(self.sibling, name), name)
        except (FileNotFoundError, BurrowError):
            return None
        place = ItemPlace(self.entry, "", 0, self.site, Where(name), self.is_survey, weight)
        return read_item(root, place)[0].points

    def _with_stimulus(
        self, question: Question, reference: etree._Element, file: str
    ) -> Generator[Problem, None, Question]:
        """The question with the text that it shares with others before its own (QTI 2.2, section 3.6)."""
        name = _path(reference, file)
        try:
            root = qti3.root_of(_opener(self.sibling, name), name)
        except FileNotFoundError:
            where = Where(file, line_of(reference))
            yield Problem.at(where, "package-file-missing", file=name, of="a text of an item")
            return question
        except BurrowError as error:
            yield error.problem
            return question
        shared = resolved(
            html_of(child(root, "stimulusBody")), url.resolve(self.site, quote(name))
        )
        text = "\n".join(filter(None, (shared, question.prompt.text)))
        return replace(question, prompt=replace(question.prompt, text=text))


class _TestFile:
    """One test being read."""

    def __init__(self, file: TestFile, root: etree._Element) -> None:
        self.file, self.root = file, root
        is_survey = self._kind() == "survey"
        self.items = _Items(file.key, file.site, file.sibling, is_survey)
        self.sections: list[QuizSection] = []
        self.instructions: list[str] = []
        self.opened: set[str] = set()  # files of sections
        self.settings: list[etree._Element] = []  # that are read
        self.unread: dict[
            str, None
        ] = {}  # names of rules and settings that have no place in the model

    def records(self) -> Iterator[Entry | Question | Problem]:
        """What the test holds."""
        for part in children(self.root, "testPart"):
            yield from self._sections(part, self.file.name)
        quiz = self._quiz()
        base = url.resolve(self.file.site, quote(self.file.name))
        entry = Entry(
            key=self.file.key,
            kind="quiz",
            title=attribute(self.root, "title") or self.file.title,
            guid=attribute(self.root, "identifier"),
            body=Body("\n".join(filter(None, self.instructions)), base=base),
            quiz=quiz,
            source=Where(self.file.name, line_of(self.root)),
        )
        yield entry
        self._note_unread(self.root)
        if self.unread:
            yield Problem.about(entry, "test-rule-unread", rules=", ".join(self.unread))

    def _sections(self, above: etree._Element, file: str) -> Iterator[Question | Problem]:
        """The sections in a part of a test or in a section; `file` is the one that they stand in."""
        for found in children(above, "assessmentSection", "assessmentSectionRef"):
            yield from self._inner(found, file)

    def _inner(self, found: etree._Element, file: str) -> Iterator[Question | Problem]:
        if local(found) == "assessmentSection":
            yield from self._section(found, file)
            return
        name = _path(found, file)
        if name in self.opened:
            return
        self.opened.add(name)
        try:
            root = qti3.root_of(_opener(self.file.sibling, name), name)
        except FileNotFoundError:
            where = Where(self.file.label, line_of(found))
            yield Problem.at(where, "package-file-missing", file=name, of="a section of a test")
            return
        except BurrowError as error:
            yield error.problem
            return
        self._note_unread(root)
        yield from self._section(root, name)

    def _section(self, section: etree._Element, file: str) -> Iterator[Question | Problem]:
        """The questions of a section and of those within it, in the order in which they are asked."""
        name = attribute(section, "identifier")
        for found in children(section, "rubricBlock"):
            if is_for_candidates(found):
                self.instructions.append(html_of(found))
            else:
                self.unread[f"rubricBlock for {attribute(found, 'view')}"] = None
        selection, ordering = child(section, "selection"), child(section, "ordering")
        if selection is not None:
            draw = int(number(attribute(selection, "select")) or 0)
        else:
            draw = 0
        references = list(children(section, "assessmentItemRef"))
        banks = {self.file.banks.get(_path(found, file), "") for found in references}
        bank = banks.pop() if len(banks) == 1 and draw else ""
        shuffles = ordering is not None and attribute(ordering, "shuffle") == "true"
        each = self._points_each(references, file) if bank else None
        own = QuizSection(name, self._title_of(section), bank, draw, shuffles, each)
        is_chosen = bool(draw or (shuffles and references))
        opened = self._opened(own) if is_chosen else ""
        if is_chosen:
            self._note_kept_in_place(references)
        for found in children(
            section, "assessmentItemRef", "assessmentSection", "assessmentSectionRef"
        ):
            if local(found) != "assessmentItemRef":
                yield from self._inner(found, file)
            elif not bank:
                goes_on = opened and self.sections[-1].name != opened and not is_chosen
                if goes_on or not opened:
                    opened = self._opened(own)
                path = _path(found, file)
                yield from self.items.item(path, self.file.label, opened, _weight(found))

    def _opened(self, section: QuizSection) -> str:
        """Note a section, and give its name. One that goes on after those within it is two: the order stays."""
        name = section.name
        if any(name == other.name for other in self.sections):
            name = f"{name}-{len(self.sections) + 1}"
        self.sections.append(replace(section, name=name))
        return name

    def _title_of(self, section: etree._Element) -> str:
        """The title of a section; none where it only counts them, as tests do whose sections have none."""
        title = attribute(section, "title")
        number = attribute(section, "identifier").removeprefix("section")
        if title == f"Section {number}":
            return ""
        return title

    def _points_each(self, references: list[etree._Element], file: str) -> float | None:
        """What each item drawn from a bank is worth: its weight times its own points."""
        weights = {_weight(found) for found in references}
        if len(weights) > 1:
            self.unread["weight"] = None
        weight = _weight(references[0])
        if weight is None:
            return None
        return self.items.points(_path(references[0], file), weight)

    def _note_kept_in_place(self, references: list[etree._Element]) -> None:
        """Note items that are always drawn, or that keep their place among those that are shuffled."""
        for word in ("required", "fixed"):
            if any(attribute(found, word) == "true" for found in references):
                self.unread[word] = None

    def _note_unread(self, root: etree._Element) -> None:
        for found in descendants(root, *_UNREAD, *_SETTINGS):
            if found not in self.settings:
                self.unread[local(found)] = None

    def _quiz(self) -> Quiz:
        limits, control = self._setting("timeLimits"), self._setting("itemSessionControl")
        if limits is not None:
            seconds = number(attribute(limits, "maxTime"))
        else:
            seconds = None
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

    def _setting(self, name: str) -> etree._Element | None:
        """A setting of the whole test: its own, that of its only part, or that of its only section."""
        holder: etree._Element | None = self.root
        for below in (("testPart",), ("assessmentSection", "assessmentSectionRef"), ()):
            found = child(holder, name)
            if found is not None:
                self.settings.append(found)
                return found
            if holder is not None and below:
                inner = list(children(holder, *below))
            else:
                inner = []
            holder = inner[0] if len(inner) == 1 else None
        return None

    def _kind(self) -> str:
        """A test of which no outcome is a score is a survey."""
        outcomes = [
            attribute(found, "identifier")
            for found in children(self.root, "outcomeDeclaration")
        ]
        if "SURVEY" in outcomes:
            return "survey"
        return "quiz"


def items_asked(name: str, sibling: Sibling) -> Iterator[str]:
    """The paths of the items that a test refers to, also in sections in files of their own that can be read."""
    waiting, opened = [name], set[str]()
    while waiting:
        file = waiting.pop()
        if file in opened:
            continue
        opened.add(file)
        try:
            root = qti3.root_of(_opener(sibling, file), file)
        except (FileNotFoundError, BurrowError):
            continue
        waiting += [_path(found, file) for found in descendants(root, "assessmentSectionRef")]
        for found in descendants(root, "assessmentItemRef"):
            yield _path(found, file)


def _path(reference: etree._Element, file: str) -> str:
    """The path in the package that a reference in a file leads to."""
    href = unquote(attribute(reference, "href"))
    return posixpath.normpath(posixpath.join(posixpath.dirname(file), href))


def _weight(reference: etree._Element) -> float | None:
    weight = child(reference, "weight")
    if weight is not None:
        return number(attribute(weight, "value"))
    return None
