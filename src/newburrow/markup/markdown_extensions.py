"""What is usual in Markdown beyond CommonMark: task lists, bare addresses, and quotes that are notes.

Rules for the parser, run over its tokens.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence

from markdown_it import MarkdownIt
from markdown_it.renderer import RendererProtocol
from markdown_it.rules_core import StateCore
from markdown_it.token import Token

from newburrow.markup.bare_addresses import ADDRESS, target, trimmed
from newburrow.markup.base import Unreadable

_TASK = re.compile(r"\[([ xX])\](?=[ \t]|$)")
_NOTE = re.compile(r"\[!([A-Za-z]{2,20})\][ \t]*$")
_ANCHOR = re.compile(r"<(/?)a[\s>]", re.IGNORECASE)
# in one paragraph, cell or heading; the parser takes quadratic time on their number
_MOST_BRACKETS = 5000
_MAYBE = re.compile(r"://|www\.", re.IGNORECASE)


def extensions(parser: MarkdownIt) -> None:
    """Add the rules to a parser, which has those for footnotes already."""
    parser.add_render_rule("footnote_caption", footnote_caption)
    parser.add_render_rule("footnote_anchor", footnote_anchor)
    parser.core.ruler.after("block", "brackets", _check_brackets)
    parser.core.ruler.after("inline", "tasks", _tasks)
    parser.core.ruler.after("inline", "notes", _notes)
    parser.core.ruler.after("inline", "addresses", _addresses)


def _check_brackets(state: StateCore) -> None:
    for token in state.tokens:
        if token.type == "inline" and token.content.count("[") > _MOST_BRACKETS:
            raise Unreadable("a paragraph has more brackets than any text")


def footnote_caption(
    _renderer: RendererProtocol,
    tokens: Sequence[Token],
    place: int,
    _options: object,
    _env: object,
) -> str:
    """The number of a footnote without brackets, the same in each reference to it."""
    return str(tokens[place].meta["id"] + 1)


def footnote_anchor(
    renderer: RendererProtocol,
    tokens: Sequence[Token],
    place: int,
    options: object,
    env: object,
) -> str:
    """The link back from a footnote to its reference."""
    meta = tokens[place].meta
    if meta.get("subId", -1) > 0:
        further = f":{meta['subId']}"
    else:
        further = ""
    return f' <a href="#fnref{meta["id"] + 1}{further}">↩</a>'


def _beginnings(state: StateCore, holder: str) -> Iterator[list[Token]]:
    """What is in the first line of each item or quote that begins with words; `holder` is the token that opens it."""
    tokens = state.tokens
    for place in range(2, len(tokens)):
        around = [tokens[place - 2].type, tokens[place - 1].type, tokens[place].type]
        children = tokens[place].children or []
        if (
            around == [holder, "paragraph_open", "inline"]
            and children
            and children[0].type == "text"
        ):
            yield children


def _tasks(state: StateCore) -> None:
    """An item that begins with `[ ]` or `[x]` begins with a box."""
    for children in _beginnings(state, "list_item_open"):
        found = _TASK.match(children[0].content)
        if found:
            box = Token("html_inline", "", 0)
            checked = "" if found[1] == " " else " checked"
            box.content = f'<input type="checkbox" disabled{checked}>'
            children[0].content = children[0].content[found.end() :]
            children.insert(0, box)


def _notes(state: StateCore) -> None:
    """A quote that begins with a line such as `[!WARNING]` begins with that word."""
    for children in _beginnings(state, "blockquote_open"):
        found = _NOTE.match(children[0].content)
        alone = len(children) == 1 or children[1].type == "softbreak"
        if found and alone:
            name = Token("html_inline", "", 0)
            name.content = f"<strong>{found[1].capitalize()}</strong>"
            if len(children) > 1:
                children[1].type = "hardbreak"
                children[1].tag = "br"
            children[0] = name


def _addresses(state: StateCore) -> None:
    """A bare address is a link to itself, unless a paragraph is nothing else: that may be a video to show."""
    for token in state.tokens:
        if token.type != "inline" or not _MAYBE.search(token.content):
            continue
        if ADDRESS.fullmatch(token.content.strip()):
            continue
        made: list[Token] = []
        depth = 0
        for child in token.children or []:
            depth += _nesting(child)
            made += _linked(child) if child.type == "text" and not depth else [child]
        token.children = made


def _nesting(token: Token) -> int:
    """1 where a link begins, also one written as HTML; -1 where it ends."""
    if token.type == "html_inline":
        found = _ANCHOR.match(token.content)
        if found is None:
            return 0
        if found[1]:
            return -1
        return 1
    if token.type in ("link_open", "link_close"):
        return token.nesting
    return 0


def _linked(token: Token) -> list[Token]:
    """The text in pieces, each address as a link."""
    pieces: list[Token] = []
    place, text = 0, token.content
    for found in ADDRESS.finditer(text):
        address = trimmed(found[0])
        before = text[: found.start()].rstrip()
        if before.endswith("<") or len(address) < 8:
            continue  # was meant as an autolink, and is none (CommonMark 6.5)
        end = found.start() + len(address)
        pieces += [_text(text[place : found.start()]), *_link(address)]
        place = end
    return [
        piece
        for piece in (*pieces, _text(text[place:]))
        if piece.type != "text" or piece.content
    ]


def _text(content: str) -> Token:
    token = Token("text", "", 0)
    token.content = content
    return token


def _link(address: str) -> list[Token]:
    start = Token("link_open", "a", 1)
    start.attrs = {"href": target(address)}
    return [start, _text(address), Token("link_close", "a", -1)]
