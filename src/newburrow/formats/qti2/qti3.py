"""QTI 3.0 as QTI 2.2: the same elements and attributes under other names (QTI 3.0, ASI information model, section 2).

Elements of QTI begin with `qti-` and all their names are in small letters with hyphens; texts are HTML5.
"""

from __future__ import annotations

import re

from lxml import etree

from newburrow.formats import xml_stream
from newburrow.formats.xml_names import local, namespace

PREFIX = "qti-"
_NEXT = re.compile(r"-([a-z])")
_FREE = ("data-", "aria-")  # attributes of HTML5 that any element may have


def root_of(opener: xml_stream.Opener, label: str) -> etree._Element:
    """The root of a file of QTI 2 or 3, under the names of QTI 2. Raises BurrowError as `xml_stream.root_of` does."""
    root = xml_stream.root_of(opener, label)
    if local(root).startswith(PREFIX):
        _rename(root)
        # It only parts what is shown from catalogues for readers with special needs.
        etree.strip_tags(root, "{*}contentBody")
    return root


def bare_name(name: str) -> str:
    """The name of an element, as QTI 2 has it."""
    if name.startswith(PREFIX):
        return _camel(name.removeprefix(PREFIX))
    return name


def _rename(root: etree._Element) -> None:
    for element in root.iter("*"):
        name = local(element)
        bare = bare_name(name)
        if bare == name:
            continue
        found = namespace(element)
        element.tag = f"{{{found}}}{bare}" if found else bare
        for old, value in list(element.attrib.items()):
            if "-" in str(old) and not str(old).startswith(("{", *_FREE)):
                del element.attrib[old]
                element.set(_camel(str(old)), value)


def _camel(name: str) -> str:
    return _NEXT.sub(lambda found: found[1].upper(), name)
