"""Tags of XML (XML 1.0 section 3.1): how they are recognised, also where they are wrong, and repaired."""

from __future__ import annotations

import re
from collections.abc import Mapping

from newburrow.intake.repair.xml_names import is_name

_NAME = rb"[A-Za-z_:\x80-\xff][\w:.\x80-\xff-]*"
START = re.compile(
    rb"<(" + _NAME + rb")((?:\s+" + _NAME + rb"\s*=\s*(?:\"[^<\"]*\"|'[^<']*'))*)\s*(/?)>"
)  # XML 1.0 section 3.1
LENIENT = re.compile(
    rb"<("
    + _NAME
    + rb")((?:\s+[^\s=<>\"'/]+\s*=\s*(?:\"[^\"<]*\"|'[^'<]*'|[^\s<>\"']+))*)\s*(/?)>"
)
_ATTRIBUTE = re.compile(rb"([^\s=]+)\s*=\s*(\"[^\"]*\"|'[^']*'|[^\s\"'>]+)")
END = re.compile(rb"</(" + _NAME + rb")\s*>")
ANY_END = re.compile(rb"</[^<>]*>")
_NOT_NAME = re.compile(rb"^[^A-Za-z_\x80-\xff]+|[^\w:.\x80-\xff-]")


class Prefixes:
    """The namespace prefixes that names of a document use, and those that it declares."""

    def __init__(self) -> None:
        self._used: set[bytes] = set()
        self._declared: set[bytes] = {b"xml", b"xmlns"}

    @property
    def undeclared(self) -> set[bytes]:
        """Prefixes used and declared nowhere."""
        return self._used - self._declared

    def use(self, name: bytes) -> None:
        """Note the prefix of a name, where it has one."""
        prefix, colon, _local = name.partition(b":")
        if colon:
            self._used.add(prefix)

    def declare(self, prefix: bytes) -> None:
        """Note that a prefix is declared."""
        self._declared.add(prefix)


def with_right_attributes(found: re.Match[bytes], prefixes: Prefixes) -> tuple[bytes, str]:
    """A start tag, as `LENIENT` finds it, with each attribute once and in quotes.

    Gives the tag unchanged if nothing is wrong. The text says the first fault; it is empty
    where there is none. `prefixes` notes those of the names.
    """
    prefixes.use(found[1])
    attributes: dict[bytes, bytes] = {}
    fault = ""
    for attribute in _ATTRIBUTE.finditer(found[2]):
        name, value = attribute[1], attribute[2]
        if not is_name(name):
            fault, name = "attribute-name", _NOT_NAME.sub(b"", name)
            if not is_name(name):
                name = b""
        if name.startswith(b"xmlns:"):
            prefixes.declare(name[6:])
        else:
            prefixes.use(name)
        if not name or name in attributes:
            fault = fault or "attribute-twice"
            continue
        if value[:1] not in b"\"'":
            fault, value = fault or "unquoted-attribute", b'"' + value + b'"'
        attributes[name] = value
    if not fault:
        return found[0], ""
    inner = b"".join(b" " + name + b"=" + value for name, value in attributes.items())
    end = b"/>" if found[3] else b">"
    return b"<" + found[1] + inner + end, fault


def with_declarations(tag: bytes, declare: Mapping[bytes, bytes]) -> tuple[bytes, bytes]:
    """A start tag that also declares these prefixes (prefix -> URI), and what was added to it."""
    added = b"".join(
        b' xmlns:%s="%s"' % (prefix, uri) for prefix, uri in sorted(declare.items())
    )
    end = b"/>" if tag.endswith(b"/>") else b">"
    return tag[: -len(end)] + added + end, added
