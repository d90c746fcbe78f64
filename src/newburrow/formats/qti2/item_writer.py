"""Questions as items of QTI 2.1 (Assessment Test, Section and Item Information Model, sections 5 to 8)."""

from __future__ import annotations

import mimetypes
import re
from collections.abc import Callable, Iterator
from html import unescape

from newburrow.formats.qti2 import rules
from newburrow.formats.qti2.names import Names
from newburrow.formats.qti2.text_with_interactions import with_parts
from newburrow.formats.xml_output import attribute, text
from newburrow.markup.html_tags import WHOLE_TAG
from newburrow.markup.xhtml import blocks, xhtml
from newburrow.model import Body, Choice, Feedback, Question
from newburrow.model.course import GAP

NAMESPACE = "http://www.imsglobal.org/xsd/imsqti_v2p1"
SCHEMA = (
    f'xmlns="{NAMESPACE}" xmlns:xsi="http://www.w3.org/2001/XMLSchema-instance" '
    f'xsi:schemaLocation="{NAMESPACE} http://www.imsglobal.org/xsd/qti/qtiv2p1/imsqti_v2p1.xsd"'
)
Html = Callable[[Body], str]  # a body as the HTML that stands in the package
_MARK = re.compile(r"<mark>((?:(?!<mark>).)*?)</mark>", re.DOTALL)  # one within another is left
_ATTRIBUTES = re.compile(r' (?!(?:href|src|alt|height|width|headers|scope|rowspan|colspan|class|cite|type|xml:lang)=)'
                         r'[\w:.-]+="[^"]*"')  # fmt: skip
_WITHIN = (
    "inline-choice",
    "text-entry",
    "numerical",
    "pattern-match",
)  # interactions within a line
_AROUND = ("gap-match", "hot-text")  # those that hold the text
_BLOCK = re.compile(r"</?(?:p|div)\b[^>]*>")
_IMG = re.compile(r'<img [^>]*src="[^"]+"[^>]*>')
_PART = re.compile(r'([a-z]+)="([^"]*)"')
_NO_ALT = re.compile(r"<img(?![^>]* alt=)([^>]*)/>")


def item(question: Question, ident: str, html: Html) -> str:
    """The `assessmentItem` of a question."""
    return "".join(_LinesOfQti2(rules.with_points(question), html).lines(ident))


def plain(made: str) -> str:
    """XHTML with the attributes that QTI takes (section 6)."""
    if "=" not in made and "<img" not in made:  # as most texts of choices
        return made
    return WHOLE_TAG.sub(_plain_tag, made)


def _plain_tag(found: re.Match[str]) -> str:
    tag = _ATTRIBUTES.sub("", found[0].replace(" lang=", " xml:lang="))
    return _NO_ALT.sub(r'<img alt=""\1/>', tag)


class _LinesOfQti2:
    """One item being written, or the interaction of one part of a composite."""

    def __init__(self, question: Question, html: Html, names: Names | None = None) -> None:
        self.question, self.html = question, html
        self.names = names or Names(question)
        self.is_part = names is not None

    def lines(self, ident: str) -> Iterator[str]:
        """The item, line by line."""
        question = self.question
        title = attribute(question.title or "Question")
        yield (
            f'<?xml version="1.0" encoding="UTF-8"?>\n<assessmentItem {SCHEMA} identifier="{ident}" title={title} '
            'adaptive="false" timeDependent="false">\n'
        )
        yield from rules.declarations(question, self.names)
        yield "<itemBody>\n"
        yield from self._body()
        yield "</itemBody>\n"
        yield from rules.processing(question, self.names)
        for name, feedback in rules.named_feedback(question, self.names):
            yield self._modal(name, feedback)
        yield "</assessmentItem>\n"

    def _flow(self, body: Body) -> str:
        return plain(blocks(self.html(body)))

    def _inline(self, body: Body) -> str:
        return plain(xhtml(self.html(body)))

    def _body(self) -> Iterator[str]:
        question = self.question
        if question.rubric.text:
            yield f'<rubricBlock view="scorer">\n{self._flow(question.rubric)}\n</rubricBlock>\n'
        kind = question.kind
        prompt = self._flow(question.prompt)
        if question.parts:
            yield with_parts(prompt, dict(self._parts()))
        elif kind in _AROUND:
            yield from self._around(prompt)
        elif kind in _WITHIN:
            filled = GAP.sub(self._gap, prompt)
            yield f"{filled}\n"
            if filled == prompt:
                yield f"<p>{self._gap(None)}</p>\n"
        else:
            yield f"{prompt}\n" if prompt else ""
            yield from self._interaction()
        if any(feedback.is_hint for feedback in question.feedback):
            yield '<p><endAttemptInteraction responseIdentifier="HINT" title="Hint"/></p>\n'

    def _parts(self) -> Iterator[tuple[str, tuple[str, bool]]]:
        """The interaction of each part of a composite, and whether it stands within a line."""
        for part in self.question.parts:
            lines = _LinesOfQti2(part, self.html, self.names.part(part.key))
            yield part.key, (lines.interaction(), part.kind in _WITHIN)

    def interaction(self) -> str:
        """The interaction of a part."""
        kind = self.question.kind
        if kind in _WITHIN:
            return self._gap(None)
        if kind in _AROUND:
            return "".join(self._around(self._flow(self.question.prompt)))
        return "".join(self._interaction())

    def _prompt(self) -> str:
        """The words of a part, which stand in its interaction."""
        words = self._inline(self.question.prompt) if self.is_part else ""
        if words:
            return f"<prompt>{_BLOCK.sub('', words)}</prompt>\n"
        return ""

    def _gap(self, found: re.Match[str] | None) -> str:
        """The interaction at a gap in the text."""
        name = found[1] if found else ""
        ident = self.names.response(name)
        if self.question.kind != "inline-choice":
            return f'<textEntryInteraction responseIdentifier="{ident}" expectedLength="20"/>'
        choices = "".join(
            self._listed(choice)
            for choice in self.question.choices
            if choice.group in (name, "")
        )
        named = f'responseIdentifier="{ident}" shuffle="{self._shuffle()}"'
        return f"<inlineChoiceInteraction {named}>{choices}</inlineChoiceInteraction>"

    def _listed(self, choice: Choice) -> str:
        words = text(_words(self._inline(choice.body)))
        return f'<inlineChoice identifier="{self.names.choice(choice)}">{words}</inlineChoice>'

    def _shuffle(self) -> str:
        if self.question.shuffle:
            return "true"
        return "false"

    def _around(self, prompt: str) -> Iterator[str]:
        """Interactions that hold the text: gaps to drop something into, and words to choose."""
        question = self.question
        if question.kind == "hot-text":
            waiting = iter(question.choices)

            def hot(found: re.Match[str]) -> str:
                choice = next(waiting, None)
                if choice is None:
                    return found[1]
                return f'<hottext identifier="{self.names.choice(choice)}">{found[1]}</hottext>'

            marked = _MARK.sub(hot, prompt)
            named = (
                f'responseIdentifier="{self.names.response("")}" maxChoices="{question.most}"'
            )
            yield f"<hottextInteraction {named}>\n{marked}\n</hottextInteraction>\n"
            return
        named = f'responseIdentifier="{self.names.response("")}" shuffle="{self._shuffle()}"'
        yield f"<gapMatchInteraction {named}>\n"
        for choice in question.choices:
            if choice.group != "target":
                yield self._dragged(choice)
        yield GAP.sub(lambda found: f'<gap identifier="{self.names.of(found[1])}"/>', prompt)
        yield "\n</gapMatchInteraction>\n"

    def _dragged(self, choice: Choice) -> str:
        """What is dragged into a gap: words, or one picture (QTI 2.1, section 7.3)."""
        made = self._inline(choice.body)
        named = f'identifier="{self.names.choice(choice)}" matchMax="{choice.most}"'
        picture = _IMG.search(made)
        if not picture:
            return f"<gapText {named}>{text(_words(made))}</gapText>\n"
        parts = dict(_PART.findall(picture[0]))
        address = parts["src"]
        type_ = mimetypes.guess_type(unescape(address))[0] or "image/png"
        words = " ".join(filter(None, (parts.get("alt"), text(_words(made)))))
        return f'<gapImg {named}><object data="{address}" type="{type_}">{words}</object></gapImg>\n'

    def _interaction(self) -> Iterator[str]:
        question, shuffle = self.question, f' shuffle="{self._shuffle()}"'
        kind, named = question.kind, f'responseIdentifier="{self.names.response("")}"'
        prompt = self._prompt()
        if kind in ("choice", "true-false", "multiple-choice"):
            most = 1 if kind != "multiple-choice" else question.most
            yield f'<choiceInteraction {named}{shuffle} maxChoices="{most}">\n{prompt}'
            yield from (self._choice("simpleChoice", choice) for choice in question.choices)
            yield "</choiceInteraction>\n"
        elif kind == "order":
            yield f"<orderInteraction {named}{shuffle}>\n{prompt}"
            yield from (self._choice("simpleChoice", choice) for choice in question.choices)
            yield "</orderInteraction>\n"
        elif kind == "associate":
            yield f'<associateInteraction {named}{shuffle} maxAssociations="{question.most}">\n{prompt}'
            yield from (
                self._choice("simpleAssociableChoice", choice) for choice in question.choices
            )
            yield "</associateInteraction>\n"
        elif kind == "match":
            yield f'<matchInteraction {named}{shuffle} maxAssociations="{question.most}">\n{prompt}'
            for group in ("source", "target"):
                yield "<simpleMatchSet>\n"
                chosen = [choice for choice in question.choices if choice.group == group]
                yield from (self._choice("simpleAssociableChoice", choice) for choice in chosen)
                yield "</simpleMatchSet>\n"
            yield "</matchInteraction>\n"
        elif kind == "essay":
            yield _element("extendedTextInteraction", f'{named} expectedLines="10"', prompt)
        elif kind == "upload":
            yield _element("uploadInteraction", named, prompt)

    def _choice(self, tag: str, choice: Choice) -> str:
        fixed = ' fixed="true"' if choice.fixed else ""
        if tag == "simpleAssociableChoice":
            most = f' matchMax="{choice.most}"'
        else:
            most = ""
        return f'<{tag} identifier="{self.names.choice(choice)}"{fixed}{most}>{self._inline(choice.body)}</{tag}>\n'

    def _modal(self, name: str, feedback: Feedback) -> str:
        outcome = "SOLUTION" if name == "solution" else "FEEDBACK"
        return (
            f'<modalFeedback outcomeIdentifier="{outcome}" identifier="{name}" showHide="show">'
            f"{self._flow(feedback.body)}</modalFeedback>\n"
        )


def _element(tag: str, attributes: str, content: str) -> str:
    if content:
        return f"<{tag} {attributes}>\n{content}</{tag}>\n"
    return f"<{tag} {attributes}/>\n"


def _words(made: str) -> str:
    """The words of XHTML, for what takes no markup."""
    return unescape(" ".join(re.sub(r"<[^>]*>", " ", made).split()))
