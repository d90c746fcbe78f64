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
    NEWER_QTI = "QTI 3"
    OTHER = "other"


_TYPES = (
    (r"imswl_", ResourceKind.WEB_LINK),
    (r"imsdt_", ResourceKind.DISCUSSION),
    (r"assignment_", ResourceKind.ASSIGNMENT),
    (r"imsbasiclti_|imslti", ResourceKind.TOOL),
    (r"imsqti_.*v1p[12].*question-bank", ResourceKind.QTI_1_BANK),
    (r"imsqti_xmlv1p[12]", ResourceKind.QTI_1),
    (r"imsqti_test_xmlv2", ResourceKind.QTI_2_TEST),
    (r"imsqti_assessment_xmlv2", ResourceKind.QTI_2_TEST),
    (r"imsqti_item_xmlv2|imsqti_apipitem", ResourceKind.QTI_2_ITEM),
    (r"imsqti_stimulus_xmlv2", ResourceKind.QTI_2_STIMULUS),
    (r"imsqti_.*v3", ResourceKind.NEWER_QTI),
)


def kind_of(resource: Resource) -> ResourceKind:
    """What a resource is read as, by its type; of a file of the web by its name."""
    found = next(
        (kind for expression, kind in _TYPES if re.match(expression, resource.type)), None
    )
    if found:
        return found
    is_web = resource.type.lower() in ("webcontent", "") or resource.type.startswith(
        "associatedcontent"
    )
    if not is_web:
        return ResourceKind.OTHER
    if resource.path.lower().endswith(_PAGES):
        return ResourceKind.PAGE
    return ResourceKind.FILE
