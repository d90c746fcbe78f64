"""One XML file of a package, element by element: no entities, nothing from outside."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import BinaryIO

from lxml import etree

from newburrow.core.problem import refusal
from newburrow.formats.xml_names import local
from newburrow.intake.prolog import read_prolog
from newburrow.intake.xml_errors import not_well_formed
from newburrow.model import Where

Opener = Callable[[], BinaryIO]

_NONE = "no-element"  # a name that asks for no events, which take longer than parsing


def events(
    opener: Opener, label: str, names: tuple[str, ...] = (), cleared: str = ""
) -> Iterator[tuple[str, etree._Element]]:
    """`start` and `end` of the elements of an XML file with these names in any namespace; without names, of all.

    Those that are called `cleared` are emptied after their end, with all before them. The
    file is opened twice. Raises BurrowError for a file that declares entities or is not well-formed.
    """
    with _parsed(opener, label, names) as parser:
        for event, element in parser:
            yield event, element
            if event == "end" and cleared and local(element) == cleared:
                _clear(element)


@contextmanager
def _parsed(opener: Opener, label: str, names: tuple[str, ...]) -> Iterator[etree.iterparse]:
    """What parses a file and gives the elements with these names."""
    with opener() as stream:
        read_prolog(stream, label)
    with opener() as stream:
        try:
            yield etree.iterparse(
                stream,
                events=("start", "end"),
                tag=[f"{{*}}{name}" for name in names] or None,
                resolve_entities=False,
                load_dtd=False,
                no_network=True,
                huge_tree=True,
                remove_comments=True,
                remove_pis=True,
            )
        except etree.XMLSyntaxError as error:
            raise not_well_formed(error, label) from None


def _clear(element: etree._Element) -> None:
    """Empty an element, and drop those before it, which were emptied too."""
    element.clear()
    parent = element.getparent()
    while parent is not None and element.getprevious() is not None:
        del parent[0]


def root_of(opener: Opener, label: str) -> etree._Element:
    """The whole of a small XML file. Raises BurrowError as `events` does, and for a file without an element."""
    with _parsed(opener, label, (_NONE,)) as parser:
        for _event, _element in parser:
            pass
        root: etree._Element | None = parser.root
    if root is None:
        raise refusal("not-well-formed", "The file is empty.", "Export it again.", Where(label))
    return root
