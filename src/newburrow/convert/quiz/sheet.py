"""Questions as HTML for people: as a student sees them, and as a teacher does, with the right answers."""

from __future__ import annotations

import html
import re
from collections.abc import Iterable, Iterator
from functools import lru_cache

from newburrow.core import url
from newburrow.model import Answer, Body, Question
from newburrow.model.course import GAP_BEGINS, GAP_ENDS

_GAP = re.compile(f"{GAP_BEGINS}[^{GAP_BEGINS}{GAP_ENDS}]*{GAP_ENDS}")
_BLANK = "_____"
_SHORT = 1000  # characters of a text whose words are remembered
_TAG = re.compile(r"<[^>]*>")
_PICTURE = re.compile(r'<img\b[^>]*?src="([^"]*)"[^>]*>')
_ADDRESS = re.compile(r'\b(src|href|poster)="([^"]*)"')


def plain(body: Body) -> str:
    """A body as HTML whose links start from nowhere else."""
    if not body.base:
        return body.text

    def whole(found: re.Match[str]) -> str:
        address = html.unescape(found[2])
        if not address or address.startswith("#"):
            return found[0]
        return f'{found[1]}="{html.escape(url.resolve(body.base, address))}"'

    return _ADDRESS.sub(whole, body.text)


def question(asked: Question) -> str:
    """A question as a student sees it."""
    pieces = [_GAP.sub(_BLANK, plain(asked.prompt)), *_choices(asked)]
    return "\n".join(filter(None, pieces))


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
    """The right answers in words, each with its share where they share the points."""
    shown = {choice.name: words(choice.body) or choice.name for choice in asked.choices}
    made = []
    for answer in asked.answers:
        if answer.share <= 0:
            continue
        value = _answer(answer, shown)
        if answer.share != 1:
            value += f" ({answer.share:.0%})"
        made.append(value)
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


def _words(text: str) -> str:
    text = _PICTURE.sub(lambda found: f" (picture {found[1].rpartition('/')[2]}) ", text)
    text = _TAG.sub(" ", _GAP.sub(_BLANK, text))
    return " ".join(html.unescape(text).split())


# A student and a teacher see the same choices, before a move and after it.
_known_words = lru_cache(maxsize=2000)(_words)


def for_teachers(asked: Question) -> str:
    """What a teacher grades by: the kind of question, the right answers, and how it was scored."""
    right = answers(asked)
    pieces = [f"<p>This was a {asked.kind} question.</p>"]
    if right:
        pieces.append(_list([f"<li>{html.escape(line, quote=False)}</li>" for line in right]))
    if asked.scoring:
        pieces.append(f"<pre>{html.escape(asked.scoring, quote=False)}</pre>")
    return "\n".join(pieces)


def page(questions: Iterable[Question], has_answers: bool) -> str:
    """All questions of a quiz as a numbered list, and the answers in a part of their own, if they are to be shown."""
    asked, right = [], []
    for found in questions:
        points = f" <em>({found.points:g} points)</em>" if found.points is not None else ""
        asked.append(f"<li>{question(found)}{points}</li>")
        right.append(
            f"<li>{html.escape('; '.join(answers(found)) or 'no fixed answer', quote=False)}</li>"
        )
    if not asked:
        return ""
    made = f"<ol>\n{chr(10).join(asked)}\n</ol>"
    if has_answers:
        made += f"\n<h2>Answers</h2>\n<ol>\n{chr(10).join(right)}\n</ol>"
    return made
