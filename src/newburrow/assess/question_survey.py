"""A look at the texts of questions: what they link to and show, as `entry_survey` looks at those of entries."""

from __future__ import annotations

from newburrow.assess.body_scan import SPECIAL, things
from newburrow.assess.entry_survey import EntryFindings
from newburrow.markup.html import TooDeep
from newburrow.model import Entry, Question
from newburrow.store.content_store import Store
from newburrow.store.link_index import LinkIndex


def look(store: Store, linked: LinkIndex, entry_findings: EntryFindings) -> None:
    """Note the links of all questions in `linked`, and what gives trouble with what is known of the entries."""
    notes, remote = entry_findings.notes, entry_findings.remote
    for question in store.questions_with_links():
        for body in question.texts():
            try:
                found = list(things(body.text))
            except TooDeep:
                notes.note("too-deep", name_of(question, store))
                continue
            for tag, value in found:
                if tag in SPECIAL:
                    notes.note(SPECIAL[tag], name_of(question, store))
                elif (host := linked.link(tag, value, body.base, question.key)) and tag != "a":
                    remote[host] += 1


def name_of(question: Question, store: Store) -> str:
    """The name by which a person knows a question: its quiz and its number there."""
    quiz = store.get(Entry, question.entry)
    title = (quiz.title if quiz else "") or question.entry
    return f"{title}, question {question.position}"
