"""Reading QTI 1.2: an assessment or an object bank, question by question (ASI information model, section 3)."""

from __future__ import annotations

import re
from collections.abc import Iterator

from lxml import etree
from msgspec import Struct
from msgspec.structs import replace

from newburrow.core.problem import Problem
from newburrow.formats import xml_stream
from newburrow.formats.item_place import ItemPlace
from newburrow.formats.qti1.item import metadata, read_item
from newburrow.formats.qti1.material import html_of, is_for_students
from newburrow.formats.xml_names import (
    attribute,
    child,
    children,
    line_of,
    local,
    number,
    words,
)
from newburrow.model import Body, Entry, Question, Quiz, QuizSection, Where

ROOT = "questestinterop"
_HOLDERS = ("assessment", "objectbank")
# Metadata that are read, or that only say which version of the profile a file is in.
_KNOWN = ("cc_profile", "qmd_assessmenttype", "qmd_timelimit", "cc_maxattempts", "qmd_solutionspermitted", "bank_title",
          "qmd_feedbackpermitted", "qmd_hintspermitted", "qmd_scoretype")  # fmt: skip
# What a test says besides, which has no place in the content model.
_UNREAD = ("assessmentcontrol", "sectioncontrol", "sectionprecondition", "sectionpostcondition", "assessfeedback",
           "sectionfeedback", "outcomes_processing", "assessproc_extension", "sectionproc_extension", "objectives",
           "itemcontrol", "itemprecondition", "itempostcondition", "itemref", "sectionref", "matref",
         "material_ref")  # fmt: skip
_READ = ("assessment", "objectbank", "section", "item", "qtimetadata", "rubric", "presentation_material",
         "selection_ordering", "duration", *_UNREAD)  # fmt: skip
_DURATION = re.compile(
    r"P(?:0+Y)?(?:0+M)?(?:(\d+)D)?(?:T(?:(\d+)H)?(?:(\d+)M)?(?:(\d+(?:\.\d+)?)S)?)?"
)
_SURVEYS = ("survey", "questionnaire", "poll")


class QtiFile(Struct, frozen=True):
    """One file of QTI 1.2, as its package names it."""

    opener: xml_stream.Opener
    label: str
    key: str  # of the entry that its quiz or bank becomes
    base: str = ""  # address that links in it start from
    title: str = ""  # for one that has none
    is_bank: bool = False  # whether the package says that it is a question bank


class _Section(Struct):
    name: str
    title: str = ""
    bank: str = ""
    draw: int = 0
    shuffle: bool = False
    points_each: float | None = None
    items: int = 0


def read(file: QtiFile) -> Iterator[Entry | Question | Problem]:
    """The questions of a file, then the quiz or bank that they are in; of each, where it holds several.

    Raises BurrowError as `xml_stream` does.
    """
    reader, number = _Reader(file), 1
    for event, name, element in xml_stream.events(file.opener, file.label, _READ, "item"):
        if event == "start":
            if name in _HOLDERS and reader.has_begun:
                yield from reader.finished()
                number += 1
                reader = _Reader(replace(file, key=f"{file.key}#{number}"))
            reader.begins(name, element)
        elif name == "item":
            yield from reader.item(element)
        else:
            reader.ends(name, element)
    yield from reader.finished()


class _Reader:
    """One quiz or question bank being read."""

    def __init__(self, file: QtiFile) -> None:
        self.file = file
        self.sections: list[_Section] = []
        self.open: list[_Section] = []
        self.ident = self.title = ""
        self.facts: dict[str, str] = {}
        self.instructions = ""
        self.is_bank = file.is_bank
        self.count = 0
        self.line = 0
        self.seen: set[str] = set()  # keys of questions
        self.unread: dict[str, None] = {}  # names of elements that have no place in the model

    @property
    def has_begun(self) -> bool:
        """Whether anything was read."""
        return bool(self.line or self.sections)

    def finished(self) -> Iterator[Entry | Problem]:
        """The quiz or question bank, after its questions."""
        entry = self._entry()
        yield entry
        if self.unread:
            yield Problem.about(entry, "test-rule-unread", rules=", ".join(self.unread))

    def begins(self, name: str, element: etree._Element) -> None:
        """Note the beginning of a test, a bank or a section."""
        if name in _HOLDERS:
            self.ident, self.title = attribute(element, "ident"), attribute(element, "title")
            self.is_bank = self.is_bank or name == "objectbank"
            self.line = line_of(element)
        elif name == "section":
            section = self._noted(attribute(element, "ident"), attribute(element, "title"))
            self.open.append(section)

    def ends(self, name: str, element: etree._Element) -> None:
        """Note what an element says of the test, the bank or the section that it is in."""
        if name in _UNREAD:
            self.unread[name] = None
            return
        above = element.getparent()
        parent = local(above) if above is not None else ""
        if name == "section":
            if self.open:
                self.open.pop()
        elif name == "qtimetadata" and parent in _HOLDERS:
            self.facts |= metadata([element])
        elif name in ("rubric", "presentation_material") and parent in (
            "assessment",
            "section",
        ):
            if is_for_students(element):
                self.instructions = "\n".join(
                    filter(None, (self.instructions, html_of(element)))
                )
            else:
                self.unread[f"rubric for {attribute(element, 'view')}"] = None
        elif name == "selection_ordering" and self.open:
            self._select(self.open[-1], element)
        elif name == "duration":
            self._limit(words(element), parent)

    def _limit(self, duration: str, of: str) -> None:
        """The time limit of a test; one of a section or an item has no place in the model."""
        if of == "assessment":
            self.facts.setdefault("qmd_timelimit", duration)
        else:
            self.unread["duration"] = None

    def _select(self, section: _Section, element: etree._Element) -> None:
        """How a section draws questions, and in which order (Selection and Ordering specification)."""
        for selection in children(element, "selection"):
            section.bank = words(child(selection, "sourcebank_ref")) or section.bank
            section.draw = int(
                number(words(child(selection, "selection_number"))) or section.draw
            )
            extension = child(selection, "selection_extension")
            for found in children(extension) if extension is not None else ():
                if local(found) == "points_per_item":
                    section.points_each = number(words(found))
                else:
                    self.unread[local(found)] = None
        for order in children(element, "order"):
            section.shuffle = attribute(order, "order_type").lower().startswith("random")

    def item(self, element: etree._Element) -> Iterator[Question | Problem]:
        """The question that an item asks, and what has to be said of it."""
        self.count += 1
        if not self.open and not self.sections:
            self.sections.append(_Section(""))
        section = self._open_section()
        section.items += 1
        where = Where(self.file.label, line_of(element))
        is_survey = self._quiz_kind() == "survey"
        place = ItemPlace(
            self.file.key, section.name, self.count, self.file.base, where, is_survey
        )
        question, problems = read_item(element, place)
        if section.points_each is not None and not section.bank:
            question = question.worth(section.points_each)
        if question.key in self.seen:
            question = replace(question, key=f"{question.key}-{self.count}")
            problems = [replace(problem, key=question.key) for problem in problems]
        self.seen.add(question.key)
        yield question
        yield from problems

    def _open_section(self) -> _Section:
        """The section that an item is in; one that goes on after those within it is two, so that the order stays."""
        if not self.open:
            return self.sections[-1]
        section = self.open[-1]
        is_chosen = section.bank or section.draw or section.shuffle
        if section is not self.sections[-1] and not is_chosen:
            section = self._noted(section.name, section.title)
            self.open[-1] = section
        return section

    def _noted(self, name: str, title: str) -> _Section:
        """A further section, by a name that no other has."""
        if any(name == section.name for section in self.sections):
            name = f"{name}-{len(self.sections) + 1}"
        self.sections.append(_Section(name, title))
        return self.sections[-1]

    def _entry(self) -> Entry:
        if len(self.sections) == 1 and not self.line:
            of_section = self.sections[0].title
        else:
            of_section = ""
        title = self.title or self.facts.get("bank_title", "") or of_section or self.file.title
        sections = tuple(
            QuizSection(
                s.name, s.title, s.bank, s.draw, s.shuffle, s.points_each if s.bank else None
            )
            for s in self.sections
            if s.items or s.bank or s.draw
        )
        return Entry(
            key=self.file.key,
            kind="question-bank" if self.is_bank else "quiz",
            title=title,
            guid=self.ident,
            body=Body(self.instructions, base=self.file.base),
            quiz=None if self.is_bank else self._quiz(sections),
            extra={
                name: [value]
                for name, value in self.facts.items()
                if value and (name not in _KNOWN or _is_odd_limit(name, value))
            },
            source=Where(self.file.label, self.line),
        )

    def _quiz_kind(self) -> str:
        """Whether it is a quiz, an exam or a survey, by the word of its metadata."""
        theirs = self.facts.get("qmd_assessmenttype", "").lower()
        if theirs in _SURVEYS:
            return "survey"
        if theirs in ("examination", "exam", "test"):
            return "exam"
        return "quiz"

    def _quiz(self, sections: tuple[QuizSection, ...]) -> Quiz:
        facts = self.facts
        attempts = facts.get("cc_maxattempts", "").lower()
        if attempts in ("unlimited", "-1", "0"):
            tries: int | None = None
        else:
            tries = int(number(attempts) or 1)
        return Quiz(
            kind=self._quiz_kind(),
            sections=sections,
            minutes=_minutes(facts.get("qmd_timelimit", "")),
            attempts=tries,
            shows_answers=facts.get("qmd_solutionspermitted", "").lower() == "yes",
            gives_feedback=facts.get("qmd_feedbackpermitted", "yes").lower() != "no",
            gives_hints=facts.get("qmd_hintspermitted", "yes").lower() != "no",
        )


def _is_odd_limit(name: str, value: str) -> bool:
    """Whether a time limit is in words that are not understood."""
    return name == "qmd_timelimit" and number(value) is None and _minutes(value) is None


def _minutes(text: str) -> float | None:
    """A number of minutes, or a duration (ISO 8601, section 5.5.2.3), in minutes; None for anything else and for 0."""
    if found := _DURATION.fullmatch(text):
        days, hours, minutes, seconds = (float(part or 0) for part in found.groups())
        return (days * 24 + hours) * 60 + minutes + seconds / 60 or None
    return number(text) or None
