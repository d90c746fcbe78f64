"""The text of a composite item of QTI 2, with each interaction at its place (QTI 2.1, section 6)."""

from __future__ import annotations

import re

from newburrow.model.course import GAP_BEGINS, GAP_ENDS

_TOKEN = re.compile(
    f"{GAP_BEGINS}([^{GAP_BEGINS}{GAP_ENDS}]*){GAP_ENDS}|<(/?)([\\w:-]+)[^>]*?(/?)>"
)
# Elements that take blocks (QTI 2.1, section 6.2, flow content); all others are ended before an interaction and begun
# again after it.
_OPEN = frozenset(
    (
        "div",
        "blockquote",
        "li",
        "td",
        "th",
        "dd",
        "ul",
        "ol",
        "dl",
        "table",
        "tbody",
        "thead",
        "tfoot",
        "tr",
    )
)
_EMPTY = re.compile(r"<(p|em|strong|b|i|span|h[1-6])\b[^>]*>\s*</\1>\s*")


def with_parts(text: str, interactions: dict[str, tuple[str, bool]]) -> str:
    """XHTML with an interaction at each gap: name -> its XML, and whether it stands within a line.

    An interaction that is a block ends the paragraph that it stands in. One without a gap comes at the end.
    """
    left = dict(interactions)
    made, open_tags, last = "", list[str](), 0
    for token in _TOKEN.finditer(text):
        made += text[last : token.start()]
        last = token.end()
        if token[1] is None:
            made += token[0]
            _follow(token, open_tags)
            continue
        xml, is_inline = left.pop(token[1], ("", True))
        made += xml if is_inline else _as_block(xml, open_tags)
    made += text[last:]
    for xml, is_inline in left.values():
        made += f"<p>{xml}</p>\n" if is_inline else xml
    return _without_empty(made)


def _follow(token: re.Match[str], open_tags: list[str]) -> None:
    """Keep the list of open elements."""
    if token[2]:
        if open_tags:
            open_tags.pop()
    elif not token[4]:
        open_tags.append(token[0])


def _as_block(xml: str, open_tags: list[str]) -> str:
    """An interaction between the end of what takes no blocks and its beginning anew."""
    ended: list[str] = []
    for tag in reversed(open_tags):
        if _name(tag) in _OPEN:
            break
        ended.append(tag)
    ends = "".join(f"</{_name(tag)}>" for tag in ended)
    return f"{ends}\n{xml}{''.join(reversed(ended))}"


def _name(tag: str) -> str:
    return tag[1:-1].split()[0]


def _without_empty(text: str) -> str:
    made = _EMPTY.sub("", text)
    while made != text:
        made, text = _EMPTY.sub("", made), made
    return made
