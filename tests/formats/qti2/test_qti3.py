"""QTI 3.0 is read as QTI 2.2: the demo's course with all its names changed gives the same questions."""

import re
import tempfile
import unittest
import zipfile
from pathlib import Path

from lxml import etree
from msgspec.structs import replace

from newburrow.demo import course
from newburrow.formats.exports import detection, export_records
from newburrow.formats.qti2 import qti3
from newburrow.model import Entry, Question, Where

_HOLDERS = (
    "modalFeedback",
    "feedbackBlock",
    "rubricBlock",
)  # of texts, which stand in an element more
_ASI = "http://www.imsglobal.org/xsd/imsqtiasi_v3p0"


def _kebab(name: str) -> str:
    return re.sub("([A-Z])", lambda found: f"-{found[1].lower()}", name)


def _as_qti3(data: bytes) -> bytes:
    """A file of QTI 2 under the names of QTI 3.0."""
    root = etree.fromstring(data)
    for element in list(root.iter("*")):
        name = etree.QName(element)
        if name.localname in _HOLDERS:
            _wrap(element)
        is_html = element.getparent() is not None and name.localname in (
            "p", "div", "img", "em", "strong", "a", "span", "ul", "ol", "li", "br", "table", "tr", "td", "th",
            "tbody", "thead", "pre", "code", "blockquote", "object", "sub", "sup", "h2", "h3", "h4", "i", "b",
            "figure", "figcaption", "caption", "hr", "dl", "dt", "dd", "var", "cite", "q", "small", "u", "s",
        )  # fmt: skip
        prefix = "" if is_html else "qti-"
        element.tag = f"{{{_ASI}}}{prefix}{_kebab(name.localname)}"
        for key, value in list(element.attrib.items()):
            if not key.startswith("{") and not is_html:
                del element.attrib[key]
                element.set(_kebab(key), value)
    return etree.tostring(root)


def _wrap(element: etree._Element) -> None:
    body = etree.SubElement(element, f"{{{_ASI}}}contentBody")
    body.text, element.text = element.text, None
    for inner in list(element)[:-1]:
        body.append(inner)


def _records(path: Path) -> list[Question | Entry]:
    """The questions and quizzes of a package, without the places that they were read at."""
    found = export_records.records(detection.examine(path))
    return [
        replace(record, source=Where(), extra={})
        for record in found
        if isinstance(record, Question) or (isinstance(record, Entry) and record.quiz)
    ]


class Qti3(unittest.TestCase):
    def test_the_course_of_the_demo(self) -> None:
        with tempfile.TemporaryDirectory() as name:
            old, new = Path(name) / "old.zip", Path(name) / "new.zip"
            course.write(course.build(), "slatewell", old)
            with zipfile.ZipFile(old) as source, zipfile.ZipFile(new, "w") as target:
                for file in source.namelist():
                    data = source.read(file)
                    if file == "imsmanifest.xml":
                        data = data.replace(b"_xmlv2p1", b"_xmlv3p0")
                    elif b"<assessment" in data[:400]:
                        data = _as_qti3(data)
                        self.assertIn(b"qti-assessment-", data)
                    target.writestr(file, data)
            questions = _records(old)
            self.assertGreater(len(questions), 60)
            self.assertEqual(_records(new), questions)

    def test_names(self) -> None:
        for name, wanted in (
            ("qti-response-else-if", "responseElseIf"),
            ("qti-p", "p"),
            ("font-face", "font-face"),
            ("assessmentItem", "assessmentItem"),
        ):
            self.assertEqual(qti3.bare_name(name), wanted)
