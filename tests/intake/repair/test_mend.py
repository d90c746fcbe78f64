import io
import random
import unittest
import zipfile

from hypothesis import given
from hypothesis import strategies as st
from lxml import etree

from newburrow.intake.part import Part
from newburrow.intake.repair.record import Repair
from newburrow.intake.repair.xml_repair import is_well_formed, mend
from newburrow.intake.repair.xml_scanner import Scanner
from tests.helpers import SITE, FolderCase, demo_export, item, newburrow, rss, zipped
from tests.test_fuzz import broken

RSS = '<rss xmlns:content="http://purl.org/rss/1.0/modules/content/"><channel>'
PIECES = ("<a>", "</a>", "<b c='1'>", "</b>", "<item>", "</item>", "<title>t</title>", "<![CDATA[", "]]>", "&", "&amp;", "&nbsp;", "<", "<!--",
          "-->", "<?x?>", "x", "é", '<a b="1" b="2">', "<a b=1>", "<br>", "\n", "<x:y>", "</x:y>", "<!DOCTYPE a>", "</rss>")  # fmt: skip


def mended(data: bytes) -> tuple[bytes, list[Repair]]:
    repairs: list[Repair] = []
    target = io.BytesIO()
    mend(Part("a.xml", len(data), "a.xml", lambda: io.BytesIO(data)), target, repairs.append)
    return target.getvalue(), repairs


class EachFault(unittest.TestCase):
    def check(self, wrong: str | bytes, right: str, *codes: str) -> list[Repair]:
        found, repairs = mended(wrong if isinstance(wrong, bytes) else wrong.encode())
        self.assertEqual(found.decode(), right, wrong)
        self.assertEqual([repair.code for repair in repairs], list(codes), wrong)
        etree.fromstring(found)
        return repairs

    def test_texts(self) -> None:
        for wrong, right, code in (
            ("<a>x & y</a>", "<a>x &amp; y</a>", "bare-ampersand"),
            ("<a>x &y z;</a>", "<a>x &amp;y z;</a>", "bare-ampersand"),
            ("<a>1 < 2</a>", "<a>1 &lt; 2</a>", "bare-less-than"),
            ("<a>if a <b and c> d</a>", "<a>if a &lt;b and c> d</a>", "bare-less-than"),
            ("<a>&nbsp;</a>", "<a>&#160;</a>", "entity"),
            ("<a>&#8;x</a>", "<a>x</a>", "control-character"),
            ("<a>x\x08\x0b</a>", "<a>x</a>", "control-character"),
            ("<a>]]></a>", "<a>]]&gt;</a>", "cdata-end"),
            (
                "<a><![CDATA[x ]]> y]]></a>",
                "<a><![CDATA[x ]]]]><![CDATA[> y]]></a>",
                "cdata-end",
            ),
            ("<a><![CDATA[x</a>", "<a><![CDATA[x]]></a>", "unclosed-cdata"),
            ("<a><!-- x -- y --></a>", "<a><!-- x    y --></a>", "comment"),
        ):
            self.check(wrong, right, code)

    def test_a_cdata_section_left_open(self) -> None:
        wrong = "<r>&<a><![CDATA[x</a><a><![CDATA[y]]></a></r>"
        self.check(
            wrong,
            "<r>&amp;<a><![CDATA[x]]></a><a><![CDATA[y]]></a></r>",
            "bare-ampersand",
            "unclosed-cdata",
        )
        self.check(wrong.replace("&", ""), wrong.replace("&", ""))  # strange, but well-formed

    def test_tags(self) -> None:
        for wrong, right, code in (
            ('<a b="1" b="2"/>', '<a b="1"/>', "attribute-twice"),
            ('<a b%c="1">x</a>', '<a bc="1">x</a>', "attribute-name"),
            ("<a b=1>x</a>", '<a b="1">x</a>', "unquoted-attribute"),
            ('<a b="x & y"/>', '<a b="x &amp; y"/>', "bare-ampersand"),
            ("<a><b>x</a>", "<a><b>x</b></a>", "unclosed"),
            ("<a>x<br>y</a>", "<a>x<br/>y</a>", "unclosed"),
            ("<a>x</b></a>", "<a>x</a>", "stray-end"),
            ("<a><b>x", "<a><b>x</b></a>", "unclosed"),
            (
                "<a><q:b>x</q:b></a>",
                '<a xmlns:q="urn:undeclared:q"><q:b>x</q:b></a>',
                "undeclared-prefix",
            ),
            (
                "<a><dc:b/></a>",
                '<a xmlns:dc="http://purl.org/dc/elements/1.1/"><dc:b/></a>',
                "undeclared-prefix",
            ),
        ):
            self.check(wrong, right, code)
        self.check("<a><b><i>x</b></i></a>", "<a><b><i>x</i></b></a>", "unclosed", "stray-end")

    def test_around_the_document(self) -> None:
        for wrong, right, code in (
            ("< & <a/>", "<a/>", "before-start"),
            ("notice\n<a/>", "<a/>", "before-start"),
            ("\n\n<?xml version='1.0'?><a/>", "<?xml version='1.0'?><a/>", "before-start"),
            ("<?xml version='1.0'?>oops<a/>", "<?xml version='1.0'?><a/>", "before-start"),
            ("<a/>\n<b>Fatal error</b> in line 7", "<a/>", "after-end"),
            ("<a>&</a>\n<!-- x -->\n", "<a>&amp;</a>\n<!-- x -->\n", "bare-ampersand"),
            ("<a>x<?xml version='1.0'?>y</a>", "<a>xy</a>", "declaration"),
        ):
            self.check(wrong, right, code)

    def test_encodings(self) -> None:
        head = '<?xml version="1.0" encoding="%s"?>'
        self.check(
            "<a>x “y” é</a>".encode("cp1252"),
            "<a>x “y” é</a>",
            "encoding",
            "encoding",
            "encoding",
        )
        self.check("<a>é".encode() + "é</a>".encode("cp1252"), "<a>éé</a>", "encoding")
        self.check(
            (head % "ISO-8859-1" + "<a>é &</a>").encode(),
            head % "UTF-8" + "<a>é &amp;</a>",
            "declaration",
            "bare-ampersand",
        )
        self.check(
            (head % "utf-16" + "<a>é &</a>").encode("utf-16"),
            head % "UTF-8" + "<a>é &amp;</a>",
            "encoding",
            "bare-ampersand",
        )
        latin = (head % "ISO-8859-1" + "<a>é &</a>").encode("latin-1")
        self.check(latin, head % "UTF-8" + "<a>é &amp;</a>", "encoding", "bare-ampersand")
        right = latin.replace(b"&", b"&amp;")
        self.assertEqual(mended(right), (right, []))
        self.check(
            (head % "no-such" + "<a>é</a>").encode("cp1252"),
            head % "UTF-8" + "<a>é</a>",
            "declaration",
            "encoding",
        )

    def test_what_was_cut_off(self) -> None:
        whole = "<item><title>One</title></item>\n"
        for rest in ("<item><title>Two</title><desc", "<item><title>Two</title><content:encoded><![CDATA[<p>x",
                     "<item><title><![CDATA[Two]]></title><b>Fatal error</b>: out of memory<br />"):  # fmt: skip
            found, repairs = mended((RSS + whole + rest).encode())
            self.assertEqual(found.decode(), RSS + whole + "</channel></rss>", rest)
            self.assertEqual(
                [repair.before for repair in repairs if repair.code == "cut-off"], ["Two"]
            )
        found, repairs = mended(
            (
                RSS + whole + "<item><title>Two</title><desc\n" + whole + "</channel></rss>"
            ).encode()
        )
        self.assertEqual(found.decode(), RSS + whole + whole + "</channel></rss>")
        found, repairs = mended(
            (RSS + whole + "<item><title>Two</title></channel></rss>").encode()
        )
        self.assertEqual(found.decode(), RSS + whole + "</channel></rss>")
        _found, repairs = mended(
            (RSS + whole + "</channel></rss>" + RSS + whole + "</channel></rss>").encode()
        )
        self.assertEqual([repair.code for repair in repairs], ["second-document"])

    def test_lines_are_those_of_the_file(self) -> None:
        text = (
            "junk\n"
            + "<a>\n"
            + "x & y\n" * 3
            + "é\n".encode("cp1252").decode("latin-1")
            + "</a>"
        )
        _found, repairs = mended(text.encode("latin-1"))
        self.assertEqual([(r.code, r.line) for r in repairs],
                         [("before-start", 1), *(("bare-ampersand", line) for line in (3, 4, 5)), ("encoding", 6)])  # fmt: skip


class Whole(unittest.TestCase):
    def test_what_is_well_formed_is_not_altered(self) -> None:
        xml = zipfile.ZipFile(io.BytesIO(demo_export())).read("export/mistlebank.xml")
        for data in (
            xml,
            b"\xef\xbb\xbf" + xml,
            b"<a>\r\n<b/>\t</a >\n<!-- x -->",
            rss(item("é", SITE)).replace("UTF-8", "latin-1").encode("latin-1"),
        ):
            self.assertEqual(mended(data), (data, []))

    def test_all_complete_items_survive(self) -> None:
        xml = zipfile.ZipFile(io.BytesIO(demo_export())).read("export/mistlebank.xml")
        items = [etree.tostring(one) for one in etree.fromstring(xml).iter("item")]
        chance = random.Random("survive")
        for fault in (b" & ", b" < ", b"&nbsp;", b"\x0c", b"<br>", b"</zz>", b"\xe9", b"]]>"):
            place = xml.index(b"</title>", chance.randrange(len(xml) // 2))
            found = [
                etree.tostring(one)
                for one in etree.fromstring(mended(xml[:place] + fault + xml[place:])[0]).iter(
                    "item"
                )
            ]
            self.assertEqual(len(found), len(items), fault)
            self.assertGreaterEqual(sum(one in items for one in found), len(items) - 1, fault)
        for _ in range(12):
            cut = chance.randrange(len(xml) // 10, len(xml))
            found = [
                etree.tostring(one)
                for one in etree.fromstring(mended(xml[:cut])[0]).iter("item")
            ]
            self.assertEqual(found, items[: xml[:cut].count(b"</item>")])

    def test_whatever_is_broken_becomes_well_formed(self) -> None:
        xml = zipfile.ZipFile(io.BytesIO(demo_export())).read("export/mistlebank.xml")
        chance = random.Random("mend")
        for number in range(40):
            data = broken(xml, chance)
            if b"<!DOCTYPE" in data or b"<rss" not in data:
                continue
            found = mended(data)[0]
            self.assertTrue(
                is_well_formed(io.BytesIO(found)) or b"<channel" not in data, number
            )

    @given(
        st.lists(st.sampled_from(PIECES), max_size=20).map("".join), st.sampled_from((1, 3, 7))
    )
    def test_the_size_of_the_chunks_makes_no_difference(self, text: str, size: int) -> None:
        data = ("<rss>" + text + "</rss>").encode()
        results = []
        for step in (len(data), size):
            out: list[bytes] = []
            repairs: list[Repair] = []
            scanner = Scanner(out.append, repairs.append)
            for place in range(0, len(data), step):
                scanner.feed(data[place : place + step])
            scanner.finish()
            results.append((b"".join(out), [(repair.code, repair.line) for repair in repairs]))
        self.assertEqual(results[0], results[1])


class Command(FolderCase):
    def test_a_file(self) -> None:
        self.write(
            "bad.xml", rss("<item><title>A & B</title></item>", "<item><title>Cut")[:-17]
        )
        self.assertIn("newburrow mend EXPORT -o FIXED", self.refused("survey", "bad.xml"))
        printed = self.run_ok("mend", "bad.xml", "-o", "good.xml", status=1)
        for words in (
            "line 4: a bare &: & B</title>",
            "→",
            "AN ITEM THAT WAS CUT OFF, left out: Cut",
            "Next: newburrow survey good.xml",
        ):
            self.assertIn(words, printed)
        self.assertEqual(self.survey("good.xml")["counts"], {"post": 1})
        self.assertIn("exists already", self.refused("mend", "bad.xml", "-o", "good.xml"))

    def test_an_archive(self) -> None:
        zipped(
            self.folder / "bad.zip",
            feed_xml=rss(item("A", SITE), "<item><title>&nbsp;</title></item>").encode(),
            a_png=b"\x89PNG & <",
        )
        self.run_ok("mend", "bad.zip", "-o", "good.zip")
        self.assertEqual(
            zipfile.ZipFile(self.folder / "good.zip").read("a_png"), b"\x89PNG & <"
        )
        self.assertEqual(self.survey("good.zip")["counts"], {"post": 2, "media": 1})

    def test_what_is_right_or_nothing_to_mend(self) -> None:
        self.write("good.xml", rss(item("A", SITE)))
        self.assertIn(
            "the same, byte for byte", self.run_ok("mend", "good.xml", "-o", "same.xml")
        )
        self.assertEqual(
            (self.folder / "same.xml").read_bytes(), (self.folder / "good.xml").read_bytes()
        )
        self.write("notes.txt", "hello")
        self.assertIn("neither XML nor JSON", self.refused("mend", "notes.txt", "-o", "x"))
        self.write("bomb.xml", '<!DOCTYPE a [<!ENTITY b "c">]><a>&b; & </a>')
        self.assertIn("declares an entity", self.refused("mend", "bomb.xml", "-o", "x"))
        self.write("late.xml", "junk " + '<!DOCTYPE a [<!ENTITY b "c">]><a d="&b;"> & </a>')
        self.assertIn("declares an entity", self.refused("mend", "late.xml", "-o", "x"))
        self.assertEqual(newburrow("mend", ".", "-o", "x", folder=self.folder).returncode, 2)
