"""Which elements a dialect means where it declares authors, terms or lines of a menu."""

from __future__ import annotations

import re

from lxml import etree

from newburrow.dialects.selector import check_length

_PART = re.compile(r"\s*((?:([\w.-]+):)?([\w.-]+))\s*(\[.*\])?\s*", re.DOTALL)


class ElementPattern:
    """Names of elements, each with a predicate or without (XPath 1.0), several with `|` between them.

    Raises ValueError, with the reason, if the text is anything else: such elements could not be recognised
    while a file streams. An empty text matches nothing.
    """

    def __init__(self, text: str, namespaces: dict[str, str]) -> None:
        check_length(text)
        self._tests: list[tuple[str, etree.XPath | None]] = []
        for part in _parts(text):
            found = _PART.fullmatch(part)
            if not found:
                raise ValueError(
                    f"{text!r} can be the name of an element, with a predicate in brackets, or several of these "
                    "with | between them"
                )
            _whole, prefix, name, predicate = found.group(1, 2, 3, 4)
            if prefix and prefix not in namespaces:
                raise ValueError(f"the prefix {prefix!r} is not declared in [namespaces]")
            if prefix:
                tag = f"{{{namespaces[prefix]}}}{name}"
            else:
                tag = name
            self._tests.append((tag, _predicate(found[1], predicate, namespaces)))

    @property
    def tags(self) -> list[str]:
        """The tags of the elements that can match."""
        return list(dict.fromkeys(tag for tag, _test in self._tests))

    def matches(self, element: etree._Element) -> bool:
        """Whether an element is one of those meant."""
        return any(
            tag == element.tag and (test is None or bool(test(element)))
            for tag, test in self._tests
        )


def _parts(text: str) -> list[str]:
    """The parts between the bars that are outside of brackets and quotes."""
    if not text.strip():
        return []
    parts, depth, quote = [""], 0, ""
    for letter in text:
        if quote:
            if letter == quote:
                quote = ""
            else:
                quote = quote
        elif letter in "\"'":
            quote = letter
        elif letter in "[]":
            depth += 1 if letter == "[" else -1
        elif letter == "|" and not depth:
            parts.append("")
            continue
        parts[-1] += letter
    return parts


def _predicate(
    name: str, predicate: str | None, namespaces: dict[str, str]
) -> etree.XPath | None:
    if not predicate:
        return None
    try:
        test = etree.XPath(f"self::{name}{predicate}", namespaces=namespaces or None)
        test(etree.Element("probe"))  # an unknown prefix shows only when it is used
    except etree.XPathError as error:
        raise ValueError(f"{predicate!r} is not a predicate of XPath 1.0: {error}") from None
    return test
