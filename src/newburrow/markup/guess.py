"""Which markup a text is most likely written in, by its signs."""

from __future__ import annotations

import re

_LOOKED_AT = 20_000  # characters
_HTML_BLOCK = re.compile(
    r"<(?:p|br|h[1-6]|div|ul|ol|table|blockquote|pre|figure|section)\b[^>]*>", re.IGNORECASE
)
_HTML_INLINE = re.compile(r"</(?:a|b|i|em|strong|code|span|img)>|<img\b", re.IGNORECASE)
_SIGNS = {
    "markdown": re.compile(
        r"^#{1,6} \S|\]\([^)\s]{1,300}\)|^```|\*\*\w[^*\n]{0,300}\*\*|^\[\^?\w+\]: ",
        re.MULTILINE,
    ),
    "textile": re.compile(
        r'^(?:h[1-6]|bq|bc|p|fn\d+)(?:\([^)\n]{0,300}\))?\. \S|"[^"\n]{1,300}":(?:https?:|/)\S',
        re.MULTILINE,
    ),
    "creole": re.compile(
        r"^={1,6} \S|\[\[[^\]\n]{1,300}\]\]|\{\{[^}\n|]{1,300}\|[^}\n]{0,300}\}\}|(?<!:)//\w[^/\n]{0,300}//|\\\\",
        re.MULTILINE,
    ),
}


def guess(text: str) -> str:
    """The markup that a text looks like, as a name of `newburrow.markups`.

    Judged by signs that only one markup has. `text` if there are none.
    """
    text = text[:_LOOKED_AT]
    if _HTML_BLOCK.search(text):
        return "html"
    found = {name: len(signs.findall(text)) for name, signs in _SIGNS.items()}
    best = max(found, key=lambda name: found[name])
    if found[best]:
        return best
    if _HTML_INLINE.search(text):
        if re.search(r"\n\s*\n", text.strip()):
            return "html-lines"
        return "html"
    return "text"
