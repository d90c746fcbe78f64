"""Sections of quizzes: their order, what is drawn and what it is worth, there and back between both kinds of package."""

import re
import zipfile

from tests.formats.cartridge.packages import (
    choices,
    condition,
    equals,
    item,
    manifest,
    node,
    quiz,
    resource,
    text,
)
from tests.helpers import FolderCase, rows, zipped

QTI = "imsqti_xmlv1p2/imscc_xmlv1p1/"


def asked(name: str, points: str, after: str = "") -> str:
    facts = {"cc_profile": "cc.multiple_choice.v0p1", "cc_weighting": points}
    right = condition(equals("a"), "100")
    made = item(text(name) + choices("a", "b"), right, facts, after=after)
    return made.replace('ident="i"', f'ident="{name}"')


def section(name: str, items: str = "", draw: int = 0, bank: str = "", each: str = "") -> str:
    from_bank = f"<sourcebank_ref>{bank}</sourcebank_ref>" if bank else ""
    worth = f"<points_per_item>{each}</points_per_item><colour>red</colour>" if each else ""
    selection = (
        f"<selection>{from_bank}<selection_number>{draw}</selection_number>"
        f"<selection_extension>{worth}</selection_extension></selection>"
    )
    chosen = f"<selection_ordering>{selection}</selection_ordering>" if draw else ""
    return f'<section ident="{name}" title="{name.title()}">{chosen}{items}</section>'


class Sections(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        parts = [
            asked("q1", "2"),
            section("group", asked("q2", "2") + asked("q3", "4"), draw=1, each="3"),
            asked("q4", "1", "<itemproc_extension><x>y</x></itemproc_extension>"),
            section("drawn", draw=2, bank="pool", each="3"),
            section("lost", draw=2, bank="nowhere"),
            asked("q5", "1"),
            section("plain", asked("q6", "1")),
        ]
        held = "".join(asked(f"b{n}", "2") for n in range(3))
        pool = f'<questestinterop xmlns="http://www.imsglobal.org/xsd/ims_qtiasiv1p2"><objectbank ident="pool">{held}</objectbank></questestinterop>'
        files = resource("q", f"{QTI}assessment", "q.xml") + resource("b", f"{QTI}question-bank", "b.xml")  # fmt: skip
        zipped(
            self.folder / "c.zip",
            **{
                "imsmanifest.xml": manifest(files, node("n", "N", "q")).encode(),
                "q.xml": quiz(parts).encode(),
                "b.xml": pool.encode(),
            },
        )

    def order(self, path: object) -> list[str]:
        """The questions in the order in which a student sees them, with their points."""
        seen = self.run_ok("show", path, "Quiz").partition("as a student sees it:")[2]
        seen = seen.partition("as a teacher sees it:")[0]
        return re.findall(r"(?m)^\d+\. (\w+ \(.*?\))", seen)

    def test_order_and_points_there_and_back(self) -> None:
        order = ["q1 (2 points)", "q2 (3 points)", "q3 (3 points)", "q4 (1 point)", "q5 (1 point)", "q6 (1 point)"]  # fmt: skip
        self.assertEqual(self.order("c.zip"), order)
        self.run_ok("move", "c.zip", "--to", "slatewell", "--out", "m")
        self.run_ok("verify", "m")
        codes = {row["kind"]: row["what"] for row in rows(self.folder / "m/follow-ups.csv")}
        self.assertIn("nowhere", codes["no-bank"])
        self.assertIn("colour", codes["test-rule-unread"])
        self.assertIn("itemproc_extension", codes["item-rule-unread"])
        self.assertNotIn("question-changed", codes)
        (packed,) = (self.folder / "m/new").iterdir()
        with zipfile.ZipFile(packed) as archive:
            (test,) = (name for name in archive.namelist() if name.startswith("tests/"))
            written = archive.read(test).decode()
        # An item of 2 points that is worth 3 has a weight of 1.5 (QTI 2.1, section 10.4).
        self.assertEqual(re.findall('<weight .*?value="(.*?)"', written), ["1.5"] * 3)
        self.assertEqual(self.order(packed), order)
        self.run_ok("move", packed, "--to", "chalkmere", "--out", "back")
        self.run_ok("verify", "back")
        (again,) = (self.folder / "back/new").iterdir()
        shown = self.order(again)
        self.assertEqual([line for line in shown if line.startswith("q")], order)
        self.assertEqual([line for line in shown if line.startswith("b")], [f"b{n} (3 points)" for n in range(3)])  # fmt: skip
