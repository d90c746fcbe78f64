"""One XML file of a package, element by element: no entities, nothing from outside."""

from __future__ import annotations

import io
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any, BinaryIO, cast

from lxml import etree

from newburrow.formats.xml_names import local
from newburrow.intake.prolog import read_prolog
from newburrow.intake.xml_errors import not_well_formed

Opener = Callable[[], BinaryIO]

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
    with _parsed(opener, label, names) as parser:
        for event, element in parser:
            name = local(element)
            yield event, name, element
            if event == "end" and name == cleared:
                _clear(element)


@contextmanager
def _parsed(opener: Opener, label: str, names: tuple[str, ...]) -> Iterator[etree.iterparse]:
    """What parses a file and gives the elements with these names."""
    with _checked(opener, label) as stream:
        tags = [f"{{*}}{name}" for name in names] or None
        yield etree.iterparse(stream, events=("start", "end"), tag=tags, **_SAFE)


@contextmanager
def _checked(opener: Opener, label: str) -> Iterator[BinaryIO]:
    """A file whose prolog was read, from its beginning."""
    with opener() as stream:
        replayed = _FromStart(stream)
        from_start = cast(BinaryIO, replayed)
        read_prolog(from_start, label)
        replayed.rewind()
        try:
            yield from_start
        except etree.XMLSyntaxError as error:
            raise not_well_formed(error, label) from None


class _FromStart:
    """A stream of which what was read is read once more after `rewind`: opening an archive again takes longer."""

    def __init__(self, stream: BinaryIO) -> None:
        self._stream, self._kept = stream, list[bytes]()
        self._again: io.BytesIO | None = None

    def read(self, size: int = -1) -> bytes:
        """As of any stream."""
        if self._again is None:
            data = self._stream.read(size)
            self._kept.append(data)
            return data
        return self._again.read(size) or self._stream.read(size)

    def rewind(self) -> None:
        """Begin again; this can be done once."""
        self._again = io.BytesIO(b"".join(self._kept))


def _clear(element: etree._Element) -> None:
    """Empty an element, and drop those before it, which were emptied too."""
    element.clear()
    parent = element.getparent()
    while parent is not None and element.getprevious() is not None:
        del parent[0]


def root_of(opener: Opener, label: str) -> etree._Element:
    """The whole of a small XML file. Raises BurrowError as `events` does, and for a file without an element."""
    # Not by events: what gives those is freed only with other garbage, and its tree with it.
    with _checked(opener, label) as stream:
        return etree.parse(stream, etree.XMLParser(**_SAFE)).getroot()
