"""Questions as HTML for people: as a student sees them, and as a teacher does, with the right answers."""

from __future__ import annotations

import html
import re
from collections.abc import Iterable, Iterator
from functools import lru_cache
from urllib.parse import unquote

from newburrow.markup.resolved import resolved
from newburrow.model import Answer, Body, Question
from newburrow.model.course import BLANK, GAP

_SHORT = 1000  # characters of a text whose words are remembered
_TAG = re.compile(r"<[^>]*>")
_PICTURE = re.compile(r'<img\b[^>]*?src="([^"]*)"[^>]*>')


def plain(body: Body) -> str:
    """A body as HTML whose links start from nowhere else."""
    if body.base:
        return resolved(body.text, body.base)
    return body.text


def question(asked: Question) -> str:
    """A question as a student sees it; each part of a composite where it stands in the text."""
    parts = {part.key: part for part in asked.parts}

    def shown(gap: re.Match[str]) -> str:
        part = parts.get(gap[1])
        if part:
            return _part(part)
        return BLANK

    pieces = [GAP.sub(shown, plain(asked.prompt)), *_choices(asked)]
    return "\n".join(filter(None, pieces))


def _part(part: Question) -> str:
    """A part as it stands in a text; one that is written gets a blank."""
    if part.choices:
        return question(part)
    return f"{question(part)}{BLANK}"


def _choices(asked: Question) -> Iterator[str]:
    groups: dict[str, list[str]] = {}
    for choice in asked.choices:
        words = plain(choice.body) or choice.name
        groups.setdefault(choice.group, []).append(f"<li>{words}</li>")
    for lines in groups.values():
        yield _list(lines)


def _list(lines: list[str]) -> str:
    inner = "".join(line + "\n" for line in lines)
    return f"<ul>\n{inner}</ul>"


def answers(asked: Question) -> list[str]:
    """The right answers in words, and wrong ones that cost points, each with its share where they share the points.

    Those of a text with several blanks, and of a composite, come with the number of the blank or of the part.
    """
    shown = {choice.name: words(choice.body) or choice.name for choice in asked.choices}
    gaps = list(dict.fromkeys(answer.gap for answer in asked.answers))
    made = []
    for answer in asked.answers:
        if not answer.share:
            continue
        value = _answer(answer, shown)
        if answer.share != 1:
            value += f" ({answer.share:.0%})"
        if len(gaps) > 1:
            value = f"blank {gaps.index(answer.gap) + 1}: {value}"
        made.append(value)
    for number, part in enumerate(asked.parts, 1):
        made += [f"part {number}: {value}" for value in answers(part)]
    return made


def _answer(answer: Answer, shown: dict[str, str]) -> str:
    if answer.partner:
        pair = (shown.get(name, name) for name in (answer.value, answer.partner))
        return " \N{RIGHTWARDS ARROW} ".join(pair)
    if answer.lower is not None and answer.upper is not None and answer.lower != answer.upper:
        return f"{answer.lower:g} to {answer.upper:g}"
    if answer.is_pattern:
        return f"contains “{answer.value}”"
    return shown.get(answer.value, answer.value)


def words(body: Body) -> str:
    """The words of a text, with the names of its pictures; a gap is a line."""
    if len(body.text) > _SHORT:
        return _words(body.text)
    return _known_words(body.text)


def _picture(found: re.Match[str]) -> str:
    if found[1].startswith("data:"):  # it has no name
        return " (picture) "
    return f" (picture {unquote(found[1].rpartition('/')[2])}) "


def _words(text: str) -> str:
    text = _PICTURE.sub(_picture, text)
    text = _TAG.sub(" ", GAP.sub(BLANK, text))
    return " ".join(html.unescape(text).split())


# A student and a teacher see the same choices, before a move and after it.
_known_words = lru_cache(maxsize=2000)(_words)


def in_points(points: float) -> str:
    """A number of points in words."""
    if points == 1:
        return f"{points:g} point"
    return f"{points:g} points"


def for_teachers(asked: Question) -> str:
    """What a teacher grades by: the kind of question, the right answers, the feedback, and how it was scored."""
    pieces = [f"<p>Kind of question on the old host: {asked.kind}.</p>"]
    for title, lines in (("Right answers", answers(asked)), ("Feedback", feedback(asked))):
        if lines:
            shown = [f"<li>{html.escape(line, quote=False)}</li>" for line in lines]
            pieces += [f"<p>{title}:</p>", _list(shown)]
    pieces.append(rules(asked))
    return "\n".join(filter(None, pieces))


def feedback(asked: Question) -> list[str]:
    """Each feedback in words, with what it is shown on."""
    shown = {choice.name: words(choice.body) for choice in asked.choices}
    made = []
    for found in asked.feedback:
        if found.is_hint:
            on = "hint"
        else:
            on = f"on {shown.get(found.on, found.on)}"
        made.append(f"{on}: {words(found.body)}")
    return made


def rules(asked: Question) -> str:
    """The rules by which a question was scored, as the export has them."""
    parts = (asked.scoring, *(part.scoring for part in asked.parts))
    scoring = html.escape("\n".join(filter(None, parts)), quote=False)
    if scoring:
        return f"<p>Rules by which the old host scored it:</p>\n<pre>{scoring}</pre>"
    return ""


def page(questions: Iterable[Question], has_answers: bool) -> str:
    """All questions of a quiz as a numbered list, and the answers in a part of their own, if they are to be shown."""
    asked, right = [], []
    for found in questions:
        if found.points is not None:
            points = f" <em>({in_points(found.points)})</em>"
        else:
            points = ""
        asked.append(f"<li>{question(found)}{points}</li>")
        right.append(f"<li>{_settled(found)}</li>")
    if not asked:
        return ""
    made = f"<ol>\n{chr(10).join(asked)}\n</ol>"
    if has_answers:
        made += f"\n<h2>Answers</h2>\n<ol>\n{chr(10).join(right)}\n</ol>"
    return made


def _settled(asked: Question) -> str:
    """What is right in a question, what a student is told, and what a teacher grades by."""
    right = html.escape("; ".join(answers(asked)) or "no fixed answer", quote=False)
    lines = [f"<li>{html.escape(line, quote=False)}</li>" for line in feedback(asked)]
    pieces = [right, _list(lines) if lines else "", plain(asked.rubric), rules(asked)]
    return "\n".join(filter(None, pieces))


def has_secrets(asked: Question) -> bool:
    """Whether there is something about a question that its text does not show."""
    return bool(
        asked.answers
        or asked.feedback
        or asked.rubric.text
        or asked.scoring
        or any(map(has_secrets, asked.parts))
    )
