"""The grafting course between all hosts, by the real program: nothing lost, answers equal, packages as the standards say."""

import json
import posixpath
import shutil
import zipfile
from functools import lru_cache
from pathlib import Path
from tempfile import mkdtemp
from urllib.parse import unquote

from lxml import etree

from newburrow.demo import course
from newburrow.hosts.loader import PROFILES
from tests.formats.cartridge import packages
from tests.helpers import FolderCase, demo_export, newburrow, rows, zipped

COURSE = course.build()


@lru_cache(maxsize=2)
def export(host: str) -> bytes:
    folder = Path(mkdtemp())
    course.write(COURSE, host, folder / "c.zip")
    data = (folder / "c.zip").read_bytes()
    shutil.rmtree(folder)
    return data


class Courses(FolderCase):
    def moved(self, source: str, host: str, *more: str) -> dict[str, dict[str, dict[str, int]]]:
        self.write(f"{source}.zip", export(source))
        out = f"{source}-{host}"
        return json.loads(
            self.run_ok("move", f"{source}.zip", "--to", host, "--out", out, "--json", *more)
        )  # type: ignore[no-any-return]

    def test_what_is_counted(self) -> None:
        for source, more in (
            (
                "chalkmere",
                {"lesson": 20, "discussion": 2, "link": 2, "assignment": 1, "question": 83},
            ),
            ("slatewell", {"lesson": 25, "question": 61}),
        ):
            self.write("c.zip", export(source))
            wanted = {"module": 5, "quiz": 6, "question-bank": 2, "media": 9, **more}
            counts = json.loads(self.run_ok("survey", "c.zip", "--json"))["counts"]
            self.assertEqual(counts, wanted, source)

    def test_to_every_host(self) -> None:
        for number, host in enumerate(PROFILES.names()):
            source = course_hosts()[number % 2]
            with self.subTest(source=source, host=host):
                counts = self.moved(source, host)["counts"]
                for kind, account in counts.items():
                    self.assertEqual(
                        (account["moved"], account["failed"]), (account["found"], 0), kind
                    )
                out = self.folder / f"{source}-{host}"
                kinds = {row["kind"] for row in rows(out / "follow-ups.csv")}
                self.assertNotIn("question-changed", kinds)
                questions = [
                    row for row in rows(out / "ledger.csv") if row["kind"] == "question"
                ]
                self.assertEqual(len(questions), counts["question"]["found"])
                self.assertTrue(all(row["title"].count(":") >= 1 for row in questions))

    def test_the_walk_begins_from_the_table_of_contents(self) -> None:
        self.write(
            "p/imsmanifest.xml",
            """<manifest identifier="m" xmlns="http://www.imsglobal.org/xsd/imsccv1p3/imscp_v1p1"><metadata>
            <schema>IMS Common Cartridge</schema><schemaversion>1.3.0</schemaversion></metadata>
            <organizations><organization identifier="o" structure="rooted-hierarchy"><item identifier="r">
            <item identifier="i"><title>First</title><item identifier="a" identifierref="ra"><title>A</title></item></item>
            </item></organization></organizations><resources>"""
            + "".join(
                f'<resource identifier="r{name}" type="webcontent" href="{name}.html"><file href="{name}.html"/></resource>'
                for name in "abc"
            )
            + "</resources></manifest>",
        )
        for name, body in (
            ("a", '<a href="b.html">b</a>'),
            ("b", "<p>b</p>"),
            ("c", "<p>c</p>"),
        ):
            self.write(
                f"p/{name}.html",
                f"<html><head><title>{name}</title></head><body>{body}</body></html>",
            )
        walk = json.loads(
            self.run_ok("move", "p", "--to", "chalkmere", "--out", "m", "--json")
        )["walk"]
        self.assertTrue(walk["has_home"])
        self.assertEqual((walk["after"]["reached"], walk["after"]["unreached"]), (3, 1))
        lost = [
            row["title"]
            for row in rows(self.folder / "m/walk.csv")
            if row["what"] == "page not reached"
        ]
        self.assertEqual(lost, ["c"])

    def test_files_that_are_missing_are_named_with_their_question(self) -> None:
        self.moved("chalkmere", "slatewell")
        said = [row["what"] for row in rows(self.folder / "chalkmere-slatewell/follow-ups.csv")]
        for quiz, number, file in (
            ("Tools and times", 9, "angle-sheet.png"),
            ("The exam", 1, "desk.jpg"),
        ):
            self.assertTrue(
                any(f"“{quiz}”, question {number}" in what and file in what for what in said),
                said,
            )
        found = json.loads(self.run_ok("survey", "chalkmere.zip", "--json"))["findings"]
        (missing,) = (finding for finding in found if finding["code"] == "missing-picture")
        self.assertEqual(missing["count"], 2)
        self.assertIn("“Tools and times, question 9”", missing["examples"][0])

    def test_packages_are_as_the_standards_say(self) -> None:
        for source, host in (("slatewell", "chalkmere"), ("chalkmere", "slatewell")):
            self.moved(source, host)
            (packed,) = (self.folder / f"{source}-{host}/new").iterdir()
            check_package(self, packed)

    def test_random_draws_stay_draws(self) -> None:
        self.moved("slatewell", "bag")
        self.moved("slatewell", "slatewell")
        (packed,) = (self.folder / "slatewell-slatewell/new").iterdir()
        again = json.loads(self.run_ok("survey", packed, "--json"))["counts"]
        self.assertEqual((again["question"], again["question-bank"]), (61, 2))
        shown = self.run_ok("show", packed, "Roots")
        self.assertIn("draws 5 questions from ", shown)
        self.moved("slatewell", "chalkmere")
        said = rows(self.folder / "slatewell-chalkmere/follow-ups.csv")
        drawn = [row["what"] for row in said if row["kind"] == "draw-written-out"]
        self.assertEqual(len(drawn), 2)
        counted = {
            row["title"]: row["reason"]
            for row in rows(self.folder / "slatewell-chalkmere/ledger.csv")
        }
        self.assertEqual(
            counted["Roots"],
            "12 questions, 12.5 points; before the move 3 questions, 3.5 points",
        )

    def test_answers_on_a_page(self) -> None:
        self.write("c.zip", export("slatewell"))
        self.run_ok("draft", "c.zip", "--to", "plainleaf", "--out", "m")
        toml = (self.folder / "m/move.toml").read_text()
        self.write("m/move.toml", toml.replace('answers = "hidden"', 'answers = "at-end"'))
        self.run_ok("move", "m")
        (page,) = (self.folder / "m/new/texts").rglob("tools-and-times*")
        text = page.read_text()
        self.assertLess(text.index("What belongs on the bench?"), text.index("## Answers"))
        self.assertIn("A knife; Tape", text)
        self.assertNotIn(
            "answers-hidden", {row["kind"] for row in rows(self.folder / "m/follow-ups.csv")}
        )
        self.moved("slatewell", "plainleaf")
        hidden = rows(self.folder / "slatewell-plainleaf/follow-ups.csv")
        self.assertIn("answers-hidden", {row["kind"] for row in hidden})

    def test_only_quizzes(self) -> None:
        self.write("c.zip", export("slatewell"))
        self.run_ok("draft", "c.zip", "--to", "chalkmere", "--out", "m")
        toml = (self.folder / "m/move.toml").read_text()
        kinds = toml[toml.index("\nkinds = ") + 1 :].partition("\n")[0]
        self.write("m/move.toml", toml.replace(kinds, 'kinds = ["quiz", "question-bank"]'))
        counts = json.loads(self.run_ok("move", "m", "--json"))["counts"]
        self.assertEqual((counts["quiz"]["moved"], counts["lesson"]["moved"]), (6, 0))

    def test_one_question(self) -> None:
        self.write("c.zip", export("slatewell"))
        self.run_ok("draft", "c.zip", "--to", "chalkmere", "--out", "m")
        toml = (self.folder / "m/move.toml").read_text()
        self.write(
            "m/move.toml", toml.replace("questions = []", 'questions = ["Cuts and ties, 8"]')
        )
        self.write(
            "m/move.toml", toml.replace("questions = []", 'questions = ["Cuts and ties, 9"]')
        )
        self.assertIn(
            "no question 'Cuts and ties, 9'", newburrow("move", "m", folder=self.folder).stderr
        )
        self.write(
            "m/move.toml", toml.replace("questions = []", 'questions = ["Cuts and ties, 8"]')
        )
        counts = json.loads(self.run_ok("move", "m", "--json"))["counts"]["question"]
        self.assertEqual((counts["moved"], counts["left-out"]), (1, 60))
        (moved,) = [
            row
            for row in rows(self.folder / "m/ledger.csv")
            if (row["kind"], row["fate"]) == ("question", "moved")
        ]
        self.assertTrue(moved["title"].startswith("Cuts and ties, 8: R&D asks"))

    def test_two_packages_of_one_course(self) -> None:
        """What is in both is united by identifier and content."""
        self.write("a.zip", export("slatewell"))
        self.write("b.zip", export("slatewell"))
        counts = json.loads(
            self.run_ok("move", "a.zip", "b.zip", "--to", "slatewell", "--out", "m", "--json")
        )["counts"]
        for kind in ("quiz", "question", "lesson", "question-bank"):
            self.assertEqual(
                (counts[kind]["moved"], counts[kind]["merged"]),
                (counts[kind]["found"] / 2,) * 2,
                kind,
            )

    def test_the_newest_of_two_packages(self) -> None:
        lived = "<lom:lifeCycle><lom:contribute><lom:date><lom:dateTime>{}</lom:dateTime></lom:date></lom:contribute></lom:lifeCycle>"
        text = packages.manifest(packages.resource("p", "webcontent", "p.html"), packages.node("n", "P", "p"))  # fmt: skip
        for name, day in (("a.zip", "2024-05-06"), ("b.zip", "2023-05-06")):
            dated = text.replace("</lom:general>", "</lom:general>" + lived.format(day))
            zipped(
                self.folder / name, **{"imsmanifest.xml": dated.encode(), "p.html": b"<p>x</p>"}
            )
        found = json.loads(self.run_ok("survey", "a.zip", "b.zip", "--json"))
        self.assertEqual([source["newest"] for source in found["sources"]], [True, False])

    def test_categories_of_a_blog_become_modules(self) -> None:
        self.write("blog.zip", demo_export())
        self.run_ok("draft", "blog.zip", "--to", "chalkmere", "--out", "m")
        path = self.folder / "m/terms.csv"
        path.write_text(path.read_text().replace(",keep,", ",page,"))
        self.run_ok("move", "m")
        found = json.loads(self.run_ok("survey", "m/new", "--json"))["counts"]
        terms = [row for row in rows(self.folder / "m/ledger.csv") if row["kind"] == "category"]
        self.assertGreater(found["module"], 5)
        self.assertEqual({row["fate"] for row in terms}, {"moved"})

    def test_two_sides_in_show(self) -> None:
        self.write("c.zip", export("slatewell"))
        shown = self.run_ok("show", "c.zip", "Cuts and ties")
        student, teacher = shown.partition("as a teacher sees it:")[::2]
        self.assertIn("(4 points)", student)
        self.assertIn("Saw the branch; Split it; Insert the wedge; Seal everything", teacher)


def course_hosts() -> list[str]:
    return COURSE.exports


def check_package(case: FolderCase, packed: Path) -> None:
    """Every file is listed and there, identifiers are unique, references lead somewhere (Content Packaging, section 4)."""
    with zipfile.ZipFile(packed) as archive:
        names = set(archive.namelist())
        root = etree.fromstring(archive.read("imsmanifest.xml"))
        trees = {
            name: etree.fromstring(archive.read(name))
            for name in names
            if name.endswith(".xml")
        }
        pages = {name: archive.read(name).decode() for name in names if name.endswith(".html")}
    identifiers = [
        element.get("identifier") for element in root.iter() if element.get("identifier")
    ]
    case.assertEqual(len(identifiers), len(set(identifiers)))
    known = {element.get("identifier") for element in root.iter("{*}resource")}
    for element in root.iter():
        if reference := element.get("identifierref"):
            case.assertIn(reference, known)
    listed = {unquote(element.get("href", "")) for element in root.iter("{*}file")}
    case.assertEqual(listed, names - {"imsmanifest.xml"})
    for resource in root.iter("{*}resource"):
        if href := resource.get("href"):
            case.assertIn(href, {element.get("href") for element in resource.iter("{*}file")})
    for name, tree in trees.items():
        check_items(case, name, tree, names)
    for name, page in pages.items():
        check_links(case, name, page, names)


def check_items(case: FolderCase, name: str, tree: etree._Element, names: set[str]) -> None:
    """Items that a test refers to are there, and each interaction has a response."""
    for element in tree.iter("{*}assessmentItemRef"):
        case.assertIn(
            posixpath.normpath(
                posixpath.join(posixpath.dirname(name), element.get("href", ""))
            ),
            names,
        )
    responses = {
        element.get("identifier"): {etree.QName(inner).localname for inner in element}
        for element in tree.iter("{*}responseDeclaration")
    }
    known = {*responses, *(e.get("identifier") for e in tree.iter("{*}outcomeDeclaration"))}
    asked = [found for e in tree.iter() if (found := e.get("responseIdentifier"))]
    case.assertLessEqual(set(asked), set(responses))
    case.assertEqual(len(asked), len(set(asked)), "one response of two interactions")
    for element in tree.iter("{*}mapping"):
        case.assertGreater(len(element), 0, "a mapping without an entry")
    for element in tree.iter("{*}variable", "{*}mapResponse", "{*}correct"):
        case.assertIn(element.get("identifier"), known)
    for word, part in (("mapResponse", "mapping"), ("correct", "correctResponse")):
        for element in tree.iter(f"{{*}}{word}"):
            case.assertIn(part, responses[element.get("identifier")])


def check_links(case: FolderCase, name: str, page: str, names: set[str]) -> None:
    """What a page links to and shows by a path is in the package."""
    for found in etree.HTML(page).iter("img", "a"):
        address = (found.get("src") or found.get("href") or "").partition("#")[0]
        if address and "://" not in address:
            case.assertIn(
                posixpath.normpath(posixpath.join(posixpath.dirname(name), unquote(address))),
                names,
            )


class Demo(FolderCase):
    def test_the_command(self) -> None:
        said = self.run_ok("demo", "--site", "course", "--out", "d")
        self.assertIn("Grafting for volunteers: from chalkmere to slatewell", said)
        self.assertTrue((self.folder / "d/grafting-slatewell.zip").is_file())
        report = (self.folder / "d/move/report.html").read_text()
        self.assertIn("For the teacher", report)
