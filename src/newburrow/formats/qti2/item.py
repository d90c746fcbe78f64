"""One `assessmentItem` of QTI 2.1 or 2.2 as a question (QTI 2.1, sections 5 to 8)."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from lxml import etree
from msgspec.structs import replace

from newburrow.core.problem import Problem
from newburrow.formats.gap_questions import as_gaps, ends_in_only_gap
from newburrow.formats.item_place import ItemPlace, doubts
from newburrow.formats.qti2 import composite_scoring, feedback, processing
from newburrow.formats.qti2.body import Gaps, html_of, is_for_candidates, is_interaction
from newburrow.formats.qti2.composite_scoring import CompositeScoring
from newburrow.formats.qti2.interactions import KINDS, InteractionReader, is_composite
from newburrow.formats.xml_names import (
    attribute,
    child,
    children,
    descendants,
    local,
    xml_of,
)
from newburrow.model import Body, Question

ROOT = "assessmentItem"
# Rules and settings of an item that the content model has no place for.
_HOLDING_TEXT = ("gapMatchInteraction", "hottextInteraction")
_UNREAD = (
    "templateDeclaration",
    "templateProcessing",
    "printedVariable",
    "catalogInfo",
    "companionMaterialsInfo",
)


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
        asking = [
            element for element in body.iterdescendants("*") if is_interaction(local(element))
        ]
        self.interactions = [element for element in asking if local(element) in KINDS]
        self.others = [local(element) for element in asking if local(element) not in KINDS]
        self.asking = asking
        self.problems: list[Problem] = []

    def question(self) -> Question:
        """The question that the item asks."""
        asked = self._in_parts() or self._asked()
        made = replace(
            asked,
            key=f"{self.place.entry}/{attribute(self.root, 'identifier') or self.place.position}",
            title=attribute(self.root, "title"),
            entry=self.place.entry,
            section=self.place.section,
            position=self.place.position,
            feedback=tuple(feedback.of(self.root, self.body, self.place.base)),
            rubric=self._body(self._rubric()),
            source=self.place.where,
        )
        if self.others:
            self._say(made, "interaction-unread", interaction=self.others[0])
        elif made.scoring:
            self._say(made, "scoring-kept")
        if rules := self._unread_rules():
            self._say(made, "item-rule-unread", rules=", ".join(rules))
        for message in (*doubts(made, self.place.is_survey), *self._unscored(made)):
            self._say(made, "question-doubtful", message=message)
        return made

    def _unscored(self, made: Question) -> Iterator[str]:
        """What to say where an item names right answers and no rule gives points for them."""
        answered = any(part.answers for part in (made, *made.parts))
        if answered and made.points is None and not made.scoring:
            yield "No rule scores its answers, so it is worth no points."

    def _in_parts(self) -> Question | None:
        """What several interactions ask one by one; None where they ask, or score, as one."""
        if len(self.asking) < 2:
            return None
        asked = self._composite()
        if is_composite(self.asking, self._declared(self.asking)):
            return asked
        element = child(self.root, "responseProcessing")
        if asked.scoring or element is None or attribute(element, "template"):
            return None
        if any(part.kind not in ("text-entry", "inline-choice") for part in asked.parts):
            return asked
        return as_gaps(asked)

    def _asked(self) -> Question:
        """What all interactions ask together."""
        if not self.interactions:
            return self._without_known()
        declared = self._declared(self.interactions)
        scoring = processing.of(self.root, declared)
        text = html_of(self.body, Gaps.IN_TEXT)
        is_text = local(self.interactions[0]) == "textEntryInteraction"
        is_below = is_text and ends_in_only_gap(text)
        texts = [html_of(self.body, Gaps.NONE) if is_below else text]
        texts += [html_of(found) for i in self.interactions for found in children(i, "prompt")]
        asked = InteractionReader(self.interactions, declared, scoring, self.place.base)
        return replace(
            asked.question(),
            prompt=self._body("\n".join(filter(None, texts))),
            points=self._points(scoring.most),
            scoring=scoring.kept,
        )

    def _without_known(self) -> Question:
        """An item that only tells something, or asks in a way that is not read: its interaction is kept whole."""
        declared = self._declared(self.asking)
        texts = [html_of(self.body), *map(_shown, self.asking)]
        return Question(
            key="",
            kind="essay" if self.others else "text-only",
            prompt=self._body("\n".join(filter(None, texts))),
            points=self._points(processing.of(self.root, declared).most),
            scoring=self._kept(self.asking, declared),
        )

    def _kept(
        self, interactions: Sequence[etree._Element], declared: dict[str, etree._Element]
    ) -> str:
        """Interactions that are not read, as the item has them, with what is right and what scores."""
        if not interactions:
            return ""
        kept = (*declared.values(), *interactions, *children(self.root, "responseProcessing"))
        return "\n".join(xml_of(element) for element in kept)

    def _composite(self) -> Question:
        """Each interaction as a part of its own, at its place in the text."""
        scored = composite_scoring.of(self.root, self._declared(self.asking))
        parts = tuple(self._part(element, scored) for element in self.asking)
        points = self._points(scored.most)
        return Question(
            key="",
            kind="composite",
            prompt=self._body(html_of(self.body, Gaps.ALL)),
            points=points,
            is_partial=scored.is_partial,
            scoring=scored.kept,
            parts=parts,
        )

    def _part(self, element: etree._Element, scored: CompositeScoring) -> Question:
        name, declared = attribute(element, "responseIdentifier"), self._declared([element])
        prompt = self._body(_shown(element))
        scoring = scored.of_part(name)
        points = self._points(scoring.most) if scored.is_partial else None
        if local(element) not in KINDS:
            kept = self._kept([element], declared)
            return Question(key=name, kind="essay", prompt=prompt, points=points, scoring=kept)
        made = InteractionReader([element], declared, scoring, self.place.base).question()
        return replace(
            made,
            key=name,
            prompt=prompt,
            points=points,
            choices=tuple(
                replace(choice, group="") if choice.group == name else choice
                for choice in made.choices
            ),
            answers=tuple(replace(answer, gap="") for answer in made.answers),
        )

    def _declared(self, interactions: Sequence[etree._Element]) -> dict[str, etree._Element]:
        """The declarations of the responses that interactions give."""
        asked = {attribute(found, "responseIdentifier") for found in interactions}
        return {
            name: element
            for element in children(self.root, "responseDeclaration")
            if (name := attribute(element, "identifier")) in asked
        }

    def _say(self, question: Question, code: str, **facts: str) -> None:
        self.problems.append(Problem.about(question, code, **facts))

    def _body(self, text: str) -> Body:
        if text:
            return Body(text, base=self.place.base)
        return Body()

    def _points(self, most: float | None) -> float | None:
        if self.place.weight is not None:
            return self.place.weight * (1.0 if most is None else most)
        return most

    def _unread_rules(self) -> list[str]:
        names = [local(found) for found in descendants(self.root, *_UNREAD)]
        if attribute(self.root, "adaptive") == "true":
            names.append("adaptive")
        for word in ("minChoices", "minAssociations", "patternMask"):
            if any(attribute(found, word) not in ("", "0") for found in self.asking):
                names.append(word)
        return list(dict.fromkeys(names))

    def _rubric(self) -> str:
        holder = self.body if self.body is not None else self.root
        blocks = descendants(holder, "rubricBlock")
        return "\n".join(html_of(found) for found in blocks if not is_for_candidates(found))


def _shown(interaction: etree._Element) -> str:
    """The text of an interaction itself: its prompt, and the text or picture that it holds."""
    texts = [html_of(found) for found in children(interaction, "prompt")]
    if local(interaction) in _HOLDING_TEXT or local(interaction) not in KINDS:
        texts.append(html_of(interaction))
    return "\n".join(filter(None, texts))
