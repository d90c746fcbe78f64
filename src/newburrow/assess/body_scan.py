"""What is in a body: links, pictures, embeds, forms, scripts. Found by its tags alone wherever these are enough.

Tags as they mostly are take a tenth of the time that building the tree of a body takes; where they are not, or where
something in the body is no tag though it looks like one, the parser decides.
"""

from __future__ import annotations

import html
import re
from collections.abc import Iterator

from selectolax.lexbor import LexborNode

from newburrow.markup import addresses
from newburrow.markup.html import DEEPEST, Fragment, TooDeep, deeper_than
from newburrow.markup.html_tags import ATTRIBUTES

SPECIAL = {
    "form": "form",
    "script": "script",
    "iframe": "embed",
    "object": "embed",
    "embed": "embed",
}
LINKS = {"a": "href", "img": "src", "source": "src", "video": "src", "audio": "src"}
_WANTED = "|".join((*SPECIAL, *LINKS))
_SPECIAL = ",".join(SPECIAL)
_RAW = re.compile(
    r"<(?:script|style|textarea|xmp|title|noscript|noembed|noframes|template|svg|math|plaintext|iframe|select)\b",
    re.I,
)
_COMMENT = re.compile(r"<!--.*?-->", re.DOTALL)
_TAG = re.compile(rf"<({_WANTED})(?=[\s/>])({ATTRIBUTES})(>)?", re.IGNORECASE)
_ATTRIBUTE = re.compile(r"([^\s=\"'>/]+)(?:\s*=\s*(?:\"([^\"]*)\"|'([^']*)'|([^\s>\"']+)))?")


def things(text: str) -> Iterator[tuple[str, str]]:
    """Each element of interest in an HTML text: its name, and the address it leads to.

    Raises TooDeep where it is nested beyond reason.
    """
    if "<" not in text:
        return iter(())
    if deeper_than(text, DEEPEST):
        raise TooDeep
    if "<!--" in text:
        plain = _COMMENT.sub("", text)
    else:
        plain = text
    if _RAW.search(plain) or "<!" in plain or "<?" in plain or addresses.is_special(plain):
        return _parsed(text)
    found = _TAG.findall(plain)
    if any(not end for _tag, _attributes, end in found):
        return _parsed(text)
    return (
        (name := tag.lower(), _value(attributes, LINKS.get(name, "")))
        for tag, attributes, _end in found
    )


def _value(attributes: str, name_sought: str) -> str:
    for name, double, single, bare in _ATTRIBUTE.findall(attributes) if name_sought else ():
        if name.lower() == name_sought:
            value: str = double or single or bare
            if "&" in value:
                return html.unescape(value)
            return value
    return ""


def _parsed(text: str) -> Iterator[tuple[str, str]]:
    fragment = Fragment(text)
    for node in fragment.select(_SPECIAL):
        yield node.tag or "", ""
    found: list[tuple[str, str]] = []

    def noted(address: str, use: str, node: LexborNode) -> str:
        if use in (addresses.LINK, addresses.TEXT):
            found.append(("a", address))
        elif use == addresses.PICTURE:
            found.append(("img", address))
        return address

    addresses.change_all(fragment, noted)
    yield from found
