"""HTML within a line as Creole 1.0: words, marks, links, pictures and code; signs that mean themselves are marked."""

from __future__ import annotations

import re
from collections.abc import Iterator
from urllib.parse import quote

from selectolax.lexbor import LexborNode

from newburrow.markup.html import children
from newburrow.markup.html_tags import HEADINGS, PARTS_OF_BLOCKS
from newburrow.markup.white_space import collapsed

BLOCKS = frozenset(
    (
        "address",
        "article",
        "aside",
        "blockquote",
        "details",
        "dd",
        "div",
        "dl",
        "dt",
        "figcaption",
        "figure",
        "footer",
        "form",
        "header",
        "main",
        "nav",
        "section",
        "summary",
        "p",
        *HEADINGS,
        "hr",
        "ul",
        "ol",
        "pre",
        "table",
    )
)
# Those of the standard, and its common additions.
_MARKS = {
    "strong": "**",
    "b": "**",
    "em": "//",
    "i": "//",
    "sup": "^^",
    "sub": ",,",
    "u": "__",
}
# The attribute of a link that has the name of the page it leads to.
PAGE_NAME = "data-page-name"
_NOT_IN_NAMES = re.compile(r"[|\[\]{}~\n]")
_MONOSPACE = "##"  # an addition too: for code with markup in it
CODE = ("code", "tt", "kbd", "samp")
# An address in a text; the signs that no address has (RFC 3986), and marks, end it.
# What has a line of its own where there is one line for all.
_LINES = BLOCKS | PARTS_OF_BLOCKS
BARE_ADDRESS = r"(?:https?|ftp)://(?:(?!\*\*|##)[^\s<>\"'\\^|{}\[\]])*(?:(?!\*\*|##)[^\s<>\"'\\^|{}\[\].,;:!?)])"
# What is markup within a line in Creole; the rest is markup only at the beginning of a line.
_SIGNS = re.compile(BARE_ADDRESS + r"|~|\*\*|//|\\\\|\[\[|\{\{|\}\}|\]\]|##|\^\^|,,|__")
# One of these is in every one of them; a set of characters is found many times as fast.
_ANY_SIGN = re.compile(r"[~*/\\\[\]{}#^,_]")
# Stands behind an address that a text shows until it is known what follows (`with_addresses`).
_BEHIND = "\ue000"
# Such an address, and what would be taken for a part of it.
_ADDRESS = re.compile(
    rf"~((?:https?|ftp)://[^{_BEHIND}]*){_BEHIND}(?=([^\s<>\"'\\^|{{}}\[\]]*))"
)
_PART_OF_ADDRESS = ("~", "//", "__", ",,")
_BETWEEN_BRACES = re.compile(r"(?<=[{}])(?=[{}])")
_DOUBLED = "*/#^,_\\[{]}"  # signs of which two are markup
_NOWIKI = re.compile(r"\{\{\{(.*?)\}\}\}", re.DOTALL)


def escaped(words: str) -> str:
    """Words in which no sign is taken for markup."""
    if not _ANY_SIGN.search(words):
        return words
    return _SIGNS.sub(lambda found: _tilded(found[0]), words.replace(_BEHIND, ""))


def with_addresses(made: str) -> str:
    """A text that was written, with the addresses in it that are no links.

    One is marked as a whole; where a mark or a marked sign follows, which would be taken for a part of it, each of its
    signs is.
    """
    if _BEHIND not in made:
        return made

    def settled(found: re.Match[str]) -> str:
        if any(sign in found[2] for sign in _PART_OF_ADDRESS):
            return _ANY_SIGN.sub(r"~\g<0>", found[1])
        return f"~{found[1]}"

    return _ADDRESS.sub(settled, made)


def _tilded(sign: str) -> str:
    """A sign that means itself; of a pair each half is marked, lest one of three make a pair with the next."""
    if sign[0].isalpha():
        return f"~{sign}{_BEHIND}"
    return "".join(f"~{letter}" for letter in sign)


def one_line(nodes: list[LexborNode], bar: bool = False) -> str:
    """Content where Creole takes one line; blocks and line breaks in it become breaks."""
    parts = []
    run: list[LexborNode] = []
    for node in [*nodes, None]:
        if node is not None and (node.tag or "") not in _LINES:
            run.append(node)
            continue
        parts.append(inline(run, "|" if bar else ""))
        run = []
        if node is not None:
            if node.tag == "pre":
                inner = "\\\\".join(
                    _code(line, bar) for line in (node.text() or "").split("\n")
                )
            else:
                inner = one_line(children(node), bar)
            parts.append(inner)
    return "\\\\".join(
        cell_line for part in parts if (cell_line := part.replace("\n", " ").strip())
    )


def _code(words: str, bar: bool = False) -> str:
    flat = collapsed(words)
    if "}}}" in flat or flat.endswith("}") or not flat.strip():
        words = escaped(flat)
        if bar:
            return words.replace("|", "~|")
        return words
    return "{{{" + flat + "}}}"


def inline(nodes: list[LexborNode], inside: str) -> str:
    """Content within a line. `inside` holds the marks that are open, and `|` in a table."""
    made, was_text = "", False
    for node in _shown(nodes, inside):
        piece = _piece(node, node.tag or "", inside)
        if not piece:
            continue
        is_text = node.tag == "-text"
        if made:
            made, piece = _apart(made, was_text, piece, is_text, inside)
        made += piece
        was_text = is_text
    return made


def _apart(
    made: str, was_text: bool, piece: str, is_text: bool, inside: str
) -> tuple[str, str]:
    """What was written and what follows it, with no sign of the one taken for markup together with one of the other.

    `was_text` and `is_text` are whether the end of what was written, and what follows, are words alone.
    """
    last = made[-1]
    # A bracket beside those of a link or picture would be taken for one of them.
    if last in "[{" and piece.startswith(last * 2):
        if not _is_escaped(made):
            made = f"{made[:-1]}~{last}"
        if last == "{":
            piece = _behind_brace(piece, inside)
    elif made.endswith(("]]", "}}")) and piece.startswith(last):
        piece = f"~{piece}"
    elif last in _DOUBLED and piece.startswith(last):
        if was_text and not _is_escaped(made):
            made = f"{made[:-1]}~{last}"
        elif is_text:
            piece = f"~{piece}"
    return made, piece


def _is_escaped(made: str) -> bool:
    """Whether the last sign is marked to mean itself."""
    before = made[:-1]
    return (len(before) - len(before.rstrip("~"))) % 2 == 1


def _behind_brace(piece: str, inside: str) -> str:
    """Code or a picture right behind a brace that means itself: else the mark of that would count for all three."""
    code = _NOWIKI.match(piece)
    if code:
        words = escaped(code[1])
        if "|" in inside:
            words = words.replace("|", "~|")
        return _marked(words, _MONOSPACE) + piece[code.end() :]
    return f" {piece}"


def _piece(node: LexborNode, tag: str, inside: str) -> str:
    if tag == "-text":
        words = escaped(collapsed(node.text_content or ""))
        if "|" in inside:
            return words.replace("|", "~|")
        return words
    if tag == "br":
        return "\\\\"
    if tag == "img":
        return _picture(node)
    if tag == "a":
        return _link(node, (node.attributes.get("href") or "").strip(), inside)
    if tag in CODE:
        return _code_piece(node, inside)
    if tag in _MARKS:
        return _marked(inline(children(node), inside + _MARKS[tag]), _MARKS[tag])
    return ""


def _shown(nodes: list[LexborNode], inside: str) -> Iterator[LexborNode]:
    """The nodes, with those in place of an element that Creole has no sign for, or whose sign is open."""
    for node in nodes:
        tag = node.tag or ""
        is_link = (
            tag == "a" and "[" not in inside and (node.attributes.get("href") or "").strip()
        )
        is_mark = tag in _MARKS and _MARKS[tag] not in inside
        if is_link or is_mark or tag in CODE or tag in ("br", "img") or tag.startswith("-"):
            yield node
        else:
            yield from _shown(children(node), inside)


def _link(node: LexborNode, target: str, inside: str) -> str:
    whole = inline(children(node), inside + "[")
    words = whole.strip()
    if not words:
        return whole
    # the space around its words stays between them and those beside the link
    before, after = whole[: len(whole) - len(whole.lstrip())], whole[len(whole.rstrip()) :]
    return f"{before}{_linked(node, target, words)}{after}"


def _linked(node: LexborNode, target: str, words: str) -> str:
    if words.endswith("]") and not _is_escaped(words):
        words = f"{words[:-1]}~]"
    name = node.attributes.get(PAGE_NAME) or ""
    if not name or _NOT_IN_NAMES.search(name):
        return f"[[{_target(target)}|{words}]]"
    if words == name:
        return f"[[{name}]]"
    return f"[[{name}|{words}]]"


def _code_piece(node: LexborNode, inside: str) -> str:
    """Code within a line; where it holds markup by the sign for that, which is an addition to the standard."""
    plain = all(child.is_text_node for child in children(node))
    if plain or _MONOSPACE in inside:
        return _code(node.text() or "", "|" in inside)
    return _marked(inline(children(node), inside + _MONOSPACE), _MONOSPACE)


def _marked(words: str, mark: str) -> str:
    """Words between two marks, with the space around them outside."""
    core = words.strip()
    if not core:
        return words
    if core[-1] == mark[0] and core[-2:-1] not in ("~", mark[0]):
        core = f"{core[:-1]}~{core[-1]}"  # else one of three could be taken for the mark
    if core[0] == mark[0] and core[1:2] != mark[0]:
        core = f"~{core}"
    before, after = words[: len(words) - len(words.lstrip())], words[len(words.rstrip()) :]
    return f"{before}{mark}{core}{mark}{after}"


def _target(address: str) -> str:
    return re.sub(r"[|\[\]{}\s~]", lambda found: quote(found[0]), address)


def _picture(node: LexborNode) -> str:
    source = (node.attributes.get("src") or "").strip()
    alternative = _BETWEEN_BRACES.sub(" ", collapsed(node.attributes.get("alt") or "")).strip()
    if alternative.endswith("}"):
        alternative += " "
    if source and alternative:
        return f"{{{{{_target(source)}|{alternative}}}}}"
    if source:
        return f"{{{{{_target(source)}}}}}"
    return ""
