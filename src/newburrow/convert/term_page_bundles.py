"""The pages that terms become, as bundles to write."""

from __future__ import annotations

import html
from collections.abc import Iterator

from newburrow.convert.context import Context
from newburrow.convert.plan import term_pages
from newburrow.convert.step import bodies
from newburrow.core import url
from newburrow.core.problem import Problem
from newburrow.model import Body, Entry, Term
from newburrow.model.bundle import Bundle


def bundles(context: Context) -> Iterator[tuple[Bundle, list[Problem]]]:
    """The pages made of terms, each with its problems."""
    for term in context.pages_of_terms.values():
        new = term_pages.address_of(term, context)
        if not new:
            continue
        choice = context.term_choices[term.key]
        problems: list[Problem] = []

        def say(
            code: str,
            term: Term = term,
            said: list[Problem] = problems,
            **facts: str,
        ) -> None:
            said.append(Problem.about(term, code, **facts))

        items = "".join(
            f'<li><a href="{html.escape(at)}">{html.escape(title, quote=False)}</a></li>\n'
            for title, at in context.planning.term_lists.of(term.key)
        )
        if term.description:
            words = bodies.to_host_html(Body(term.description), "", context, say).text
        else:
            words = ""
        if items:
            listed = f"{words}\n<ul>\n{items}</ul>"
        else:
            listed = words
        body = Body(context.markup.from_html(listed), context.markup.name)
        title = choice.new_name or term.name
        slug = url.last_name(new)
        yield (
            Bundle(
                Entry(
                    key=term_pages.key_of(term),
                    kind=term_pages.kind_of(context),
                    title=title,
                    slug=slug,
                    body=body,
                ),
                new_address=new,
            ),
            problems,
        )
