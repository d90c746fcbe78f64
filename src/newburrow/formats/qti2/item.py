"""One `assessmentItem` of QTI 2.1 or 2.2 as a question (QTI 2.1, sections 5 to 8)."""

from __future__ import annotations

from collections.abc import Iterator

from lxml import etree

from newburrow.core.problem import Problem
from newburrow.formats.item_place import ItemPlace, doubts
from newburrow.formats.qti2 import processing
from newburrow.formats.qti2.body import html_of
from newburrow.formats.xml_names import (
    attribute,
    child,
    children,
    descendants,
    local,
    number,
    words,
)
from newburrow.model import Answer, Body, Choice, Feedback, Question

ROOT = "assessmentItem"
_KINDS = {
    "choiceInteraction": "choice",
    "orderInteraction": "order",
    "associateInteraction": "associate",
    "matchInteraction": "match",
    "gapMatchInteraction": "gap-match",
    "inlineChoiceInteraction": "inline-choice",
    "textEntryInteraction": "text-entry",
    "extendedTextInteraction": "essay",
    "hottextInteraction": "hot-text",
    "uploadInteraction": "upload",
}


def read_item(root: etree._Element, place: ItemPlace) -> tuple[Question, list[Problem]]:
    """The question, and what has to be said of it."""
    reader = _ItemOfQti2(root, place)
    return reader.question(), reader.problems


class _ItemOfQti2:
    """One item being read."""

    def __init__(self, root: etree._Element, place: ItemPlace) -> None:
        self.root, self.place = root, place
        self.body = child(root, "itemBody")
        body = self.body if self.body is not None else root
        self.interactions = [element for element in descendants(body, *_KINDS)]
        self.others = [
            local(element)
            for element in body.iterdescendants()
            if local(element).endswith("Interaction")
            and local(element) not in _KINDS
            and local(element) != "endAttemptInteraction"
        ]
        asked = {attribute(found, "responseIdentifier") for found in self.interactions}
        self.declared = {
            name: element
            for element in children(root, "responseDeclaration")
            if (name := attribute(element, "identifier")) in asked or not asked
        }
        self.problems: list[Problem] = []

    def question(self) -> Question:
        """The question that the item asks."""
        kind = self._kind()
        scoring = processing.of(self.root, self.declared)
        made = Question(
            key=f"{self.place.entry}/{attribute(self.root, 'identifier') or self.place.position}",
            kind=kind,
            title=attribute(self.root, "title"),
            entry=self.place.entry,
            section=self.place.section,
            position=self.place.position,
            prompt=self._body(self._prompt()),
            choices=tuple(self._choices()),
            answers=tuple(self._answers(kind, scoring)),
            feedback=tuple(self._feedback()),
            points=self._points(scoring),
            shuffle=any(attribute(i, "shuffle") == "true" for i in self.interactions),
            is_partial=scoring.is_mapped and self._is_shared(),
            most=self._most(),
            rubric=self._body(self._rubric()),
            scoring=scoring.kept,
            source=self.place.where,
        )
        if scoring.kept:
            self._say(made, "scoring-kept")
        if self.others:
            self._say(made, "interaction-unread", interaction=self.others[0])
        for message in doubts(made, self.place.is_survey):
            self._say(made, "question-doubtful", message=message)
        return made

    def _say(self, question: Question, code: str, **facts: str) -> None:
        self.problems.append(Problem.about(question, code, **facts))

    def _body(self, text: str) -> Body:
        return Body(text, base=self.place.base) if text else Body()

    def _kind(self) -> str:
        if not self.interactions:
            return "essay" if self.others else "text-only"
        first = self.interactions[0]
        kind = _KINDS[local(first)]
        declared = self.declared.get(attribute(first, "responseIdentifier"))
        cardinality = attribute(declared, "cardinality") if declared is not None else "single"
        if kind == "choice" and cardinality != "single":
            return "multiple-choice"
        if kind == "choice":
            texts = {words(found).casefold() for found in descendants(first, "simpleChoice")}
            return "true-false" if texts == {"true", "false"} else "choice"
        if kind == "text-entry" and len(self.interactions) == 1 and declared is not None:
            return self._kind_of_text(attribute(declared, "baseType"))
        return kind

    def _kind_of_text(self, base_type: str) -> str:
        if base_type in ("float", "integer"):
            return "numerical"
        partly = (
            attribute(found, "substring") for found in descendants(self.root, "stringMatch")
        )
        return "pattern-match" if "true" in partly else "text-entry"

    def _prompt(self) -> str:
        texts = [html_of(self.body, self._has_gaps())]
        texts += [html_of(found) for i in self.interactions for found in children(i, "prompt")]
        return "\n".join(filter(None, texts))

    def _has_gaps(self) -> bool:
        """Whether a blank has to be seen in the text: there are several, or words on both sides of it."""
        inline = [
            i
            for i in self.interactions
            if local(i) in ("textEntryInteraction", "inlineChoiceInteraction")
        ]
        if len(inline) != 1 or local(inline[0]) != "textEntryInteraction":
            return True
        return bool((inline[0].tail or "").strip())

    def _choices(self) -> Iterator[Choice]:
        for interaction in self.interactions:
            name = local(interaction)
            if name == "matchInteraction":
                sets = list(children(interaction, "simpleMatchSet"))
                for group, holder in zip(("source", "target"), sets, strict=False):
                    yield from self._of(children(holder, "simpleAssociableChoice"), group)
            elif name == "gapMatchInteraction":
                yield from self._of(children(interaction, "gapText", "gapImg"), "source")
                yield from self._of(descendants(interaction, "gap"), "target")
            elif name == "inlineChoiceInteraction":
                group = attribute(interaction, "responseIdentifier")
                yield from self._of(children(interaction, "inlineChoice"), group)
            else:
                yield from self._of(
                    descendants(
                        interaction, "simpleChoice", "simpleAssociableChoice", "hottext"
                    ),
                    "",
                )

    def _of(self, elements: Iterator[etree._Element], group: str) -> Iterator[Choice]:
        for element in elements:
            text = html_of(element) if local(element) != "gap" else ""
            most = number(attribute(element, "matchMax"))
            yield Choice(
                attribute(element, "identifier"),
                self._body(text),
                group,
                attribute(element, "fixed") == "true",
                int(most) if most is not None else 1,
            )

    def _answers(self, kind: str, scoring: processing.Processing) -> Iterator[Answer]:
        if scoring.found:
            yield from scoring.found
            return
        for ident, declared in self.declared.items():
            has_gaps = kind == "inline-choice" or (
                kind == "text-entry" and len(self.declared) > 1
            )
            gap = ident if has_gaps else ""
            holder = child(declared, "correctResponse")
            correct = (
                [words(found) for found in children(holder, "value")]
                if holder is not None
                else []
            )
            mapped = processing.mapping_of(declared) if scoring.is_mapped else {}
            most = scoring.most or 1.0
            if mapped:
                for key, (worth, case) in mapped.items():
                    if worth:
                        yield self._answer(kind, key, gap, round(worth / most, 9), case)
                continue
            for value in correct:
                yield self._answer(kind, value, gap, 1.0, False)

    def _answer(self, kind: str, value: str, gap: str, share: float, case: bool) -> Answer:
        first, _space, second = value.partition(" ")
        if kind in ("match", "associate", "gap-match"):
            return Answer(first, second, gap, share)
        if kind == "numerical":
            exact = number(value)
            return Answer(value, gap=gap, share=share, lower=exact, upper=exact)
        return Answer(value, gap=gap, share=share, case_sensitive=case)

    def _is_shared(self) -> bool:
        """Whether several answers share the points, rather than each being worth them all."""
        several = len(self.declared) > 1
        return several or any(
            attribute(declared, "cardinality") != "single"
            for declared in self.declared.values()
        )

    def _points(self, scoring: processing.Processing) -> float | None:
        if self.place.weight is not None:
            return self.place.weight * (scoring.most or 1.0)
        return scoring.most

    def _most(self) -> int:
        if not self.interactions:
            return 0
        first = self.interactions[0]
        return int(
            number(attribute(first, "maxChoices") or attribute(first, "maxAssociations")) or 0
        )

    def _rubric(self) -> str:
        holder = self.body if self.body is not None else self.root
        return "\n".join(html_of(found) for found in descendants(holder, "rubricBlock"))

    def _feedback(self) -> Iterator[Feedback]:
        for element in children(self.root, "modalFeedback"):
            name = attribute(element, "identifier")
            is_hint = name.lower().startswith("hint")
            on = "any" if is_hint else processing.shown_on(self.root, name)
            yield Feedback(self._body(html_of(element)), on, is_hint)
        for element in descendants(self.root, "feedbackInline", "feedbackBlock"):
            yield Feedback(
                self._body(html_of(element)), attribute(element, "identifier") or "any"
            )
