"""Creole 1.0 to HTML and back: headings, lists, tables, links, pictures, nowiki, and the tilde that escapes."""

from __future__ import annotations

import html
import re
from collections.abc import Iterator

from newburrow.markup.base import (
    MISSING_PAGE,
    NO_NAMES,
    NameLookup,
    NameOf,
    Unreadable,
    no_name,
    section_id,
)
from newburrow.markup.creole_inline import BARE_ADDRESS
from newburrow.markup.creole_writer import ELEMENTS, to_creole

_TAG = re.compile(r"<[^>]*>")
_MOST_BRACES = 5000  # that are left open
_MOST_LEVELS = 6  # of headings
_RULE = re.compile(r"\s*-{4,}\s*")
_ITEM = re.compile(r"\s*([*#]+)\s*(.*)")
# One without an end is given up where the next begins; otherwise many of them would take quadratic time.
_NOWIKI = r"\{\{\{[^}]*+(?:\}(?!\}\})[^}]*+)*+\}\}\}+"
_LINK = rf"\[\[(?:~.|{_NOWIKI}|(?!\[\[|\]\](?!\])).)++\]\]"
_IMAGE = r"\{\{(?:(?!\{\{|\}\}).)++\}\}"
_CELL = re.compile(rf"{_NOWIKI}|{_LINK}|{_IMAGE}|~.|\||[^|\[{{~]+|.", re.DOTALL)
# What begins none of the others, taken at once: to try them all at each letter would take most of the time.
_PLAIN = r"[^{~\\\[hf*/#^,_]+(?:(?:h(?!ttp)|f(?!tp))[^{~\\\[hf*/#^,_]*+)*+"
_INLINE = re.compile(
    rf"(?P<plain>{_PLAIN})"
    rf"|(?P<nowiki>{_NOWIKI})"
    rf"|(?P<escape>~(?:{BARE_ADDRESS}|\{{\{{\{{|\}}\}}\}}|\S))"
    r"|(?P<break>\\\\)"
    rf"|(?P<link>{_LINK})"
    rf"|(?P<image>{_IMAGE})"
    rf"|(?P<url>{BARE_ADDRESS})"
    r"|(?P<mark>\*\*|//|##|\^\^|,,|__)",
    re.DOTALL,
)


# Bold and italics of the standard, and its common additions.
_MARKS = {"**": "strong", "//": "em", "##": "code", "^^": "sup", ",,": "sub", "__": "u"}


class Creole:
    """Creole 1.0, as many wikis write it."""

    name = "creole"
    elements = ELEMENTS
    keeps_ids = False

    def to_html(self, text: str, names: NameLookup = NO_NAMES) -> str:
        """The text as HTML; nothing in it is taken for HTML. A link may name a page, and a section of it after `#`.

        Raises Unreadable where more braces are left open than any text has, which would take minutes.
        """
        return _ToHtml(names).text(text)

    def from_html(self, text: str, name_of: NameOf = no_name) -> str:
        """HTML as Creole 1.0; of what Creole cannot express the words stay."""
        return to_creole(text, name_of)


MARKUP = Creole()


class _ToHtml:
    """Makes HTML of one text; links to pages are looked up by name."""

    def __init__(self, names: NameLookup) -> None:
        self._names = names
        self._open = 0  # braces that were not closed

    def text(self, text: str) -> str:
        return "".join(self._blocks(text.replace("\r\n", "\n").split("\n")))

    def _blocks(self, lines: list[str]) -> Iterator[str]:
        place = 0
        while place < len(lines):
            line = lines[place]
            if not line.strip():
                place += 1
            elif line.rstrip() == "{{{":
                end = next(
                    (n for n in range(place + 1, len(lines)) if lines[n].rstrip() == "}}}"),
                    len(lines),
                )
                # A line that would end it is written after a space, which is not part of it.
                inner = [
                    line[1:] if line.strip() == "}}}" else line
                    for line in lines[place + 1 : end]
                ]
                yield f"<pre>{html.escape(chr(10).join(inner), quote=False)}</pre>\n"
                place = end + 1
            elif _RULE.fullmatch(line):
                yield "<hr>\n"
                place += 1
            elif (heading := _heading(line)) and heading[1]:
                level, words = heading
                shown = self._inline(words)
                yield f"<h{level}{self._id(shown)}>{shown}</h{level}>\n"
                place += 1
            else:
                end = _end(lines, place)
                yield self._block(lines[place:end])
                place = end

    def _id(self, shown: str) -> str:
        """The attribute by which links lead to a heading, in the text of a wiki: made of the words in its HTML."""
        if self._names is NO_NAMES:
            return ""
        own = section_id(html.unescape(_TAG.sub("", shown)))
        if own:
            return f' id="{html.escape(own)}"'
        return ""

    def _block(self, lines: list[str]) -> str:
        kind = _kind(lines[0])
        if kind == "table":
            return "<table>\n" + "".join(self._row(line) for line in lines) + "</table>\n"
        if kind == "list":
            return self._list(lines)
        if kind == "terms":
            return self._terms(lines)
        return f"<p>{self._inline(chr(10).join(line.strip() for line in lines))}</p>\n"

    def _row(self, line: str) -> str:
        inner = line.strip()[1:].removesuffix("|")
        self._count_open(inner)
        cells = [
            (cell[1:], "th") if cell.startswith("=") else (cell, "td") for cell in _cells(inner)
        ]
        return (
            "<tr>"
            + "".join(f"<{tag}>{self._inline(cell.strip())}</{tag}>" for cell, tag in cells)
            + "</tr>\n"
        )

    def _list(self, lines: list[str]) -> str:
        """A list with what is nested in it; a line that begins no item goes on with the one before."""
        items: list[tuple[str, str]] = []
        for line in lines:
            found = _ITEM.fullmatch(line)
            if found and (not items or len(found[1]) <= len(items[-1][0]) + 1):
                items.append((found[1], found[2]))
            else:
                items[-1] = (items[-1][0], items[-1][1] + "\n" + line.strip())
        made, open_tags = [], list[str]()
        for marks, text in items:
            if marks[-1] == "*":
                tag = "ul"
            else:
                tag = "ol"
            while len(open_tags) > len(marks) or (
                len(open_tags) == len(marks) and open_tags[-1] != tag
            ):
                made.append(f"</li></{open_tags.pop()}>")
            if len(open_tags) == len(marks):
                made.append("</li>")
            else:
                open_tags.append(tag)
                made.append(f"<{tag}>")
            made.append(f"<li>{self._inline(text)}")
        made += [f"</li></{tag}>" for tag in reversed(open_tags)]
        return "".join(made) + "\n"

    def _terms(self, lines: list[str]) -> str:
        """A list of terms and what they mean: `; term`, `: meaning`; both can be in one line."""
        made = []
        for line in lines:
            mark, words = line.strip()[0], line.strip()[1:].strip()
            if mark == ";":
                term, colon, meaning = words.partition(" : ")
                made.append(f"<dt>{self._inline(term)}</dt>")
                made += [f"<dd>{self._inline(meaning)}</dd>"] if colon else []
            elif mark == ":":
                made.append(f"<dd>{self._inline(words)}</dd>")
            else:
                made[-1] = made[-1].removesuffix("</dd>").removesuffix("</dt>")
                made[-1] += (
                    f"\n{self._inline(line.strip())}{'</dt>' if '<dt>' in made[-1] else '</dd>'}"
                )
        return f"<dl>{''.join(made)}</dl>\n"

    def _count_open(self, text: str) -> None:
        """Count braces that are open to the end of a piece of text, since the end of each is sought there."""
        self._open += text.count("{{{", text.rfind("}}}") + 1)
        if self._open > _MOST_BRACES:
            raise Unreadable("it has more open braces than any text")

    def _inline(self, text: str) -> str:
        """The text with its inline markup; bold and italics are closed in the order they were opened."""
        self._count_open(text)
        made, open_tags, place = [], list[str](), 0
        for found in _INLINE.finditer(text):
            made.append(html.escape(text[place : found.start()], quote=False))
            place = found.end()
            kind, piece = found.lastgroup, found[0]
            if kind == "plain":
                made.append(html.escape(piece, quote=False))
            elif kind == "mark":
                made.append(_toggled(_MARKS[piece], open_tags))
            else:
                made.append(self._piece(kind or "", piece))
        made.append(html.escape(text[place:], quote=False))
        return "".join(made) + "".join(f"</{tag}>" for tag in reversed(open_tags))

    def _piece(self, kind: str, piece: str) -> str:
        if kind == "nowiki":
            return f"<code>{html.escape(piece[3:-3], quote=False)}</code>"
        if kind == "escape":
            return html.escape(piece[1:], quote=False)
        if kind == "break":
            return "<br>"
        if kind == "url":
            return f'<a href="{html.escape(piece)}">{html.escape(piece, quote=False)}</a>'
        target, _bar, words = piece[2:-2].partition("|")
        target, words = target.strip(), words.strip()
        if kind == "image":
            return f'<img src="{html.escape(self._names.file(target))}" alt="{html.escape(words)}">'
        if words:
            shown = self._inline(words)
        else:
            shown = html.escape(target, quote=False)
        address = self._names.link(target)
        if address is None:
            return f'<a class="{MISSING_PAGE}" href="{html.escape(target)}">{shown}</a>'
        return f'<a href="{html.escape(address)}">{shown}</a>'


def _heading(line: str) -> tuple[int, str] | None:
    """The level of a heading and its words; None for a line that is none. An expression would take quadratic time."""
    start = line.lstrip()
    rest = start.lstrip("=")
    level = min(len(start) - len(rest), _MOST_LEVELS)
    if not level:
        return None
    return level, start[level:].strip().rstrip("=").strip()


def _kind(line: str) -> str:
    """What a line begins: `table`, `list`, or a paragraph (empty)."""
    start = line.lstrip()
    if start.startswith("|"):
        return "table"
    if start.startswith((";", ":")) and start[1:2].isspace():
        return "terms"
    # Two stars begin bold text unless a list is open already; one always begins an item.
    if re.match(r"[*#](?![*#])", start):
        return "list"
    return ""


def _end(lines: list[str], place: int) -> int:
    """The line after the block that begins here."""
    kind, place = _kind(lines[place]), place + 1
    while place < len(lines) and lines[place].strip():
        line = lines[place]
        if kind != "list" or not _ITEM.fullmatch(line):
            starts = _kind(line)
        else:
            starts = "list"
        apart = line.rstrip() == "{{{" or _RULE.fullmatch(line) or line.lstrip().startswith("=")
        if apart or (starts != kind and not (kind in ("list", "terms") and not starts)):
            break
        place += 1
    return place


def _cells(row: str) -> list[str]:
    """The cells of a row; bars within links, pictures and after a tilde part none."""
    cells, current = [], ""
    for piece in _CELL.findall(row):
        if piece == "|":
            cells.append(current)
            current = ""
        else:
            current += piece
    return [*cells, current]


def _toggled(tag: str, open_tags: list[str]) -> str:
    if tag not in open_tags:
        open_tags.append(tag)
        return f"<{tag}>"
    closed = []
    while True:
        last = open_tags.pop()
        closed.append(last)
        if last == tag:
            break
    inner = [closed_tag for closed_tag in reversed(closed) if closed_tag != tag]
    open_tags += inner  # what was opened within it continues after it
    return "".join(f"</{closed_tag}>" for closed_tag in closed) + "".join(
        f"<{closed_tag}>" for closed_tag in inner
    )
