"""Links, discussions, assignments and tools, and what a manifest says of them: all of it is read or kept."""

import io
import unittest

from lxml import etree

from newburrow.formats.cartridge import small_files
from newburrow.formats.cartridge.manifest import read_manifest, site_of
from newburrow.model import Entry
from tests.formats.cartridge.packages import manifest, node, resource
from tests.helpers import FolderCase, rows, zipped

ASSIGNMENT = """<assignment xmlns="http://www.imsglobal.org/xsd/imscc_extensions/assignment"><title>Graft one</title>
<text texttype="text/html">&lt;p>Do it.&lt;/p></text><instructor_text texttype="text/plain">Look at the cut</instructor_text>
<attachments><attachment href="my%20plan.txt" role="All"/><attachment href="key.pdf" role="Instructor"/></attachments>
<gradable points_possible="12.5">true</gradable><submission_formats><format type="file"/><format type="url"/></submission_formats>
<extensions platform="p.example"><a b="c">d</a></extensions></assignment>"""


def read(text: str) -> Entry:
    entry = small_files.entry_of(etree.fromstring(text), Entry(key="k", extra={"kept": ["x"]}))
    assert entry is not None
    return entry


class SmallFiles(unittest.TestCase):
    def test_an_assignment(self) -> None:
        found = read(ASSIGNMENT)
        self.assertIn('<a href="my%20plan.txt">my plan.txt</a>', found.body.text)
        self.assertNotIn("key.pdf", found.body.text)
        self.assertIn("key.pdf", found.fields["for_teachers"])
        self.assertEqual(
            (found.fields["points"], found.fields["hand_in"]), ("12.5", "file, url")
        )
        self.assertEqual(
            found.extra,
            {"kept": ["x"], "extensions/platform": ["p.example"], "extensions/a": ["d"], "extensions/a/b": ["c"]},
        )  # fmt: skip

    def test_what_has_no_place_in_the_model_is_kept(self) -> None:
        link = read('<webLink><title>W</title><url href="https://x.example/" target="_blank" windowFeatures="width=1"/></webLink>')  # fmt: skip
        self.assertEqual(link.extra, {"kept": ["x"], "url/target": ["_blank"], "url/windowFeatures": ["width=1"]})  # fmt: skip
        tool = read(
            "<cartridge_basiclti_link><title>T</title><launch_url>http://t.example/</launch_url><icon>i.png</icon>"
            "<secure_launch_url>https://t.example/</secure_launch_url><vendor><name>V</name></vendor></cartridge_basiclti_link>"
        )
        self.assertEqual(tool.fields["tool"], "https://t.example/")
        self.assertEqual(
            tool.extra,
            {"kept": ["x"], "launch_url": ["http://t.example/"], "icon": ["i.png"], "vendor/name": ["V"]},
        )  # fmt: skip

    def test_titles_in_several_languages_and_other_parts_of_a_manifest(self) -> None:
        text = manifest(resource("a", "webcontent", "a.html"), node("n", "A", "a"))
        titles = '<lom:string language="de">Veredeln</lom:string><lom:string language="en">Grafting</lom:string>'
        begin = text.index("<lom:title>")
        end = text.index("</lom:title>", begin)
        text = f"{text[:begin]}<lom:language>en</lom:language><lom:title>{titles}{text[end:]}"
        text = text.replace("<organizations", '<access import="true"/><organizations', 1)
        text = text.replace("</resource>", '<variant identifierref="b"/></resource>', 1)
        read_one = read_manifest(lambda: io.BytesIO(text.encode()), "imsmanifest.xml")
        site = site_of(read_one)
        self.assertEqual((site.title, site.language), ("Grafting", "en"))
        self.assertEqual(site.extra["general/title in de"], ["Veredeln"])
        self.assertEqual(site.extra["access/import"], ["true"])
        self.assertEqual(read_one.resources["a"].extra, {"variant/identifierref": ["b"]})


class Packages(FolderCase):
    def test_an_assignment_beside_a_page_for_hosts_without_any(self) -> None:
        """The resource names the page first, and the assignment is another of its files."""
        files = resource("s", "assignment_xmlv1p0", "s.html").replace("</resource>", '<file href="s.xml"/></resource>')  # fmt: skip
        zipped(self.folder / "c.zip", **{
            "imsmanifest.xml": manifest(files, node("n", "N", "s")).encode(), "s.xml": ASSIGNMENT.encode(),
            "s.html": b"<p>See the course.</p>", "my plan.txt": b"plan", "key.pdf": b"%PDF",
        })  # fmt: skip
        self.assertEqual(self.survey("c.zip")["counts"]["assignment"], 1)
        self.run_ok("move", "c.zip", "--to", "slatewell", "--out", "m")
        self.run_ok("verify", "m")
        self.assertNotIn("resource-unread", {row["kind"] for row in rows(self.folder / "m/follow-ups.csv")})  # fmt: skip
