"""Bodies: any markup to the host's, links and pictures to their new addresses, and what it cannot express removed.

What is removed or left as it is, and needs a person, is a follow-up that says what it was.
"""

from __future__ import annotations

import html
from collections.abc import Iterable

from msgspec.structs import replace

from newburrow.convert.body import (
    comment_fragments,
    comment_place,
    lead_picture,
    macro_actions,
    structure,
)
from newburrow.convert.body.page import Page
from newburrow.convert.context import Context
from newburrow.core import plugins
from newburrow.core.problem import Problem, Say
from newburrow.dialects.macros import look_like_macros
from newburrow.markup.base import DEEPEST_WRITTEN, Markup, Unreadable, WritableMarkup
from newburrow.markup.html import Fragment, TooDeep, deeper_than, flattened
from newburrow.markup.sanitiser import sanitised
from newburrow.model import Body, Comment, Entry, Media, Question
from newburrow.model.bundle import Bundle

_LINES = frozenset(("p", "br"))
_SHOWN_LINKS = 5  # of those that were left out, in a follow-up


def step(bundle: Bundle, context: Context) -> tuple[Bundle, list[Problem]]:
    """Body, summary and comments as the new host takes them; a lead picture without a place goes first.

    Comments that the host has no place for are set apart, those for the closing section are put into the body.
    """
    entry, problems = bundle.entry, list[Problem]()
    seen: set[tuple[str, str, str]] = set()

    def say(code: str, **facts: object) -> None:
        detail = str(facts.pop("detail", ""))
        problem = Problem.about(entry, code, detail, **facts)
        # The same problem several times in one entry is one thing to do.
        if (code, problem.message, detail) not in seen:
            seen.add((code, problem.message, detail))
            problems.append(problem)

    base, lead = entry.permalink, bundle.lead_picture
    text = to_host_html(entry.body, base, context, say, lead).text + _lists(bundle, context)
    if entry.summary:
        summary = to_host_html(Body(entry.summary), base, context, say).text
    else:
        summary = ""
    places = [(comment, comment_place.where(comment, context)) for comment in bundle.comments]
    ends = [
        _with_html(comment, base, context, say)
        for comment, place in places
        if place == comment_place.SECTION
    ]
    text += comment_place.section(ends)
    stay = tuple(
        _of_host(comment, base, context, say)
        for comment, place in places
        if place == comment_place.HOST
    )
    aside = tuple(
        _with_html(comment, base, context, say)
        for comment, place in places
        if place == comment_place.FILE
    )
    entry = replace(entry, body=_written(text, context.markup, context, say), summary=summary)
    questions = tuple(
        _question(question, entry, context, problems) for question in bundle.questions
    )
    if not context.host.media.lead_picture:
        lead = None
    bundle = replace(
        bundle,
        entry=entry,
        comments=stay,
        questions=questions,
        set_apart=(*aside, *ends),
        lead_picture=lead,
    )
    return bundle, problems


def _lists(bundle: Bundle, context: Context) -> str:
    """What is said by a list of links, at new addresses, where a page has no text of its own.

    A document that becomes another kind leads to its files; a module on a host without courses to what is in it.
    """
    entry = bundle.entry
    if entry.body.text.strip():
        read = None
    else:
        read = context.store.get(Entry, entry.key)
    if read is None:
        return ""
    kind = context.decided(read).kind
    if kind == "document" and entry.kind != "document":
        return _list((file.address, file.title or file.address) for file in bundle.enclosures)
    if kind == "module" and not context.host.quizzes.questions:
        return _list(
            (place.new, inner.title)
            for inner in context.store.under(entry.key)
            if (place := context.journal.plan.get(inner.key)) and place.new
        )
    return ""


def _list(links: Iterable[tuple[str, str]]) -> str:
    lines = "".join(
        f'<li><a href="{html.escape(address)}">{html.escape(title, quote=False)}</a></li>\n'
        for address, title in links
    )
    if lines:
        return f"<ul>\n{lines}</ul>"
    return ""


def _question(
    question: Question, quiz: Entry, context: Context, problems: list[Problem]
) -> Question:
    """The question with its texts as the host takes them; what is said names quiz and number."""
    seen: set[tuple[str, str, str]] = set()
    place = f"“{quiz.title or quiz.key}”, question {question.position}"

    def say(code: str, **facts: object) -> None:
        detail = str(facts.pop("detail", ""))
        problem = Problem.about(question, code, detail, **facts)
        if (code, problem.message, detail) not in seen:
            seen.add((code, problem.message, detail))
            problems.append(replace(problem, message=f"{place}: {problem.message}"))

    def body(text: Body) -> Body:
        if not text.text:
            return Body()
        return to_host_html(text, quiz.permalink, context, say)

    def texts(asked: Question) -> Question:
        return replace(
            asked,
            prompt=body(asked.prompt),
            choices=tuple(replace(choice, body=body(choice.body)) for choice in asked.choices),
            feedback=tuple(replace(told, body=body(told.body)) for told in asked.feedback),
            rubric=body(asked.rubric),
            parts=tuple(map(texts, asked.parts)),
        )

    return texts(question)


def _with_html(comment: Comment, base: str, context: Context, say: Say) -> Comment:
    return replace(comment, body=to_host_html(comment.body, base, context, say))


def written_body(body: Body, page: str, context: Context, say: Say) -> Body:
    """A body in the markup of the new host; `page` is the old address of its page. See `to_host_html`."""
    return _written(to_host_html(body, page, context, say).text, context.markup, context, say)


def _of_host(comment: Comment, base: str, context: Context, say: Say) -> Comment:
    written = context.markup_of_comments
    text = to_host_html(
        comment.body, base, context, say, allowed=context.allowed_in_comments
    ).text
    return replace(comment, body=_written(text, written, context, say))


def _written(text: str, markup: WritableMarkup, context: Context, say: Say) -> Body:
    """An HTML text in the markup of the host; writers go down into it, so that it must not be nested too deep."""
    if markup.name != "html" and deeper_than(text, DEEPEST_WRITTEN):
        say("too-deep")
        text = flattened(text, DEEPEST_WRITTEN)
    made = markup.from_html(text, context.new_pages.name_at)
    if not markup.keeps_ids and text.strip():  # the markup cannot fall back on HTML
        shown = markup.to_html(made)
        changes = structure.changes(text, shown)
        if changes:
            say("structure-changed", detail=changes)
        wordless = structure.wordless_links(text, shown)
        in_code = structure.links_in_code(text, shown)
        for code, lost in (("link-without-words", wordless), ("link-in-code", in_code)):
            if lost:
                shown_links = ", ".join(lost[:_SHOWN_LINKS])
                say(code, number=f"{len(lost):,}", detail=shown_links)
    return Body(made, markup.name)


def _only_lines(text: str) -> bool:
    """Whether there are only paragraphs and lines in a text, and no address: then it needs no parser."""
    return "://" not in text and text.count("<") == text.count("<p>") + text.count(
        "</p>"
    ) + text.count("<br>")


def to_host_html(
    body: Body,
    base: str,
    context: Context,
    say: Say,
    lead: Media | None = None,
    allowed: frozenset[str] | None = None,
) -> Body:
    """One body as HTML with the links, embeds and elements that the new host accepts.

    `base` is the old address of its page, from which relative links are resolved. `lead` is a picture to
    show in the body, for a host without lead pictures. `allowed` are the elements that may stay; None: those
    of the host's profile. What has to change or go is reported with `say`. A body that is nested too deep is
    made flatter, and is reported.
    """
    markup: Markup = plugins.get(plugins.MARKUPS, body.markup)
    page_address, base = base, body.base or base
    if body.markup != "html":
        text = f"<pre>{html.escape(body.text, quote=False)}</pre>"
    else:
        text = body.text
    if allowed is None:
        allowed = context.allowed
    try:
        text = macro_actions.to_html(body.text, markup, page_address, context, say)
        for name in look_like_macros(body.text, body.markup, context.macros):
            say("macro-like", macro=name)
        if not lead and _only_lines(text) and (not allowed or allowed >= _LINES):
            return Body(text)
    except Unreadable as error:
        say("markup-unread", markup=body.markup, reason=error)
    try:
        page = Page(text, base, context, say, comment_fragments.follower(context), allowed)
    except TooDeep:
        say("too-deep")
        text = flattened(text)
        page = Page(text, base, context, say, comment_fragments.follower(context), allowed)
    page.missing_pages()
    page.give_heading_ids(body.markup)
    page.addresses()
    page.leave_heading_ids()
    page.handlers()
    page.embeds()
    if body.markup == "markdown":
        page.link_alone()
    page.styles()
    page.refused()
    if lead:
        _settle_lead(page.fragment, lead, context)
    page.say_alternatives()
    return Body(sanitised(page.fragment.html(), allowed, page.removed))


def _settle_lead(fragment: Fragment, lead: Media, context: Context) -> None:
    """Show the lead picture in a body where the host has no place for it, and only there."""
    rules = context.host.media
    if not rules.lead_picture:
        lead_picture.insert(fragment, lead)
    elif rules.lead_shown and lead_picture.remove(fragment, lead):
        context.tally["lead-once"] += 1
