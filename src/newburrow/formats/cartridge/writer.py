"""Writing a course as a Common Cartridge 1.3 (1EdTech), with QTI 1.2."""

from __future__ import annotations

from collections.abc import Callable, Iterable

from newburrow.core.problem import Problem
from newburrow.formats.base import Job, Output
from newburrow.formats.cartridge.course_writer import CourseWriter
from newburrow.formats.cartridge.package_files import Written, identifier
from newburrow.formats.cartridge.small_files_writer import (
    assignment,
    tool,
    topic,
    web_link,
    words_beside_link,
)
from newburrow.formats.qti1 import writer as qti1
from newburrow.formats.qti1.item_writer import Html
from newburrow.formats.xml_output import text
from newburrow.model import Question, Site
from newburrow.model.bundle import Bundle

_FURTHER = "associatedcontent/imscc_xmlv1p3/learning-application-resource"
_QTI = "imsqti_xmlv1p2/imscc_xmlv1p3/"
_HEAD = """<?xml version="1.0" encoding="UTF-8"?>
<manifest identifier="{id}" xmlns="http://www.imsglobal.org/xsd/imsccv1p3/imscp_v1p1" \
xmlns:lomimscc="http://ltsc.ieee.org/xsd/imsccv1p3/LOM/manifest" \
xmlns:xsi="http://www.w3.org/2001/XMLSchema-instance" \
xsi:schemaLocation="http://www.imsglobal.org/xsd/imsccv1p3/imscp_v1p1 \
http://www.imsglobal.org/profile/cc/ccv1p3/ccv1p3_imscp_v1p2_v1p0.xsd \
http://ltsc.ieee.org/xsd/imsccv1p3/LOM/manifest \
http://www.imsglobal.org/profile/cc/ccv1p3/LOM/ccv1p3_lommanifest_v1p0.xsd">
<metadata>
<schema>IMS Common Cartridge</schema>
<schemaversion>1.3.0</schemaversion>
<lomimscc:lom>
<lomimscc:general>
<lomimscc:title>
<lomimscc:string>{title}</lomimscc:string>
</lomimscc:title>
{more}</lomimscc:general>
{place}</lomimscc:lom>
</metadata>"""


class CartridgeWriter(CourseWriter):
    """One course as a cartridge."""

    structure = "rooted-hierarchy"
    associated = _FURTHER
    lom, string = "http://ltsc.ieee.org/xsd/imsccv1p3/LOM/resource", "string"

    def __init__(self, output: Output, job: Job) -> None:
        super().__init__(output, job)
        self._has_bank = False

    def head(self) -> str:
        """The beginning of the manifest, with the metadata (section 2.2)."""
        site, id_ = self.job.site, self.manifest_identifier()
        return _HEAD.format(
            id=id_, title=text(site.title), more=_more(site), place=_place(site)
        )

    def entry(self, bundle: Bundle) -> Iterable[Problem]:
        """An entry as the resource that its kind is, at its place in the course."""
        entry, self._lost_words = bundle.entry, list[Problem]()
        writers = {
            "module": self._module,
            "link": self._link,
            "discussion": self._topic,
            "assignment": self._assignment,
            "quiz": self._quiz,
            "question-bank": self._bank,
        }
        resource = writers.get(entry.kind, self.page)(bundle)
        if entry.kind != "question-bank":
            self.place(entry, resource)
        if entry.kind not in writers:
            return ()
        return [*self.lost(bundle), *self._lost_words]

    def _module(self, bundle: Bundle) -> str:
        if bundle.entry.body.text.strip():
            return self.page(bundle)
        return ""

    def _link(self, bundle: Bundle) -> str:
        if second := self.second_place(bundle):
            return second
        if made := tool(bundle.entry):
            return self._xml(bundle, "tool", "imsbasiclti_xmlv1p3", lambda _html: [made])
        if made := web_link(bundle.entry):
            if words := words_beside_link(bundle.entry):
                self._lost_words = [Problem.about(bundle.entry, "link-text", words)]
            return self._xml(bundle, "link", "imswl_xmlv1p3", lambda _html: [made])
        return self.page(bundle)

    def _topic(self, bundle: Bundle) -> str:
        entry = bundle.entry
        return self._xml(
            bundle, "topic", "imsdt_xmlv1p3", lambda html: [topic(entry, html(entry.body))]
        )

    def _assignment(self, bundle: Bundle) -> str:
        entry = bundle.entry

        def made(html: Html) -> list[str]:
            return [assignment(entry, html(entry.body), identifier(entry.key))]

        return self._xml(bundle, "assignment", "assignment_xmlv1p0", made)

    def _quiz(self, bundle: Bundle) -> str:
        entry, asked = bundle.entry, _named(bundle.questions)
        id_ = identifier(entry.key)
        return self._xml(
            bundle, "quiz", f"{_QTI}assessment", lambda html: qti1.quiz(entry, id_, asked, html)
        )

    def _bank(self, bundle: Bundle) -> str:
        """A question bank. A cartridge has one at most (section 2.3); further ones are files of an application."""
        entry, asked = bundle.entry, _named(bundle.questions)
        id_ = identifier(entry.key)
        type_ = _FURTHER if self._has_bank else f"{_QTI}question-bank"
        self._has_bank = True
        return self._xml(bundle, "bank", type_, lambda html: qti1.bank(entry, id_, asked, html))

    def _xml(
        self, bundle: Bundle, kind: str, type_: str, made: Callable[[Html], Iterable[str]]
    ) -> str:
        """Write an XML file for an entry; gives the identifier of its resource."""
        name, id_ = self.file_name(bundle, kind), identifier(bundle.entry.key)
        html, files = self.noted_links("$IMS-CC-FILEBASE$/")
        self.write(name, made(html))
        href = name if type_ == _FURTHER else ""
        self.listed.add(Written(id_, type_, href, (name,), tuple(files)))
        return id_


def _named(questions: Iterable[Question]) -> list[tuple[str, Question]]:
    """Questions with the identifiers that their items have."""
    return [(identifier(question.key), question) for question in questions]


def _more(site: Site) -> str:
    if site.language:
        made = f"<lomimscc:language>{text(site.language)}</lomimscc:language>\n"
    else:
        made = ""
    if site.description:
        made += (
            f"<lomimscc:description>\n<lomimscc:string>{text(site.description)}</lomimscc:string>\n"
            "</lomimscc:description>\n"
        )
    return made


def _place(site: Site) -> str:
    if not site.address:
        return ""
    return f"<lomimscc:technical>\n<lomimscc:location>{text(site.address)}</lomimscc:location>\n</lomimscc:technical>\n"
