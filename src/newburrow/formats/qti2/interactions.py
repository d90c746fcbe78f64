"""What interactions of QTI 2 ask, and which answers to them are right (QTI 2.1, section 7)."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from lxml import etree

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
from newburrow.model import Answer, Body, Choice, Question

KINDS = {
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
NUMBERS = ("float", "integer")  # types of values
_OF_CHOICES = ("choice", "multiple-choice", "true-false", "hot-text")


def is_composite(
    interactions: Sequence[etree._Element], declared: dict[str, etree._Element]
) -> bool:
    """Whether interactions ask different things: several words, or several lists, are the gaps of one text."""
    if len(interactions) < 2:
        return False
    names = {local(interaction) for interaction in interactions}
    if names == {"textEntryInteraction"}:
        return any(attribute(found, "baseType") in NUMBERS for found in declared.values())
    return names != {"inlineChoiceInteraction"}


class InteractionReader:
    """Interactions that belong together: one, or the gaps of a text."""

    def __init__(
        self,
        interactions: Sequence[etree._Element],
        declared: dict[str, etree._Element],
        scoring: processing.Processing,
        base: str,
    ) -> None:
        """`declared` are the declarations of their responses; links in texts start from `base`."""
        self.interactions, self.declared = interactions, declared
        self.scoring, self.base = scoring, base

    def question(self) -> Question:
        """What they ask, without the text around them."""
        kind = self._kind()
        choices = tuple(self._choices())
        return Question(
            key="",
            kind=kind,
            choices=choices,
            answers=tuple(self._answers(kind, choices)),
            shuffle=any(attribute(i, "shuffle") == "true" for i in self.interactions),
            is_partial=self.scoring.is_mapped
            and not self.scoring.needs_all
            and self._is_shared(),
            most=self._most(),
        )

    def _kind(self) -> str:
        first = self.interactions[0]
        kind = KINDS[local(first)]
        declared = self.declared.get(attribute(first, "responseIdentifier"))
        if declared is not None:
            cardinality = attribute(declared, "cardinality")
        else:
            cardinality = "single"
        if kind == "choice" and cardinality != "single":
            return "multiple-choice"
        if kind == "choice":
            texts = {words(found).casefold() for found in descendants(first, "simpleChoice")}
            if texts == {"true", "false"}:
                return "true-false"
            return "choice"
        if kind == "text-entry" and len(self.interactions) == 1 and declared is not None:
            return self._kind_of_text(attribute(declared, "baseType"))
        return kind

    def _kind_of_text(self, base_type: str) -> str:
        if base_type in NUMBERS:
            return "numerical"
        if any(answer.is_pattern for answer in self.scoring.found):
            return "pattern-match"
        return "text-entry"

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
                Body(text, base=self.base) if text else Body(),
                group,
                attribute(element, "fixed") == "true",
                int(most) if most is not None else 1,
            )

    def _answers(self, kind: str, choices: Sequence[Choice]) -> Iterator[Answer]:
        if self.scoring.found:
            yield from self.scoring.found
            return
        for ident, declared in self.declared.items():
            has_gaps = kind == "inline-choice" or (
                kind == "text-entry" and len(self.declared) > 1
            )
            gap = ident if has_gaps else ""
            if self.scoring.is_mapped:
                mapped = processing.mapping_of(declared)
            else:
                mapped = {}
            if mapped:
                yield from self._mapped(kind, gap, mapped)
                if kind in _OF_CHOICES:
                    yield from self._others(declared, mapped, choices)
                continue
            holder = child(declared, "correctResponse")
            for value in children(holder, "value") if holder is not None else ():
                yield _answer(kind, words(value), gap, 1.0, True)

    def _mapped(
        self, kind: str, gap: str, mapped: dict[str, tuple[float, bool]]
    ) -> Iterator[Answer]:
        """The answers that a mapping gives a value to."""
        most = self._worth()
        for key, (worth, case) in mapped.items():
            if worth:
                yield _answer(kind, key, gap, round(worth / most, 9), case)

    def _others(
        self,
        declared: etree._Element,
        mapped: dict[str, tuple[float, bool]],
        choices: Sequence[Choice],
    ) -> Iterator[Answer]:
        """The choices that a mapping does not list, where these have a value too."""
        worth = processing.default_of(declared)
        most = self._worth()
        for choice in choices:
            if worth and choice.name not in mapped:
                yield Answer(choice.name, share=round(worth / most, 9))

    def _worth(self) -> float:
        """What a mapping gives for all that is right."""
        if self.scoring.needs_all:
            return 1.0
        if self.scoring.most is None:
            return processing.most_mapped(list(self.declared.values())) or 1.0
        return self.scoring.most or 1.0

    def _is_shared(self) -> bool:
        """Whether several answers share the points, rather than each being worth them all."""
        several = len(self.declared) > 1
        return several or any(
            attribute(declared, "cardinality") != "single"
            for declared in self.declared.values()
        )

    def _most(self) -> int:
        first = self.interactions[0]
        return int(
            number(attribute(first, "maxChoices") or attribute(first, "maxAssociations")) or 0
        )


def _answer(kind: str, value: str, gap: str, share: float, case: bool) -> Answer:
    first, _space, second = value.partition(" ")
    if kind in ("match", "associate", "gap-match"):
        return Answer(first, second, gap, share)
    if kind == "numerical":
        exact = number(value)
        return Answer(value, gap=gap, share=share, lower=exact, upper=exact)
    return Answer(value, gap=gap, share=share, case_sensitive=case and kind == "text-entry")
