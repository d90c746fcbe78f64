"""Questions: each becomes one that the host has; on a host without quizzes they are written into the page."""

from __future__ import annotations

from collections.abc import Iterator

from msgspec.structs import replace

from newburrow.convert.context import Context
from newburrow.convert.quiz import fitting, sheet
from newburrow.core import plugins
from newburrow.core.problem import Problem
from newburrow.hosts.profile import QuizRules
from newburrow.markup.base import Markup, Unreadable
from newburrow.model import Body, Entry, Question, QuizSection
from newburrow.model.bundle import Bundle
from newburrow.store.journal.rows import Fate, LedgerRow

QUIZ_KINDS = ("quiz", "question-bank")


def settled(
    question: Question, quiz: Entry, number: int, fate: Fate, reason: str = "", new: str = ""
) -> LedgerRow:
    """The ledger's row for a question: its title is the quiz, the number and the first words."""
    title = f"{quiz.title or quiz.key}, {number}: {fitting.words_of(question)}"
    return LedgerRow(
        "question", question.key, "question", fate, reason, title, quiz.permalink, new
    )


def is_chosen(number: int, question: Question, quiz: Entry, context: Context) -> bool:
    """Whether a question is one of those that move: by its id, or by its quiz and number."""
    wanted = context.decisions.choose.questions
    return not wanted or bool({question.key, f"{quiz.title}, {number}"} & set(wanted))


def step(bundle: Bundle, context: Context) -> tuple[Bundle, list[Problem]]:
    """The questions as the new host takes them, their texts with links and files as those of pages."""
    taken = context.host.quizzes.questions
    if not bundle.questions and not (bundle.entry.quiz and bundle.entry.quiz.sections):
        return bundle, []
    bundle, problems = _with_drawn(bundle, context)
    if not taken:
        return _as_page(bundle, context), [*problems, *_hidden(bundle, context)]
    if bundle.entry.quiz:
        bundle, lost = _with_settings_of_host(bundle, context)
        problems += lost
    made: list[Question] = []
    for number, question in enumerate(bundle.questions, 1):
        question = replace(
            question, position=number
        )  # its number in the old quiz, also for parts of it
        became = fitting.fitted(question, taken)
        if context.host.quizzes.gaps == 1 and fitting.needs_parts(question):
            became = fitting.one_gap_each(question, taken)
        place = f"“{bundle.entry.title or bundle.entry.key}”, question {number} (“{fitting.words_of(question)}”)"
        problems += _said(question, became, place)
        became, lost = _with_known_rubrics(became, context.host.quizzes, place)
        problems += lost
        made += became
    return replace(bundle, questions=tuple(made)), problems


def _with_known_rubrics(
    became: list[Question], rules: QuizRules, place: str
) -> tuple[list[Question], list[Problem]]:
    """The questions without texts for teachers that the host has no place for."""
    made, problems = [], list[Problem]()
    for question in became:
        if question.rubric.text and question.kind not in (rules.rubrics or rules.questions):
            shown = sheet.words(question.rubric)
            problems.append(Problem.about(question, "rubric-lost", shown, place=place))
            question = replace(question, rubric=Body())
        made.append(question)
    return made, problems


def _said(question: Question, became: list[Question], place: str) -> list[Problem]:
    """What to say of a question that became another kind."""
    if not became:
        return [Problem.about(question, "question-lost", place=place, kind=question.kind)]
    if became[0].kind == "essay" and question.kind != "essay":
        return [Problem.about(question, "question-as-essay", place=place, kind=question.kind)]
    if len(became) > 1:
        return [
            Problem.about(
                question,
                "question-in-parts",
                place=place,
                kind=question.kind,
                number=len(became),
            )
        ]
    return []


def _with_drawn(bundle: Bundle, context: Context) -> tuple[Bundle, list[Problem]]:
    """The quiz with the banks that it draws from, or with their questions written out, as the host or you decide."""
    entry, quiz = bundle.entry, bundle.entry.quiz
    if quiz is None:
        return bundle, []
    problems: list[Problem] = []
    keeps = context.host.quizzes.draws and context.decisions.quizzes.draws == "keep"
    banks: dict[str, dict[str, float]] = {}
    questions, sections = list(bundle.questions), list[QuizSection]()
    for section in quiz.sections:
        bank = section.bank and context.store.get(Entry, _bank_key(section.bank, context))
        drawn = context.store.questions_of(bank.key) if bank else []
        if section.bank and not bank:
            problems.append(Problem.about(entry, "no-bank", bank=section.bank))
            if not any(question.section == section.name for question in questions):
                continue
            section = replace(section, bank="", points_each=None)
        if bank and keeps:
            banks[bank.key] = {
                question.key: 1.0 if question.points is None else question.points
                for question in drawn
            }
            sections.append(replace(section, bank=bank.key))
            continue
        if section.draw and not keeps:
            total = len(drawn) or sum(
                question.section == section.name for question in questions
            )
            problems.append(
                Problem.about(entry, "draw-written-out", draw=section.draw, total=total)
            )
        questions += (_copied(question, entry, section) for question in drawn)
        sections.append(section if keeps else replace(section, draw=0, bank=""))
    entry = replace(entry, quiz=replace(quiz, sections=tuple(sections)))
    return replace(bundle, entry=entry, questions=tuple(questions), banks=banks), problems


def _bank_key(word: str, context: Context) -> str:
    """The key of the bank that a quiz names, by key or by the identifier that its file has."""
    if context.store.get(Entry, word):
        return word
    return context.store.key_of_guid(word, "question-bank")


def _copied(question: Question, quiz: Entry, section: QuizSection) -> Question:
    if section.points_each is None:
        points = question.points
    else:
        points = section.points_each
    key = f"{quiz.key}/{question.key}"
    return replace(question.worth(points), key=key, entry=quiz.key, section=section.name)


def _hidden(bundle: Bundle, context: Context) -> Iterator[Problem]:
    """What to say of answers that the page of a quiz does not show."""
    is_hidden = context.decisions.quizzes.answers == "hidden"
    if is_hidden and any(map(sheet.has_secrets, bundle.questions)):
        yield Problem.about(bundle.entry, "answers-hidden")


def _as_page(bundle: Bundle, context: Context) -> Bundle:
    """The entry with its questions in its text."""
    entry = bundle.entry
    made = sheet.page(bundle.questions, context.decisions.quizzes.answers == "at-end")
    markup: Markup = plugins.get(plugins.MARKUPS, entry.body.markup)
    try:
        text = markup.to_html(entry.body.text)
    except Unreadable:
        return bundle
    body = Body("\n".join(filter(None, (sheet.plain(replace(entry.body, text=text)), made))))
    return replace(bundle, entry=replace(entry, body=body, quiz=None), questions=())


def _with_settings_of_host(bundle: Bundle, context: Context) -> tuple[Bundle, list[Problem]]:
    """The quiz without the settings that the host does not have, each with a follow-up."""
    quiz, rules = bundle.entry.quiz, context.host.quizzes
    assert quiz is not None
    lost = []
    if not rules.dates:
        lost += [name for name in ("opens", "due", "closes") if getattr(quiz, name)]
        quiz = replace(quiz, opens=None, due=None, closes=None)
    if quiz.kind not in rules.kinds:
        lost.append(f"that it is of the kind {quiz.kind}")
        quiz = replace(quiz, kind=rules.kinds[0])
    if quiz.passing_points is not None:
        lost.append("the points to pass")
        quiz = replace(quiz, passing_points=None)
    if not rules.sections:
        if len(quiz.sections) > 1:
            lost.append(f"its {len(quiz.sections)} sections")
        if any(section.shuffle for section in quiz.sections):
            lost.append("the shuffled order of its questions")
        drawn = [section for section in quiz.sections if section.bank or section.draw]
        quiz = replace(quiz, sections=tuple(drawn))
    problems = [
        Problem.about(bundle.entry, "quiz-setting", setting=setting) for setting in lost
    ]
    return replace(bundle, entry=replace(bundle.entry, quiz=quiz)), problems
