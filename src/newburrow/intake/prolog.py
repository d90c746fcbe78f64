"""The first look at an XML document: its root element and namespaces, up to the first start tag.

An export that declares entities is refused here, before any other parser sees it: entities can blow a
small file up without bound or read files of this machine.
"""

from __future__ import annotations

from typing import BinaryIO
from xml.parsers import expat

from msgspec import Struct

from newburrow.core.problem import BurrowError, refusal
from newburrow.model.record import Where

_CHUNK = 16 * 1024
_MOST = 1024 * 1024  # a longer prolog is not accepted


class Prolog(Struct, frozen=True):
    """What the beginning of an XML document says."""

    root: str  # name of the root element, `{namespace}local` or `local`
    namespaces: tuple[str, ...]  # URIs declared on the root element
    attributes: dict[str, str]  # of the root element


def entity_declared(which: str, where: Where) -> BurrowError:
    """The error to raise where a document declares an entity."""
    return refusal(
        "entity-declaration",
        f"The XML declares an entity{which}. New Burrow expands none: such files can be made to fill the memory or to "
        "read this machine's files.",
        "If you trust the file, replace the entity by its text and remove the declaration.",
        where,
    )


class _PrologEnds(Exception):
    pass


def _refuse_entities(parser: expat.XMLParserType, name: str) -> None:
    """Let a parser raise BurrowError where the document declares an entity, or refers to one that is not there."""

    def entity(entity_name: str, *_rest: object) -> None:
        raise entity_declared(
            f" ({entity_name})",
            Where(name, parser.CurrentLineNumber, parser.CurrentColumnNumber + 1),
        )

    def skipped(entity_name: str, is_parameter: bool) -> None:
        if is_parameter:  # declarations after it are not told any more
            entity(f"%{entity_name};")

    parser.EntityDeclHandler = entity
    parser.SkippedEntityHandler = skipped
    # Without this the parser would not tell of references. Nothing is opened: there is no handler for that.
    parser.SetParamEntityParsing(expat.XML_PARAM_ENTITY_PARSING_ALWAYS)


def read_prolog(stream: BinaryIO, name: str, already: bytes = b"") -> Prolog | None:
    """The prolog of the XML in the stream; None where there is no XML (also when it is broken this early).

    `already` is what was read of it before. Raises BurrowError where the document declares an entity.
    """
    seen: list[Prolog] = []
    namespaces: list[str] = []
    parser = expat.ParserCreate(namespace_separator="}")

    def clark(text: str) -> str:
        if "}" in text:
            return "{" + text
        return text

    def start(tag: str, attributes: dict[str, str]) -> None:
        seen.append(
            Prolog(clark(tag), tuple(namespaces), {clark(k): v for k, v in attributes.items()})
        )
        raise _PrologEnds

    parser.StartElementHandler = start
    _refuse_entities(parser, name)
    parser.StartNamespaceDeclHandler = lambda _prefix, uri: namespaces.append(uri or "")
    bytes_read = len(already)
    try:
        if already:
            parser.Parse(already)
        while bytes_read < _MOST:
            chunk = stream.read(_CHUNK)
            parser.Parse(chunk, not chunk)
            bytes_read += len(chunk)
            if not chunk:
                break
    except _PrologEnds:
        return seen[0]
    except (
        expat.ExpatError,
        LookupError,
        ValueError,
    ):  # the latter two for encodings that it does not know
        return None
    return None
