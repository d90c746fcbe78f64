"""One XML file of a package, element by element: no entities, nothing from outside."""

from __future__ import annotations

import io
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from typing import Any, BinaryIO, cast

from lxml import etree

from newburrow.formats.xml_names import local
from newburrow.intake.prolog import read_prolog
from newburrow.intake.whole_text import beginning
from newburrow.intake.xml_errors import not_well_formed

Opener = Callable[[], BinaryIO]

_SMALL = 1 << 21  # bytes of a file that is parsed at once; more than the longest prolog
# No entities, nothing from outside, no comments.
_SAFE: dict[str, Any] = {
    "resolve_entities": False,
    "load_dtd": False,
    "no_network": True,
    "huge_tree": True,
    "remove_comments": True,
    "remove_pis": True,
}


def events(
    opener: Opener, label: str, names: tuple[str, ...] = (), cleared: str = ""
) -> Iterator[tuple[str, str, etree._Element]]:
    """`start` or `end`, the name, and the element, for those of these names in any namespace; without names, for all.

    Those that are called `cleared` are emptied after their end, with all before them. Raises BurrowError for a
    file that declares entities or is not well-formed.
    """
    tags = [f"{{*}}{name}" for name in names] or None
    with _opened(opener, label) as file:
        root = None
        with suppress(etree.XMLSyntaxError):  # what stands before a fault is read all the same
            root = file.whole()
        if root is not None:
            yield from _walked(root, tags)
            return
        for event, element in etree.iterparse(
            file.stream(), events=("start", "end"), tag=tags, **_SAFE
        ):
            name = local(element)
            yield event, name, element
            if event == "end" and name == cleared:
                _clear(element)


def _walked(
    root: etree._Element, tags: list[str] | None
) -> Iterator[tuple[str, str, etree._Element]]:
    """The events of a tree that is in memory; the parser's own walk stops at each element, which takes longer."""
    begun: list[etree._Element] = []
    for element in root.iter(tags):
        while begun and not _is_in(element, begun):
            ended = begun.pop()
            yield "end", local(ended), ended
        begun.append(element)
        yield "start", local(element), element
    for ended in reversed(begun):
        yield "end", local(ended), ended


def _is_in(element: etree._Element, begun: list[etree._Element]) -> bool:
    """Whether an element is in the innermost of those that have begun, each of which is in the one before."""
    innermost, above = begun[-1], element.getparent()
    while above is not None and above is not innermost:
        if above in begun:
            return False
        above = above.getparent()
    return above is not None


def _clear(element: etree._Element) -> None:
    """Empty an element, and drop those before it, which were emptied too."""
    element.clear()
    parent = element.getparent()
    while parent is not None and element.getprevious() is not None:
        del parent[0]


def root_of(opener: Opener, label: str) -> etree._Element:
    """The root of an XML file with all that is in it.

    Raises BurrowError as `events` does, and for a file without an element.
    """
    # Not by events: what gives those is freed only with other garbage, and its tree with it.
    with _opened(opener, label) as file:
        root = file.whole()
        if root is None:
            root = etree.parse(file.stream(), etree.XMLParser(**_SAFE)).getroot()
        return root


@contextmanager
def _opened(opener: Opener, label: str) -> Iterator[_XmlFile]:
    """A file that declares no entities."""
    with opener() as stream:
        file = _XmlFile(stream)
        if file.may_declare:
            read_prolog(file.stream(), label)
        try:
            yield file
        except etree.XMLSyntaxError as error:
            raise not_well_formed(error, label) from None


class _XmlFile:
    """An open XML file, of which the beginning is in memory: reading it from an archive again takes longer."""

    def __init__(self, stream: BinaryIO) -> None:
        self._start = beginning(stream, _SMALL)
        self._rest = stream

    @property
    def may_declare(self) -> bool:
        """Whether it can declare entities: it has a document type, or that cannot be seen for its encoding."""
        return b"<!DOCTYPE" in self._start or b"\0" in self._start[:4]

    def whole(self) -> etree._Element | None:
        """The root of a small file, which takes half the time when parsed at once; None for a large one."""
        if len(self._start) == _SMALL:
            return None
        return etree.fromstring(self._start, etree.XMLParser(**_SAFE))

    def stream(self) -> BinaryIO:
        """The file from its beginning; a large one beyond that only once."""
        return cast(BinaryIO, _Replayed(self._start, self._rest))


class _Replayed:
    """Bytes, and the stream that goes on after them."""

    def __init__(self, start: bytes, rest: BinaryIO) -> None:
        self._start, self._rest = io.BytesIO(start), rest

    def read(self, size: int) -> bytes:
        """As of any stream."""
        return self._start.read(size) or self._rest.read(size)
