"""Cartridges of all versions, and packages in which something is missing, twice, or wrong."""

import json
import re
import zipfile

from lxml import etree

from tests.formats.cartridge import packages
from tests.formats.cartridge.packages import (
    choices,
    condition,
    content_package,
    equals,
    item,
    manifest,
    node,
    quiz,
    resource,
    text,
)
from tests.helpers import FolderCase, newburrow, rows, zipped

QTI = "imsqti_xmlv1p2/imscc_xmlv1p1/assessment"
RIGHT = item(
    choices("a", "b"),
    condition(equals("a"), "100"),
    {"cc_profile": "cc.multiple_choice.v0p1", "cc_weighting": "3"},
)


class Packages(FolderCase):
    def package(self, text: str, **files: str | bytes) -> None:
        data = {
            name: value.encode() if isinstance(value, str) else value
            for name, value in files.items()
        }
        zipped(self.folder / "c.zip", **{"imsmanifest.xml": text.encode(), **data})

    def found(self, *more: str) -> dict[str, object]:
        return json.loads(self.run_ok("survey", "c.zip", "--json", *more))  # type: ignore[no-any-return]

    def codes(self) -> set[str]:
        return {finding["code"] for finding in self.found()["findings"]}  # type: ignore[index, attr-defined]

    def test_every_version(self) -> None:
        for version in packages.VERSIONS:
            self.package(
                manifest(
                    resource("q", QTI, "q.xml"),
                    node("m", "M", inner=node("n", "N", "q")),
                    version,
                ),
                **{"q.xml": quiz([RIGHT])},
            )
            found = self.found()
            self.assertEqual(found["counts"], {"module": 1, "quiz": 1, "question": 1}, version)
            self.assertEqual(found["sources"][0]["format"], "common-cartridge")  # type: ignore[index]
        self.package(manifest("", version="1.7"))
        self.assertIn(
            "cartridge-version", newburrow("survey", "c.zip", folder=self.folder).stdout
        )

    def test_what_is_missing(self) -> None:
        text = manifest(
            resource("p", "webcontent", "p.html") + resource("f", "webcontent", "none.png")
            + '<resource identifier="e" type="webcontent"/>' + resource("x", "made-up", "x.bin"),
            node("a", "Page", "p") + node("b", "Gone", "nothing"),
        )  # fmt: skip
        self.package(
            text,
            **{"p.html": "<p>x <img src='lost.png'></p>", "x.bin": b"x", "loose.png": b"y"},
        )
        self.assertLessEqual(
            {"package-file-missing", "resource-missing", "resource-unread"}, self.codes()
        )
        self.assertEqual(self.found()["counts"], {"lesson": 1, "media": 2})

    def test_one_thing_at_two_places_and_a_tree_within(self) -> None:
        inner = node("i", "Inner", inner=node("c", "Again", "p"))
        self.package(
            manifest(
                resource("p", "webcontent", "w/p.html"),
                node("a", "Page", "p") + node("m", "Outer", inner=inner),
            ),
            **{"w__p.html": "<p>x</p>"},
        )
        self.assertEqual(self.found()["counts"], {"lesson": 1, "link": 1, "module": 2})
        self.run_ok("move", "c.zip", "--to", "chalkmere", "--out", "m")
        self.run_ok("survey", "m/new")

    def test_a_tool_stays_one_and_a_link_with_a_text_is_told(self) -> None:
        blti = "http://www.imsglobal.org/xsd/imsbasiclti_v1p0"
        lti = (
            f'<cartridge_basiclti_link xmlns="http://www.imsglobal.org/xsd/imslticc_v1p0" xmlns:b="{blti}"><b:title>Press</b:title>'
            "<b:description>To &lt;press&gt; with</b:description><b:custom><property name='level'>3 &amp; 4</property></b:custom>"
            "<b:secure_launch_url>https://tool.example/go?a=1&amp;b=2</b:secure_launch_url></cartridge_basiclti_link>"
        )
        self.package(
            manifest(resource("t", "imsbasiclti_xmlv1p0", "t.xml"), node("n", "Press", "t")),
            **{"t.xml": lti},
        )
        self.run_ok("move", "c.zip", "--to", "chalkmere", "--out", "m")
        self.run_ok("verify", "m")
        with zipfile.ZipFile(next((self.folder / "m/new").glob("*"))) as made:
            name = next(name for name in made.namelist() if name.startswith("tool-"))
            root = etree.fromstring(made.read(name))
            resources = made.read("imsmanifest.xml").decode()
        self.assertIn('type="imsbasiclti_xmlv1p3"', resources)
        self.assertEqual(
            [(etree.QName(node).localname, node.text) for node in root.iter() if (node.text or "").strip()],
            [("title", "Press"), ("description", "To <press> with"), ("property", "3 & 4"),
             ("secure_launch_url", "https://tool.example/go?a=1&b=2"), ("code", "tool.example"), ("name", "tool.example")],
        )  # fmt: skip
        for name, body in (("one", "[Only](https://x.example/)"), ("two", "See [it](https://x.example/), and more.")):  # fmt: skip
            self.write(f"t/texts/{name}.md", f"---\ntitle: Only\nkind: link\n---\n{body}\n")
        self.run_ok("move", "t", "--to", "chalkmere", "--out", "n")
        self.run_ok("verify", "n")
        told = [
            row for row in rows(self.folder / "n/follow-ups.csv") if row["kind"] == "link-text"
        ]
        self.assertEqual([row["places"] for row in told], ["1"])

    def test_a_manifest_in_a_folder_and_none_at_all(self) -> None:
        zipped(self.folder / "c.zip", **{
            "export__imsmanifest.xml": manifest(resource("q", QTI, "q.xml"), node("n", "N", "q")).encode(),
            "export__q.xml": quiz([RIGHT]).encode(),
        })  # fmt: skip
        self.assertEqual(self.found()["counts"], {"quiz": 1, "question": 1})
        zipped(self.folder / "c.zip", **{"export__q.xml": quiz([RIGHT]).encode()})
        self.assertEqual(self.found()["counts"], {"quiz": 1, "question": 1})

    def test_hostile_files(self) -> None:
        entity = '<!DOCTYPE q [<!ENTITY x SYSTEM "file:///etc/passwd">]>'
        self.package(
            manifest(
                resource("q", QTI, "q.xml") + resource("r", QTI, "r.xml"), node("n", "N", "q")
            ),
            **{"q.xml": entity + quiz([RIGHT]), "r.xml": quiz([RIGHT])[:-40]},
        )
        self.assertLessEqual({"entity-declaration", "not-well-formed"}, self.codes())
        self.package(entity + manifest("").partition("?>")[2])
        self.assertEqual(newburrow("survey", "c.zip", folder=self.folder).returncode, 2)
        self.package(manifest(resource("q", QTI, "../../etc/passwd")))
        self.assertIn("package-file-missing", self.codes())

    def test_a_file_that_lies_elsewhere_is_named(self) -> None:
        asked = item(
            text("<p><img src='../img/a.png' alt='a'></p>") + choices("a", "b"),
            condition(equals("a"), "100"),
        )
        self.package(
            manifest(
                resource("q", QTI, "q/q.xml") + resource("i", "webcontent", "pictures/a.png"),
                node("n", "N", "q"),
            ),
            **{"q__q.xml": quiz([asked, asked], title="Roots"), "pictures__a.png": b"png"},
        )
        self.run_ok("move", "c.zip", "--to", "slatewell", "--out", "m")
        said = [row["what"] for row in rows(self.folder / "m/follow-ups.csv")]
        self.assertTrue(
            any(
                "Roots" in what and "img/a.png" in what and "pictures/a.png" in what
                for what in said
            ),
            said,
        )

    def test_every_spelling_of_the_folder_of_files(self) -> None:
        """The word leads to the folder whose files the package has, as people and programs write it."""
        names = ("a", "b", "c", "d e", "f")
        links = ("$IMS-CC-FILEBASE$/p/a.png", "%24IMS-CC-FILEBASE%24/p/b.png?x=1", "$IMS_CC_FILEBASE$p/c.png",
                 "$1EdTech-CC-FILEBASE$/p/d%20e.png", "$ims-cc-filebase$../p/f.png")  # fmt: skip
        page = "<h1>P</h1>" + "".join(f'<img src="{link}" alt="x">' for link in links)
        pictures = "".join(
            resource(f"i{name[0]}", "webcontent", f"p/{name}.png") for name in names
        )
        self.package(
            manifest(resource("w", "webcontent", "w/p.html") + pictures, node("n", "N", "w")),
            **{"w/p.html": page, **{f"p/{name}.png": name for name in names}},
        )
        self.assertNotIn("missing-picture", self.codes())
        self.run_ok("move", "c.zip", "--to", "plainleaf", "--out", "m")
        written = next(self.folder.glob("m/new/texts/**/*.md")).read_text()
        self.assertEqual(written.count("(https://new-site.example/files/"), len(links), written)
        self.assertNotIn(
            "FILEBASE", (self.folder / "m/redirects/addresses.csv").read_text().upper()
        )

    def test_what_a_test_says_besides_is_told(self) -> None:
        rules = f'<sectionprecondition>x</sectionprecondition><rubric view="Tutor">{text("Secret")}</rubric>'
        self.package(
            manifest(resource("q", QTI, "q.xml"), node("n", "N", "q")),
            **{"q.xml": quiz([rules, RIGHT], {"own_colour": "green"})},
        )
        self.assertLessEqual({"test-rule-unread", "unread-element"}, self.codes())
        self.assertNotIn("Secret", self.run_ok("show", "c.zip", "Quiz"))

    def test_sections_in_files_of_their_own_and_settings_of_less_than_a_test(self) -> None:
        """A section can be in a file (QTI 2.1, section 10.3); questions come in the order in which they are asked."""
        space = 'xmlns="http://www.imsglobal.org/xsd/imsqti_v2p1"'
        kind = "imsqti_item_xmlv2p1"

        def asked(*names: str) -> str:
            return "".join(
                f'<assessmentItemRef identifier="{n}" href="{n}.xml"/>' for n in names
            )

        items = {f"{n}.xml": f'<assessmentItem {space} identifier="{n}"><itemBody><p>{n}</p></itemBody></assessmentItem>'
                 for n in "abcde"}  # fmt: skip
        section = f'<assessmentSection {space} identifier="far">{asked("d")}<assessmentSectionRef identifier="x" href="far.xml"/></assessmentSection>'
        inner = f'<assessmentSection identifier="in"><timeLimits maxTime="60"/>{asked("b")}</assessmentSection>'
        test = (
            f'<assessmentTest {space} identifier="t" title="T"><testPart identifier="p"><timeLimits maxTime="600"/>'
            f'<assessmentSection identifier="s">{asked("a")}{inner}{asked("c")}</assessmentSection>'
            f'<assessmentSectionRef identifier="far" href="far.xml"/><assessmentSectionRef identifier="g" href="gone.xml"/>'
            f"</testPart></assessmentTest>"
        )
        self.package(
            content_package(
                resource("t", "imsqti_test_xmlv2p1", "t.xml"),
                *(resource(f"i{n}", kind, f"{n}.xml") for n in "abcd"),
            ),
            **{"t.xml": test, "far.xml": section, **items},
        )
        self.assertLessEqual({"test-rule-unread", "package-file-missing"}, self.codes())
        shown = self.run_ok("show", "c.zip", "T")
        self.assertIn("time: 10 minutes", shown)
        student = shown[shown.index("student") : shown.index("teacher")]
        self.assertEqual(re.findall(r"(?m)^\d\. (\w)$", student), ["a", "b", "c", "d"])

    def test_items_of_a_test_that_the_manifest_does_not_say_it_depends_on(self) -> None:
        """They are questions of the test alone; an item that no test asks for is in a bank."""
        space = 'xmlns="http://www.imsglobal.org/xsd/imsqti_v2p1"'
        kind = "imsqti_item_xmlv2p1"
        items = {
            f"items__{n}.xml": f'<assessmentItem {space} identifier="{n}"><itemBody><p>{n}</p></itemBody></assessmentItem>'
            for n in "abc"
        }
        far = f'<assessmentSection {space} identifier="f"><assessmentItemRef identifier="b" href="../items/b.xml"/></assessmentSection>'
        test = (
            f'<assessmentTest {space} identifier="t" title="T"><testPart identifier="p"><assessmentSection identifier="s">'
            f'<assessmentItemRef identifier="a" href="../items/a.xml"/></assessmentSection>'
            f'<assessmentSectionRef identifier="f" href="far.xml"/></testPart></assessmentTest>'
        )
        self.package(
            content_package(
                resource("t", "imsqti_test_xmlv2p1", "tests/t.xml"),
                *(resource(f"i{n}", kind, f"items/{n}.xml") for n in "abc"),
            ),
            **{"tests__t.xml": test, "tests__far.xml": far, **items},
        )
        self.assertEqual(self.found()["counts"], {"quiz": 1, "question-bank": 1, "question": 3})

    def test_a_file_with_several_tests(self) -> None:
        """Each is a quiz of its own; a section without a test gives its title."""
        one, other = quiz([RIGHT], title="One"), quiz([RIGHT, RIGHT], title="Other")
        both = one.replace("</questestinterop>", other[other.index("<assessment") :])
        section = f'<questestinterop><section ident="s" title="Alone">{RIGHT}</section></questestinterop>'
        zipped(
            self.folder / "c.zip", **{"two.xml": both.encode(), "three.xml": section.encode()}
        )
        self.assertEqual(self.found()["counts"], {"quiz": 3, "question": 4})
        for title, questions in (("One", 1), ("Other", 2), ("Alone", 1)):
            shown = self.run_ok("show", "c.zip", title)
            self.assertEqual(shown.count("choice (3 points)"), questions, title)

    def test_a_text_that_items_share(self) -> None:
        """It stands before the question, with its pictures (QTI 2.2, `assessmentStimulusRef`)."""
        space = 'xmlns="http://www.imsglobal.org/xsd/imsqti_v2p2"'
        shared = f'<assessmentStimulus {space} identifier="s" title="S"><stimulusBody><p>Read this. <img src="a.png" alt=""/></p></stimulusBody></assessmentStimulus>'
        item = (
            f'<assessmentItem {space} identifier="i"><assessmentStimulusRef identifier="s" href="../texts/s.xml"/>'
            '<assessmentStimulusRef identifier="t" href="gone.xml"/><itemBody><p>What did you read?</p></itemBody></assessmentItem>'
        )
        self.package(
            content_package(
                resource("i", "imsqti_item_xmlv2p2", "items/i.xml"),
                resource("s", "imsqti_stimulus_xmlv2p2", "texts/s.xml"),
                resource("a", "webcontent", "texts/a.png"),
            ),
            **{"items/i.xml": item, "texts/s.xml": shared, "texts/a.png": b"\x89PNG\r\n\x1a\n"},
        )
        codes = self.codes()
        self.assertIn("package-file-missing", codes)
        self.assertFalse({"file-unused", "missing-picture", "resource-unread"} & codes, codes)
        self.assertIn(
            "1. Read this. (picture a.png) What did you read?",
            self.run_ok("show", "c.zip", "items"),
        )

    def test_metadata_without_a_place_in_the_model_are_kept(self) -> None:
        """Keywords, rights, what a resource is meant for, and its title in the outline; teachers' pages are private."""
        role = "<lom:educational><lom:intendedEndUserRole><lom:value>Instructor</lom:value></lom:intendedEndUserRole></lom:educational>"
        key = resource("k", "webcontent", "k.html").replace(
            ">", f' intendeduse="lessonplan"><metadata><lom:lom>{role}</lom:lom></metadata>', 1
        )
        talk = '<topic xmlns="http://www.imsglobal.org/xsd/imsccv1p3/imsdt_v1p3"><title>Talk about it</title><text>x</text></topic>'
        course = manifest(
            key + resource("t", "imsdt_xmlv1p1", "t.xml"),
            node("nk", "Key", "k") + node("nt", "Talk", "t"),
        )
        course = course.replace(
            "<lom:general>",
            "<lom:rights><lom:description><lom:string>Free</lom:string></lom:description></lom:rights><lom:general>",
            1,
        ).replace("</organizations>", '<organization identifier="b"/></organizations>')
        self.package(course, **{"k.html": "<p>The key.</p>", "t.xml": talk})
        found = {finding["code"]: finding["examples"] for finding in self.found()["findings"]}  # type: ignore[attr-defined]
        self.assertLessEqual(
            {
                "rights/description: Free",
                "intendeduse: lessonplan",
                "title in the outline: Talk",
            },
            set(found["unread-element"]),
        )
        self.assertIn("organisation-unread", found)
        self.assertRegex(self.run_ok("show", "c.zip", "Key"), r"status: +private")

    def test_a_module_without_a_title(self) -> None:
        """A wiki shows its name; that is told, and is no difference."""
        inner = node("n", "Page", "k")
        course = manifest(
            resource("k", "webcontent", "k.html"), node("m2", "", "", inner) + node("m1", "One")
        )
        self.package(course, **{"k.html": "<p>x</p>"})
        for host in ("sedgewiki", "tarnwiki"):
            self.run_ok("move", "c.zip", "--to", host, "--out", host)
            self.run_ok("verify", host)
            self.assertIn(
                "untitled", {row["kind"] for row in rows(self.folder / host / "follow-ups.csv")}
            )

    def test_a_file_without_a_manifest(self) -> None:
        """Pictures of questions lie beside their file; a duration is a time limit (QTI 1.2, section 3.2.2)."""
        shown = text('<p>Which? <img src="pics/a.png"></p>')
        whole = quiz([item(shown + choices("a", "b"), condition(equals("a"), "100"))])
        whole = whole.replace("<section", "<duration>PT1H30M</duration><section", 1)
        zipped(
            self.folder / "c.zip",
            **{"q.xml": whole.encode(), "pics/a.png": b"\x89PNG\r\n\x1a\n"},
        )
        self.assertNotIn("file-unused", self.codes())
        self.assertIn("time: 90 minutes", self.run_ok("show", "c.zip", "Quiz"))
        self.run_ok("move", "c.zip", "--to", "plainleaf", "--out", "m")
        self.run_ok("verify", "m")
