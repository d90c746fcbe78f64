"""Why a body is not as it was on the old site: the follow-up that says so, or what the move always does."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from newburrow.model import Entry, Media
from newburrow.model.bundle import Bundle
from newburrow.verify.addresses import compared
from newburrow.verify.body_facts import (
    ASPECTS,
    CODE,
    EMBEDS,
    HEADINGS,
    LINKS,
    LISTS,
    PICTURES,
    QUOTES,
    TABLES,
    WORDS,
    BodyFacts,
)
from newburrow.verify.fidelity import shared

_STRUCTURE = (HEADINGS, LISTS, TABLES, CODE, QUOTES)
# Code of a follow-up about an entry -> the aspects of its body that it explains.
_EXPLAINED: Mapping[str, tuple[str, ...]] = {
    **dict.fromkeys(
        (
            "macro",
            "macro-replaced",
            "macro-failed",
            "included",
            "include-circle",
            "include-missing",
            "markup-unread",
            "too-deep",
            "element",
            "script",
            "form",
        ),
        ASPECTS,
    ),
    "words-out": (WORDS, *_STRUCTURE),
    "structure-changed": _STRUCTURE,
    "embed": (EMBEDS, LINKS, WORDS),
    "attribute": (LINKS, PICTURES, EMBEDS),
    "attributes-cut": (LINKS, PICTURES, EMBEDS),
    "script-link": (LINKS, EMBEDS),
    "link-without-words": (LINKS,),
    "link-in-code": (LINKS,),
    "picture-out": (PICTURES, LINKS, WORDS),
    "missing-picture": (PICTURES, LINKS, WORDS),
    "missing-file": (LINKS, PICTURES),
    "remote-file": (PICTURES, EMBEDS, LINKS),
    "dead-link": (LINKS, PICTURES, EMBEDS),
    "link-to-left-out": (LINKS, PICTURES, EMBEDS),
    "red-link": (LINKS,),
    "section-lost": (LINKS,),
    "older-version": (LINKS,),
    "file-elsewhere": (LINKS, PICTURES),
}


class Explanations:
    """What explains the body of one entry."""

    def __init__(
        self, codes: Mapping[str, str], source: Entry, handed: Bundle, lead: Media | None
    ) -> None:
        """`codes` has the follow-ups about the entry: code -> message; `lead` is its lead picture on the new site."""
        self._codes, self._source, self._handed, self._lead = codes, source, handed, lead

    def why(self, aspect: str, before: BodyFacts, after: BodyFacts) -> str:
        """Why an aspect is not as it was; empty where nothing says so."""
        found = [code for code in self._codes if aspect in _EXPLAINED.get(code, ())]
        if found:
            code = min(found, key=lambda code: len(_EXPLAINED[code]))  # the one that says most
            return f"{code}: {self._codes[code]}"
        old, new = before.of(aspect), after.of(aspect)
        if self._is_lead(aspect, old, new):
            return "the lead picture stands where the new host shows it"
        if _is_film(aspect, before, after):
            return (
                "the new host shows a film or frame from its address, which stands in the text"
            )
        if aspect == LINKS and _without_sections(old) == _without_sections(new):
            return "a link leads to the same page, within which the new host names places in its own way"
        if shared(old, new) == len(old):
            return self._why_added(aspect)
        return ""

    def _why_added(self, aspect: str) -> str:
        """What the move adds to the bodies of such an entry, without a follow-up for each."""
        if self._source.kind in ("quiz", "question-bank") and not self._handed.questions:
            return "the new host has no quizzes: the questions stand in the text"
        if self._source.kind in ("module", "document") and not self._source.body.text.strip():
            return "a page without a text lists what belongs to it"
        if self._handed.set_apart and aspect in (WORDS, HEADINGS, LISTS, LINKS):
            return "the comments stand at the end of the text"
        return ""

    def _is_lead(self, aspect: str, old: Sequence[str], new: Sequence[str]) -> bool:
        """Whether the lead picture, or its caption, is all that has come or gone."""
        if self._lead is None:
            return False
        signs = {
            PICTURES: [compared(self._lead.address, "")],
            WORDS: self._lead.caption.split(),
        }.get(aspect, [])
        return bool(signs) and (
            signs + list(old) == list(new) or signs + list(new) == list(old)
        )


def _without_sections(links: Sequence[str]) -> list[str]:
    return [link.partition("#")[0] for link in links]


def _is_film(aspect: str, before: BodyFacts, after: BodyFacts) -> bool:
    """Whether addresses of embeds, which stand as words now, are all that has changed of an aspect."""
    embeds = set(before.of(EMBEDS))
    shown = [word for word in after.words if "://" in word and compared(word, "") in embeds]
    if not shown:
        return False
    if aspect == EMBEDS:
        return embeds - set(after.of(EMBEDS)) == {compared(word, "") for word in shown}
    if aspect == WORDS:
        return [word for word in after.words if word not in shown] == before.words
    return False
