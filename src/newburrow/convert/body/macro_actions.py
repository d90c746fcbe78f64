"""What becomes of each macro in a body: HTML by a template, its inner text, nothing, or a follow-up."""

from __future__ import annotations

import html

from newburrow.convert.context import Context
from newburrow.core import plugins, url
from newburrow.core.problem import Say
from newburrow.core.template import TemplateFailed
from newburrow.dialects import macros
from newburrow.dialects.macros import MacroUse
from newburrow.markup.base import Markup, Unreadable
from newburrow.model import Entry, Media

_DEEPEST = 5  # macros within macros


def to_html(text: str, markup: Markup, page: str, context: Context, say: Say) -> str:
    """A body as HTML, after the dialects' actions on the macros in it. `page` is the old address of its page.

    A macro is kept as text, removed, unwrapped or replaced by its template, as its dialect says; each that
    a person must look at is reported with `say`. Raises TooDeep if the body is nested too deep to convert.
    """
    if not any(sign in text for sign in macros.signs(context.macros)):
        return markup.to_html(text, context.named_links.at(page))
    return _Macros(markup, page, context, say).to_html(text, 0)


class _Macros:
    def __init__(self, markup: Markup, page: str, context: Context, say: Say) -> None:
        self.markup, self.context, self.say = markup, context, say
        self.names, self.page = context.named_links.at(page), page
        self.within = set[str]()  # keys of the pages that are being included

    def to_html(self, text: str, depth: int) -> str:
        if depth < _DEEPEST:
            known = self.context.macros
        else:
            known = ()
        if known:
            bare, found = macros.taken_out(text, known)
        else:
            bare, found = (text, [])
        made = self.markup.to_html(bare, self.names)
        if found:
            return macros.put_back(made, found, lambda use: self._made(use, depth))
        return made

    def _made(self, use: MacroUse, depth: int) -> str:
        macro, shown = use.macro, html.unescape(use.written)
        if macro.about:
            about = f" ({macro.about})"
        else:
            about = ""
        if macro.do == "template":
            if use.inner:
                inner = self.to_html(use.inner, depth + 1)
            else:
                inner = ""
            try:
                return macros.rendered(use, inner, self._file)
            except TemplateFailed as error:
                self.say("macro-failed", macro=f"{shown}{about}", reason=error)
                return html.escape(use.written, quote=False)
        if macro.do == "include":
            return self._included(use, depth)
        if macro.do == "inner":
            self.say(
                "macro-replaced",
                message=f"{_short(shown)}{about} was replaced by the text in it.",
            )
            return self.to_html(use.inner, depth + 1)
        if macro.do == "drop":
            self.say("macro-replaced", message=f"{_short(shown)}{about} was removed.")
            return ""
        self.say("macro", macro=f"{shown}{about}")
        if self.markup.name == "html":
            return use.written
        return html.escape(use.written, quote=False)

    def _included(self, use: MacroUse, depth: int) -> str:
        """The text of the page that a macro shows; one that is within itself is a link to it."""
        named, plain = macros.arguments(use.words)
        name = next(iter([*named.values(), *plain]), "")
        names = self.context.store.page_names
        key = names.key(name)
        entry = self.context.store.get(Entry, key) if key else None
        if entry is None:
            self.say("include-missing", page=name or "(none)")
            return ""
        link = f'<p><a href="{html.escape(entry.permalink)}">{html.escape(name, quote=False)}</a></p>'
        if key in self.within or depth >= _DEEPEST or entry.permalink == self.page:
            self.say("include-circle", page=name)
            return link
        self.say("included", page=entry.title or name)
        markup: Markup = plugins.get(plugins.MARKUPS, entry.body.markup)
        inner = _Macros(markup, entry.permalink, self.context, self.say)
        inner.within, inner.page = {*self.within, key}, self.page
        try:
            return inner.to_html(entry.body.text, depth + 1)
        except Unreadable:  # which is said of that page
            return link

    def _file(self, key: str) -> dict[str, str]:
        """Facts of a file by its id: `address` (empty where there is none), `alternative_text`, `caption`, `title`."""
        media = self.context.store.get(Media, key.strip())
        names = ("alternative_text", "caption", "title")
        if media is None:
            self.say(
                "missing-picture",
                message=f"A macro shows the file {key!r}, which is not in the export.",
            )
            return dict.fromkeys(("address", *names), "")
        return {
            "address": media.address or url.resolve(self.context.old.address, f"/{media.path}"),
            **{name: getattr(media, name) for name in names},
        }


def _short(text: str) -> str:
    if len(text) < 80:
        return text
    return text[:77] + "…"
