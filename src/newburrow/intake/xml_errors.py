"""What a parser says of XML that is not well-formed, in plain words."""

from __future__ import annotations

import re
from typing import Any

from lxml import etree

from newburrow.core.problem import BurrowError, refusal
from newburrow.model.record import Where

# The parser's words -> ours. Other words are shown as they are.
_WORDS = (
    (
        r"xmlParseEntityRef: no name|EntityRef: expecting ';'",
        "the text has a bare &; it should be &amp;",
    ),
    (r"Entity '(.+)' not defined", r"XML has no entity &\1;"),
    (r"StartTag: invalid element name", "the text has a bare <; it should be &lt;"),
    (
        r"Opening and ending tag mismatch: (\S+) line (\d+) and (\S+)",
        r"<\1>, opened in line \2, is closed by </\3>",
    ),
    (
        r"Premature end of data in tag (\S+) line (\d+)",
        r"the file ends while <\1>, opened in line \2, is still open",
    ),
    (r"Couldn't find end of Start Tag (\S+).*", r"the tag <\1> has no end"),
    (
        r"(?:PCDATA |CData )?invalid (?:xmlChar|Char) value \d+|Invalid character.*",
        "it has a control character",
    ),
    (r"Namespace prefix (\S+) (?:on|for) .+ is not defined", r"the prefix \1 is not declared"),
    (r"CData section not finished.*", "a CDATA section has no end"),
    (r"Sequence ']]>' not allowed in content", "the text has ]]>; it should be ]]&gt;"),
    (r"Attribute (\S+) redefined", r"the attribute \1 appears twice in one tag"),
    (
        r"(?:Start tag expected, '<' not found|Document is empty).*",
        "it begins with something other than XML",
    ),
    (
        r"XML (?:or text )?declaration (?:not|allowed only) at .*",
        "there is something before the XML declaration",
    ),
    (r"Extra content at the end of the document", "there is something after its end"),
    (
        r"Input is not proper UTF-8.*|Invalid bytes in character enc.*",
        "it has bytes that are not valid in its encoding",
    ),
)
_TOO_DEEP = re.compile(r"Excessive depth in document")


def explained(message: str) -> str:
    """A parser's message in plain words, or unchanged if it is not known."""
    message = re.sub(r", line \d+, column \d+( \(.*\))?$", "", message).strip()
    for pattern, words in _WORDS:
        found = re.fullmatch(pattern, message, re.DOTALL)
        if found:
            return found.expand(words)
    return message or "it ends too early"


def not_well_formed(error: etree.XMLSyntaxError, label: str) -> BurrowError:
    """The error for a part that is not well-formed XML; the caller raises it.

    It says in plain words what the parser met, with line and column, and advises `newburrow mend`.
    """
    line, column = error.position
    message = error.msg or ""
    # Some faults are only in the parser's log, such as an entity that is not declared.
    log: Any = error.error_log
    logged = next((entry for entry in log if entry.level_name == "FATAL"), None)
    if not line and logged:
        line, column, message = logged.line, logged.column, logged.message
    if _TOO_DEEP.match(message):
        return refusal(
            "not-well-formed",
            "The XML cannot be read: elements are nested deeper than 2,000 levels.",
            "No export does that. Look at that place in a text editor, and take out what is nested there.",
            Where(label, line, column),
        )
    return refusal(
        "not-well-formed",
        f"The XML is not well-formed: {explained(message)}.",
        "Mend it with `newburrow mend EXPORT -o FIXED`, or correct that place in a text editor.",
        Where(label, line, column),
    )
