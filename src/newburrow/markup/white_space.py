"""White space as HTML has it (HTML standard, ASCII whitespace): a run of it shows as one space."""

from __future__ import annotations

import re

from selectolax.lexbor import LexborNode

WHITE_SPACE = " \t\n\r\f"

_RUN = re.compile(rf"[{WHITE_SPACE}]+")
_ODD = ("  ", "\n", "\t", "\r", "\f")


def collapsed(text: str) -> str:
    """The text with each run of white space as one space."""
    # Most texts have none but single spaces, and looking for these is many times as fast as replacing them.
    if any(map(text.__contains__, _ODD)):
        return _RUN.sub(" ", text)
    return text


def is_space(node: LexborNode) -> bool:
    """Whether a node is text of white space alone."""
    return bool(node.is_text_node) and not (node.text_content or "").strip(WHITE_SPACE)
