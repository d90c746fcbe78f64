"""Writing a course as a content package (IMS Content Packaging 1.1.4) with QTI 2.1."""

from __future__ import annotations

from collections.abc import Iterable

from newburrow.core.problem import Problem
from newburrow.formats.cartridge.course_writer import CourseWriter
from newburrow.formats.cartridge.package_files import (
    Standing,
    Written,
    identifier,
    identifier_of_file,
)
from newburrow.formats.qti2 import item_writer, test_writer
from newburrow.formats.xml_output import text
from newburrow.model import Question
from newburrow.model.bundle import Bundle

_ITEM, _TEST = "imsqti_item_xmlv2p1", "imsqti_test_xmlv2p1"
_HEAD = """<?xml version="1.0" encoding="UTF-8"?>
<manifest identifier="{id}" xmlns="http://www.imsglobal.org/xsd/imscp_v1p1" \
xmlns:imsmd="http://www.imsglobal.org/xsd/imsmd_v1p2" \
xmlns:xsi="http://www.w3.org/2001/XMLSchema-instance" \
xsi:schemaLocation="http://www.imsglobal.org/xsd/imscp_v1p1 \
http://www.imsglobal.org/xsd/qti/qtiv2p1/qtiv2p1_imscpv1p2_v1p0.xsd \
http://www.imsglobal.org/xsd/imsmd_v1p2 http://www.imsglobal.org/xsd/imsmd_v1p2p4.xsd">
<metadata>
<schema>QTIv2.1 Package</schema>
<schemaversion>1.0.0</schemaversion>
<imsmd:lom>
<imsmd:general>
<imsmd:title>
<imsmd:langstring>{title}</imsmd:langstring>
</imsmd:title>
{more}</imsmd:general>
{place}</imsmd:lom>
</metadata>"""


class PackageWriter(CourseWriter):
    """One course as a content package."""

    structure = "hierarchical"
    associated = "associatedcontent/learning-application-resource"
    lom, string = "http://www.imsglobal.org/xsd/imsmd_v1p2", "langstring"

    def head(self) -> str:
        """The beginning of the manifest, with the metadata."""
        site = self.job.site
        if site.language:
            more = f"<imsmd:language>{text(site.language)}</imsmd:language>\n"
        else:
            more = ""
        if site.description:
            words = f"<imsmd:langstring>{text(site.description)}</imsmd:langstring>"
            more += f"<imsmd:description>\n{words}\n</imsmd:description>\n"
        location = f'<imsmd:location type="URI">{text(site.address)}</imsmd:location>\n'
        place = f"<imsmd:technical>\n{location}</imsmd:technical>\n"
        id_ = self.manifest_identifier()
        return _HEAD.format(id=id_, title=text(site.title), more=more, place=place)

    def entry(self, bundle: Bundle) -> Iterable[Problem]:
        """An entry as the resource that its kind is, at its place in the course."""
        entry, resource = bundle.entry, ""
        if entry.kind == "question-bank":
            self._bank(bundle)
        elif entry.kind == "quiz":
            resource = self._test(bundle)
        elif entry.kind != "chapter" or entry.body.text.strip():
            resource = self.second_place(bundle) or self.page(bundle)
        self.place(entry, resource)
        if entry.kind in ("quiz", "question-bank"):
            return self.lost(bundle)
        return ()

    def _bank(self, bundle: Bundle) -> None:
        """The items of a question bank, each at its place under the heading of the bank."""
        for number, question in enumerate(bundle.questions, 1):
            self._item(question)
            title = question.title or f"Question {number}"
            key = f"item of {question.key}"
            self.listed.place(
                Standing(
                    key,
                    bundle.entry.key,
                    number,
                    title,
                    identifier_of_file(_path(question.key)),
                )
            )

    def _test(self, bundle: Bundle) -> str:
        paths = [self._item(question) for question in bundle.questions]
        drawn = [_path(key) for keys in bundle.banks.values() for key in keys]
        html, files = self.noted_links("../")
        entry, id_ = bundle.entry, identifier(bundle.entry.key)
        name = f"tests/{self.file_name(bundle, 'test')}"
        self.write(
            name, test_writer.test(entry, id_, bundle.questions, bundle.banks, _refer, html)
        )
        depends = tuple(dict.fromkeys((*paths, *drawn, *files)))
        self.listed.add(Written(id_, _TEST, name, (name,), depends))
        return id_

    def _item(self, question: Question) -> str:
        """Write the item of a question; gives its path."""
        html, files = self.noted_links("../")
        name = _path(question.key)
        self.write(name, [item_writer.item(question, identifier(question.key), html)])
        self.listed.add(Written(identifier_of_file(name), _ITEM, name, (name,), tuple(files)))
        return name


def _path(key: str) -> str:
    """The path of the item of a question."""
    return f"items/{identifier(key)}.xml"


def _refer(key: str) -> tuple[str, str]:
    return identifier(key), f"../{_path(key)}"
