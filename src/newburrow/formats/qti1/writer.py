"""Quizzes and question banks as files of QTI 1.2 in the profile of Common Cartridge (1.3, section 4.6)."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from newburrow.formats.qti1.item_writer import Html, field, item, material
from newburrow.formats.xml_output import attribute
from newburrow.model import Entry, Question, Quiz

_HEAD = (
    '<?xml version="1.0" encoding="UTF-8"?>\n'
    '<questestinterop xmlns="http://www.imsglobal.org/xsd/ims_qtiasiv1p2" '
    'xmlns:xsi="http://www.w3.org/2001/XMLSchema-instance" '
    'xsi:schemaLocation="http://www.imsglobal.org/xsd/ims_qtiasiv1p2 '
    'http://www.imsglobal.org/profile/cc/ccv1p3/ccv1p3_qtiasiv1p2p1_v1p0.xsd">\n'
)


def bank(
    entry: Entry, ident: str, questions: Iterable[tuple[str, Question]], html: Html
) -> Iterator[str]:
    """The file of a question bank; `questions` come with their identifiers."""
    yield f'{_HEAD}<objectbank ident="{ident}">\n'
    if entry.title:
        yield f"<qtimetadata>\n{field('bank_title', entry.title)}</qtimetadata>\n"
    for name, question in questions:
        yield item(question, name, html)
    yield "</objectbank>\n</questestinterop>\n"


def quiz(
    entry: Entry, ident: str, questions: Iterable[tuple[str, Question]], html: Html
) -> Iterator[str]:
    """The file of a quiz; `questions` come with their identifiers."""
    facts = entry.quiz or Quiz()
    yield f'{_HEAD}<assessment ident="{ident}" title={attribute(entry.title)}>\n<qtimetadata>\n'
    yield field("cc_profile", "cc.exam.v0p1")
    yield from _metadata(facts)
    yield "</qtimetadata>\n"
    if entry.body.text:
        yield f"<rubric>\n{material(html(entry.body))}</rubric>\n"
    yield '<section ident="root_section">\n'
    for name, question in questions:
        yield item(question, name, html)
    yield "</section>\n</assessment>\n</questestinterop>\n"


def _metadata(facts: Quiz) -> Iterator[str]:
    kinds = {"exam": "Examination", "survey": "Survey"}
    if facts.kind in kinds:
        yield field("qmd_assessmenttype", kinds[facts.kind])
    yield field("qmd_scoretype", "Percentage")
    if facts.minutes:
        yield field("qmd_timelimit", f"{facts.minutes:.12g}")
    yield field(
        "cc_maxattempts", "unlimited" if facts.attempts is None else str(facts.attempts)
    )
    yield field("qmd_feedbackpermitted", "Yes" if facts.gives_feedback else "No")
    yield field("qmd_hintspermitted", "Yes" if facts.gives_hints else "No")
    yield field("qmd_solutionspermitted", "Yes" if facts.shows_answers else "No")
