"""A host's placeholders: found in a text, and put in place of them what the dialect says."""

from __future__ import annotations

import html
import re
from collections.abc import Callable, Iterator, Mapping, Sequence
from functools import lru_cache

from msgspec import Struct

from newburrow.core import template
from newburrow.dialects.schema import Macro

_OPEN, _CLOSE = "\ue000", "\ue001"  # around the number of a macro that is replaced for a while
_TOKEN = re.compile(f"{_OPEN}(\\d+){_CLOSE}")
_QUOTED = r"\"[^\"]*+\"|'[^']*+'"
# How a form begins and ends; the words go up to its end, with the stroke of one that closes itself.
_PLACES = {
    "bracket": (
        r"\[\s*+({names})(?![\w-])(?P<words>(?:[^\[\]\"']|" + _QUOTED + r")*+)\]",
        r"\[\s*+/\s*+{name}\s*+\]",
        "[",
    ),
    "brace": (
        r"\{{\{{\s*+({names})(?![\w-])(?P<words>[^{{}}]*+)\}}\}}",
        r"\{{\{{\s*+/\s*+{name}\s*+\}}\}}",
        "{{",
    ),
    "tag": (
        r"<{{1,2}}\s*+({names})(?![\w-])(?P<words>(?:[^<>\"']|" + _QUOTED + r")*+)>{{1,2}}",
        r"<\s*+/\s*+{name}\s*+>",
        "<",
    ),
    "line": (
        r"(?m)(?:^|(?<=<p>)|(?<=<br>))[ \t]*+({names})(?![\w-])(?P<words>[^<\n]*+)(?=$|</p>|<br)",
        "",
        "",
    ),
}
_CODE = re.compile(
    r"<(pre|code|script|style|textarea)\b.*?(?:</\1\s*>|\Z)", re.IGNORECASE | re.DOTALL
)
_PAIR = re.compile(
    r"""([\w-]+)\s*[=:]\s*(?:"([^"]*)"|'([^']*)'|([^\s|,"']+))|"([^"]*)"|'([^']*)'|([^\s|"'=]+)"""
)
_LIKE = re.compile(
    r"\[(?P<a>[a-z][\w-]*)\s+[\w-]+\s*=[^\[\]]*\]|\[/(?P<b>[a-z][\w-]*)\]|\{\{\s*(?P<c>[a-z][\w-]*)[^{}]*\}\}",
    re.I,
)
_QUOTES = str.maketrans(
    {"\u201c": '"', "\u201d": '"', "\u2033": '"', "\u2019": "'", "\u2018": "'"}
)


class MacroUse(Struct, frozen=True):
    """One use of a macro in a text."""

    macro: Macro
    start: int
    end: int
    written: str
    words: str  # between its name and its end
    inner: str  # between it and its end tag; empty where it has none


@lru_cache(maxsize=64)
def _pattern(form: str, names: tuple[str, ...]) -> re.Pattern[str]:
    each = "|".join(sorted(map(re.escape, names), key=len, reverse=True))
    return re.compile(_PLACES[form][0].format(names=each), re.IGNORECASE)


@lru_cache(maxsize=8)
def signs(macros: tuple[Macro, ...]) -> tuple[str, ...]:
    """What a text must contain if it uses one of the macros; a text with none of these need not be parsed.

    An empty text among them is contained in everything: then there is no short cut.
    """
    return tuple(
        sign
        for form, (_start, _closing, sign) in _PLACES.items()
        if any(macro.form == form for macro in macros)
    )


def uses(text: str, macros: Sequence[Macro]) -> list[MacroUse]:
    """The macros in a text in its order, the outermost of nested ones; not those in code or within a tag."""
    found: list[MacroUse] = []
    for form, (_start, closing, sign) in _PLACES.items():
        if sign in text:
            known = {macro.name.lower(): macro for macro in macros if macro.form == form}
        else:
            known = {}
        if known:
            for match in _pattern(form, tuple(known)).finditer(text):
                if form == "tag" or not _in_tag(text, match.start()):
                    found.append(_use(match, known[match[1].lower()], closing, text))
    if not found:
        return found
    code = [(match.start(), match.end()) for match in _CODE.finditer(text)]
    outermost: list[MacroUse] = []
    for use in sorted(found, key=lambda use: (use.start, -use.end)):
        if (not outermost or use.start >= outermost[-1].end) and not any(
            a <= use.start < b for a, b in code
        ):
            outermost.append(use)
    return outermost


def _use(match: re.Match[str], macro: Macro, closing: str, text: str) -> MacroUse:
    end, inner = match.end(), ""
    words = match["words"].rstrip()
    closes_itself = closing != "" and words.endswith("/")
    if closes_itself:
        words = words[:-1]
    elif closing:
        close = re.compile(closing.format(name=re.escape(macro.name)), re.IGNORECASE).search(
            text, end
        )
        if close:
            inner, end = text[end : close.start()], close.end()
    return MacroUse(macro, match.start(), end, text[match.start() : end], words, inner)


def _in_tag(text: str, place: int) -> bool:
    before = text.rfind("<", 0, place)
    return (
        before > text.rfind(">", 0, place)
        and re.match(r"</?[a-zA-Z]", text[before : before + 3]) is not None
    )


def found_in(text: str, macros: Sequence[Macro]) -> Iterator[tuple[Macro, str]]:
    """Each macro that a text holds, as it is written there."""
    for use in uses(text, macros):
        yield use.macro, html.unescape(use.written)


def look_like_macros(text: str, markup: str, macros: Sequence[Macro]) -> Iterator[str]:
    """Names in a text that are written like macros and that no dialect describes.

    In Creole, two braces are around a picture.
    """
    known = {macro.name.lower() for macro in macros}
    for match in _LIKE.finditer(text) if "[" in text or "{{" in text else ():
        if match["c"] and markup == "creole":
            continue
        name = match["a"] or match["b"] or match["c"]
        if name.lower() not in known:
            yield name


def taken_out(text: str, macros: Sequence[Macro]) -> tuple[str, list[MacroUse]]:
    """The text with each macro replaced by a token that no markup interprets; and the macros."""
    found = uses(text, macros)
    pieces, place = [], 0
    for number, use in enumerate(found):
        pieces += [text[place : use.start], f"{_OPEN}{number}{_CLOSE}"]
        place = use.end
    return "".join([*pieces, text[place:]]), found


def put_back(text: str, found: Sequence[MacroUse], made: Callable[[MacroUse], str]) -> str:
    """The text with each token replaced by what `made` gives for its macro.

    Tokens are those that `taken_out` put there. A paragraph that has only a block in it is replaced as a
    whole, so that no block is within a paragraph.
    """

    def of(match: re.Match[str]) -> str:
        number = int(match[1])
        if number < len(found):
            return made(found[number])
        return match[0]

    return _TOKEN.sub(of, text)


def arguments(words: str) -> tuple[dict[str, str], list[str]]:
    """The arguments of a macro: those with a name, and those without."""
    named: dict[str, str] = {}
    plain: list[str] = []
    for match in _PAIR.finditer(html.unescape(words).translate(_QUOTES)):
        value = next((group for group in match.groups()[1:] if group is not None), "")
        if match[1]:
            named[match[1].replace("-", "_")] = value
        else:
            plain.append(value)
    return named, plain


def rendered(use: MacroUse, inner: str, file: Callable[[str], Mapping[str, str]]) -> str:
    """What a macro's template gives for one use of it.

    `inner` is the HTML between the opening and the closing macro. `file` gives the facts of a media record
    by its id, or an empty mapping. Values are escaped for HTML. Raises template.TemplateFailed.
    """
    from markupsafe import Markup

    named, plain = arguments(use.words)
    facts = {**named, "words": plain, "inner": Markup(inner), "file": file, "named": named}
    return template.rendered(use.macro.template, facts)
