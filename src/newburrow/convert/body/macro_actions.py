"""What becomes of each macro in a body: HTML by a template, its inner text, nothing, or a follow-up."""

from __future__ import annotations

import html

from newburrow.convert.context import Context
from newburrow.core import url
from newburrow.core.problem import Say
from newburrow.core.template import TemplateFailed
from newburrow.dialects import macros
from newburrow.dialects.macros import MacroUse
from newburrow.markup.base import Markup
from newburrow.model import Media

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
        self.names = context.named_links.at(page)

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
