"""One `item` of QTI 1.2 as a question (ASI information model, section 3.4; Common Cartridge 1.3, section 4.6)."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence

from lxml import etree
from msgspec.structs import replace

from newburrow.core.problem import Problem
from newburrow.formats.gap_questions import ends_in_only_gap
from newburrow.formats.item_place import ItemPlace, doubts
from newburrow.formats.qti1 import answers, blanks, composite, feedback, named_places
from newburrow.formats.qti1.material import (
    FIELDS,
    RESPONSES,
    Responses,
    choice_of,
    html_of,
    is_for_students,
)
from newburrow.formats.qti1.scoring import LIMITS, Scoring
from newburrow.formats.xml_names import (
    attribute,
    descendants,
    local,
    number,
    words,
    xml_of,
)
from newburrow.model import Body, Choice, Extra, Question

# Metadata that are read, or that only repeat what the item itself says.
_KNOWN = ("cc_profile", "cc_weighting", "qmd_weighting", "points_possible", "qmd_computerscored", "qmd_itemtype",
          "qmd_scoringpermitted", "question_type")  # fmt: skip
# Responses that no kind of question stands for, in words.
_UNREAD = {"response_xy": "places in a picture"}
# What an item holds that is read, or that the reader of the test tells of.
_PARTS = frozenset((
    "itemmetadata", "qtimetadata", "presentation", "resprocessing", "itemfeedback", "rubric", "itemrubric",
    "qticomment", "duration", "objectives", "itemcontrol", "itemprecondition", "itempostcondition",
))  # fmt: skip
_FILLED = ("text-entry", "pattern-match", "numerical")  # kinds that ask for words or numbers
_MANY_LINES = 2  # of a field in which an essay is written
_TRUE_FALSE = {"true", "false"}
_PROFILES = {
    "cc.essay": "essay",
    "cc.true_false": "true-false",
    "cc.pattern_match": "pattern-match",
    "cc.multiple_response": "multiple-choice",
    "cc.multiple_choice": "choice",
    "cc.fib": "text-entry",
}


def metadata(holders: Iterable[etree._Element]) -> dict[str, str]:
    """The metadata in elements of an assessment, a section or an item: label in lower case -> value."""
    found: dict[str, str] = {}
    for holder in holders:
        for field in descendants(holder, "qtimetadatafield"):
            texts = {local(part): words(part) for part in field}
            label = texts.get("fieldlabel", "").lower()
            found.setdefault(label, texts.get("fieldentry", ""))
        for own in holder:
            if local(own).startswith("qmd_"):
                found.setdefault(local(own), words(own))
    return found


def read_item(item: etree._Element, place: ItemPlace) -> tuple[Question, list[Problem]]:
    """The question, and what has to be said of it."""
    reader = _ItemOfQti1(item, place)
    return reader.question(), reader.problems


class _ItemOfQti1:
    """One item being read."""

    def __init__(self, item: etree._Element, place: ItemPlace) -> None:
        self.item, self.place = item, place
        # While they are held the parser need not make them anew each time: a 25th of the time of an item.
        self._held = list(item.iter())
        # Asking the parser for the children of each name takes several times as long.
        parts: dict[str, list[etree._Element]] = {}
        for element in item:
            parts.setdefault(local(element), []).append(element)
        self.parts = parts
        holders = (*parts.get("itemmetadata", ()), *parts.get("qtimetadata", ()))
        self.facts = metadata(holders)
        self.presentation = next(iter(parts.get("presentation", ())), item)
        self.responses = list(descendants(self.presentation, *RESPONSES))
        if blanks.split(item, self.responses):
            self.responses = list(descendants(self.presentation, *RESPONSES))
        named = {
            attribute(found, "ident")
            for found in self.responses
            if local(found) in ("response_lid", "response_grp")
        }
        self.scoring = Scoring(parts.get("resprocessing", []), named)
        self.problems: list[Problem] = []
        self.unread_rules: dict[str, None] = {}
        self.key = f"{place.entry}/{attribute(item, 'ident') or place.position}"

    def question(self) -> Question:
        """The question that the item asks."""
        if composite.is_composite(self.responses, self.scoring):
            asked = self._composite()
        else:
            asked = self._asked(self._kind(), self.responses)
        if composite.has_only_texts(asked):  # nothing tells its parts from the gaps of a text
            asked = self._asked("text-entry", self.responses)
        is_essay = asked.kind == "essay"
        elements = self.parts.get("itemfeedback", ())
        shown = feedback.of(elements, self.scoring, self.place.base, is_essay)
        made = replace(
            asked,
            key=self.key,
            title=attribute(self.item, "title"),
            entry=self.place.entry,
            section=self.place.section,
            position=self.place.position,
            feedback=shown.feedback,
            rubric=shown.rubric,
            extra=self._extra(),
            source=self.place.where,
        )
        made = self._with_rubrics(made)
        self._examine(made)
        return made

    def _asked(self, kind: str, responses: Sequence[etree._Element]) -> Question:
        """What all responses ask together."""
        choices = self._choices(kind, responses)
        idents = [attribute(response, "ident") for response in responses]
        found = answers.of(kind, idents, choices, self.scoring)
        unread = any(local(response) in _UNREAD for response in responses)
        renders = self._lists(self.presentation)
        points = self._points()
        if points is None and found.answers:  # the file gives points for wrong answers alone
            points = 1.0
        return Question(
            key="",
            kind=kind,
            prompt=self._body(self._prompt(kind, responses)),
            choices=choices,
            answers=found.answers,
            points=points,
            shuffle=_shuffles(renders),
            is_partial=found.is_partial,
            most=_most(renders),
            scoring=answers.written(self.scoring) if unread else found.scoring,
        )

    def _prompt(self, kind: str, responses: Sequence[etree._Element]) -> str:
        """The text of a question, with gaps where it goes on after a blank, or has several."""
        if kind == "match" and local(responses[0]) == "response_lid":  # each is a choice
            return html_of(self.presentation, Responses.NOTHING)
        if kind not in _FILLED:
            return html_of(self.presentation)
        made = html_of(self.presentation, Responses.GAPS)
        if ends_in_only_gap(made):
            return html_of(self.presentation)
        return made

    def _composite(self) -> Question:
        """Each response as a part of its own, at its place in the text."""
        asked = Question(
            key="",
            kind="composite",
            prompt=self._body(html_of(self.presentation, Responses.PARTS)),
            points=self._points(),
            parts=tuple(map(self._part, self.responses)),
        )
        return named_places.placed(composite.settled(asked, self.scoring))

    def _part(self, response: etree._Element) -> Question:
        ident = attribute(response, "ident")
        kind = self._kind_of([response], ident)
        # The texts of a field stand around it in the text of the whole.
        is_field = local(response) in FIELDS
        renders = self._lists(response)
        return Question(
            key=ident,
            kind=kind,
            prompt=Body() if is_field else self._body(html_of(response)),
            choices=self._choices(kind, [response]),
            shuffle=_shuffles(renders),
            most=_most(renders),
        )

    def _lists(self, element: etree._Element) -> list[etree._Element]:
        """The lists of choices in an element."""
        found = list(descendants(element, "render_choice"))
        if any((number(attribute(render, "minnumber")) or 0) > 1 for render in found):
            self.unread_rules["minnumber"] = None
        return found

    def _examine(self, question: Question) -> None:
        """Note what cannot be moved, and what cannot be right."""
        unread = [_UNREAD[name] for name in map(local, self.responses) if name in _UNREAD]
        if unread:
            self._say(question, "interaction-unread", interaction=unread[0])
        elif question.scoring:
            self._say(question, "scoring-kept")
        others = [*(name for name in self.parts if name not in _PARTS), *self.unread_rules]
        if others:
            self._say(question, "item-rule-unread", rules=", ".join(others))
        for message in doubts(question, self.place.is_survey):
            self._say(question, "question-doubtful", message=message)

    def _extra(self) -> Extra:
        extra = {
            name: [value] for name, value in self.facts.items() if value and name not in _KNOWN
        }
        if attempts := attribute(self.item, "maxattempts"):
            extra["maxattempts"] = [attempts]
        for name, elements in self.parts.items():
            if name not in _PARTS:
                extra[name] = [xml_of(element) for element in elements]
        return extra

    def _with_rubrics(self, question: Question) -> Question:
        """The question with the rubrics of the item: those that students see too stand before its prompt."""
        rubrics = [*self.parts.get("rubric", ()), *self.parts.get("itemrubric", ())]
        if not rubrics:  # as in most
            return question
        shown, hidden = list[str](), list[str]()
        for found in rubrics:
            (shown if is_for_students(found) else hidden).append(html_of(found))
        prompt = "\n".join(filter(None, (*shown, question.prompt.text)))
        rubric = "\n".join(filter(None, (*hidden, question.rubric.text)))
        return replace(question, prompt=self._body(prompt), rubric=self._body(rubric))

    def _body(self, text: str) -> Body:
        return Body(text, base=self.place.base)

    def _say(self, question: Question, code: str, **facts: str) -> None:
        self.problems.append(Problem.about(question, code, **facts))

    def _kind(self) -> str:
        if not self.responses:
            return "text-only"
        return self._kind_of(self.responses)

    def _kind_of(self, responses: Sequence[etree._Element], part: str = "") -> str:
        """The kind of question: by the response types, and among those by what the profile says."""
        profile = self.facts.get("cc_profile", "").rpartition(".v")[0]
        first = responses[0]
        name = local(first)
        if name == "response_grp" or (name == "response_lid" and len(responses) > 1):
            return "match"
        if name == "response_num":
            return "numerical"
        if name == "response_lid":
            return self._kind_of_choice(first, profile)
        if name == "response_str":
            return self._kind_of_text(responses, profile, part)
        return "essay"

    def _kind_of_choice(self, response: etree._Element, profile: str) -> str:
        cardinality = (attribute(response, "rcardinality") or "Single").lower()
        if cardinality == "ordered":
            return "order"
        if cardinality == "multiple":
            return "multiple-choice"
        if profile == "cc.true_false":
            return "true-false"
        labels = list(descendants(response, "response_label"))
        if len(labels) == 2 and {words(label).casefold() for label in labels} == _TRUE_FALSE:
            return "true-false"
        return "choice"

    def _kind_of_text(
        self, responses: Sequence[etree._Element], profile: str, part: str
    ) -> str:
        if profile in ("cc.essay", "cc.pattern_match"):
            return _PROFILES[profile]
        field = next(descendants(responses[0], "render_fib"), None)
        if field is not None:
            rows = number(attribute(field, "rows"))
        else:
            rows = None
        asked = {test.name for test, _n in self.scoring.tests if part in ("", test.ident)}
        tests = asked.intersection(("varequal", "varsubstring"))
        if not asked.isdisjoint(LIMITS) and len(responses) == 1:
            return "numerical"
        if not tests and not profile:
            return "essay"
        if "varsubstring" in tests:
            return "pattern-match"
        if rows and rows >= _MANY_LINES and not tests:
            return "essay"
        if field is not None:
            fib = attribute(field, "fibtype").lower()
        else:
            fib = ""
        if fib in ("integer", "decimal") and len(responses) == 1:
            return "numerical"
        return "text-entry"

    def _choices(self, kind: str, responses: Sequence[etree._Element]) -> tuple[Choice, ...]:
        if kind == "match":
            return tuple(self._pairs(responses))
        return tuple(
            Choice(
                attribute(label, "ident"),
                self._body(choice_of(label)),
                fixed=attribute(label, "rshuffle").lower() == "no",
            )
            for response in responses
            if local(response) == "response_lid"
            for label in descendants(response, "response_label")
        )

    def _pairs(self, responses: Sequence[etree._Element]) -> Iterator[Choice]:
        """The choices of a match: each `response_lid` is a source; of a group those that name others are."""
        targets: dict[str, Choice] = {}
        for response in responses:
            if local(response) == "response_lid":
                yield Choice(
                    attribute(response, "ident"), self._body(html_of(response)), "source"
                )
            for label in descendants(response, "response_label"):
                name, body = attribute(label, "ident"), self._body(choice_of(label))
                if attribute(label, "match_group"):
                    most = int(number(attribute(label, "match_max")) or 1)
                    yield Choice(name, body, "source", most=most)
                else:
                    targets.setdefault(name, Choice(name, body, "target", most=0))
        yield from targets.values()

    def _points(self) -> float | None:
        """The points: the weight in the CC profile, where a score is in percent; else the greatest score."""
        weight = number(
            self.facts.get("cc_weighting", "") or self.facts.get("qmd_weighting", "")
        )
        if weight is not None:
            return weight
        named = number(self.facts.get("points_possible", ""))
        if named is not None:
            return named
        if not self.scoring.elements:
            return None
        most = self.scoring.most
        if "cc_profile" in self.facts and most == 100:
            if self.scoring.changes_score:
                return 1.0
            return None
        return most or None


def _shuffles(renders: Sequence[etree._Element]) -> bool:
    return any(attribute(render, "shuffle").lower() == "yes" for render in renders)


def _most(renders: Sequence[etree._Element]) -> int:
    """How many choices a student may take; 0 where that is not stated."""
    found = [int(number(attribute(render, "maxnumber")) or 0) for render in renders]
    return max(found, default=0)
