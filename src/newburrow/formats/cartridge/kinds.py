"""What the type of a resource stands for (Common Cartridge 1.3, section 2.3; QTI packaging).

Versions differ in the middle of the words, so that only what is common to all is compared.
"""

from __future__ import annotations

import re
from enum import StrEnum

from newburrow.formats.cartridge.manifest import Resource

_PAGES = (".html", ".htm", ".xhtml", ".xht")


class ResourceKind(StrEnum):
    """What a resource is read as."""

    PAGE = "page"
    FILE = "file"
    WEB_LINK = "web link"
    DISCUSSION = "discussion"
    ASSIGNMENT = "assignment"
    TOOL = "tool"
    QTI_1 = "quiz"
    QTI_1_BANK = "question bank"
    QTI_2_TEST = "test"
    QTI_2_ITEM = "item"
    QTI_2_STIMULUS = "text of items"
    OTHER = "other"


ASSOCIATED = (
    "associatedcontent"  # how the type of a file begins that belongs to another resource
)
_TYPES = (
    (r"imswl_", ResourceKind.WEB_LINK),
    (r"imsdt_", ResourceKind.DISCUSSION),
    (r"assignment_", ResourceKind.ASSIGNMENT),
    (r"imsbasiclti_|imslti", ResourceKind.TOOL),
    (r"imsqti_.*v1p[12].*question-bank", ResourceKind.QTI_1_BANK),
    (r"imsqti_xmlv1p[12]", ResourceKind.QTI_1),
    (r"imsqti_test_xmlv[23]", ResourceKind.QTI_2_TEST),
    (r"imsqti_assessment_xmlv[23]", ResourceKind.QTI_2_TEST),
    (r"imsqti_item_xmlv[23]|imsqti_apipitem", ResourceKind.QTI_2_ITEM),
    (r"imsqti_stimulus_xmlv[23]", ResourceKind.QTI_2_STIMULUS),
)


def is_page(path: str) -> bool:
    """Whether a file is a page by its name."""
    return path.lower().endswith(_PAGES)


def kind_of(resource: Resource, is_placed: bool = True) -> ResourceKind:
    """What a resource is read as, by its type; of a file of the web by its name.

    `is_placed` says that it has a place in the outline: one of the type `associatedcontent` that has none
    belongs to another resource, and is a file even if it is a page by its name (Common Cartridge 1.3).
    """
    found = next(
        (kind for expression, kind in _TYPES if re.match(expression, resource.type)), None
    )
    if found:
        return found
    is_associated = resource.type.startswith(ASSOCIATED)
    if resource.type.lower() not in ("webcontent", "") and not is_associated:
        return ResourceKind.OTHER
    if is_page(resource.path) and (is_placed or not is_associated):
        return ResourceKind.PAGE
    return ResourceKind.FILE
