"""The signs of Markdown: escaping what would be taken for one, and writing spans, fences and targets (CommonMark)."""

from __future__ import annotations

import re
import unicodedata
from urllib.parse import quote

# A low line between letters is one (CommonMark 6.2). Beginning with a set of characters makes it ten times as fast.
_SIGNS = re.compile(
    r"[\\`*\[\]<~_&!^](?:(?<=[\\`*\[\]<~])|(?<=_)(?:(?<![^\W_]_)|(?![^\W_]))"
    r"|(?<=&)(?=#?\w+;)|(?<=[!^])(?=\[|\Z))"
)
# What many readers of Markdown make a link of, and the sign without which they do not.
_BARE_ADDRESS = re.compile(r"(https?|www)([:.])\S+", re.IGNORECASE)
_TICKS = re.compile("`+")
_TILDES = re.compile(r"(?m)^ {0,3}`{3,}")


def escaped(text: str, links_off: bool = False) -> str:
    """Text in which nothing is read as Markdown; a bare address stays one only as a whole.

    `links_off` says that it stands where no address may become a link, such as in another link.
    """
    made = _SIGNS.sub(_with_backslash, text)
    low = made.lower()
    if "http" not in low and "www." not in low:
        return made

    def settled(found: re.Match[str]) -> str:
        if links_off or "\\" in found[0]:
            return f"{found[1]}\\{found[0][len(found[1]) :]}"
        return found[0]

    return _BARE_ADDRESS.sub(settled, made)


def _with_backslash(found: re.Match[str]) -> str:
    return f"\\{found[0]}"


def first_escaped(text: str) -> str:
    """The first character of a text in which nothing is read as Markdown; the text is not empty."""
    if _SIGNS.match(text):
        return "\\"
    return text[0]


def _is_space(sign: str) -> bool:
    return not sign or sign.isspace()


def _is_punctuation(sign: str) -> bool:
    return bool(sign) and unicodedata.category(sign)[0] in "PS"


def can_open(before: str, first: str) -> bool:
    """Whether a run of `*` between these characters opens emphasis: left-flanking (CommonMark 6.2)."""
    if _is_space(first):
        return False
    return not _is_punctuation(first) or _is_space(before) or _is_punctuation(before)


def can_close(last: str, after: str) -> bool:
    """Whether it closes emphasis: right-flanking (CommonMark 6.2)."""
    if _is_space(last):
        return False
    return not _is_punctuation(last) or _is_space(after) or _is_punctuation(after)


def code_span(text: str) -> str:
    """A code span with as many backticks as its text needs (CommonMark 6.1); empty where there is no text."""
    if not text:
        return ""
    longest = max((len(run) for run in _TICKS.findall(text)), default=0)
    marks = "`" * (longest + 1)
    if (text[0] in "` " and text.strip()) or text[-1] == "`":
        padded = f" {text} "
    else:
        padded = text
    return f"{marks}{padded}{marks}"


def fence(text: str, language: str) -> str:
    """A fenced code block (CommonMark 4.5); the text ends in a newline."""
    longest = max((len(run.strip()) for run in _TILDES.findall(text)), default=0)
    marks = "`" * max(3, longest + 1)
    return f"{marks}{language if '`' not in language else ''}\n{text}{marks}"


def link_target(address: str) -> str:
    """An address as the target of a link (CommonMark 6.3)."""
    address = address.strip()
    if address and not re.search(r"[\s()<>\\]", address):
        if re.search(r"&#?\w+;", address):
            return address.replace("&", "&amp;")
        return address
    plain = re.sub(r"[\x00-\x20<>\\]", lambda found: quote(found[0]), address)
    return (
        f"<{plain.replace('&', '&amp;') if re.search(r'&#?[a-zA-Z0-9]+;', plain) else plain}>"
    )


def title_part(title: str) -> str:
    """The title of a link with the space before it; empty where there is none."""
    if not title:
        return ""
    inner = re.sub(r'(["\\])', r"\\\1", title.replace("&", "&amp;"))
    inner = re.sub(r"\s*\n\s*", " ", inner)  # a row of a table is one line
    return f' "{inner}"'
