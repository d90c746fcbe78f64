"""Files in every encoding of the Encoding Standard are read as what they say, and mended into UTF-8."""

import codecs
import io
import json
import unittest

import webencodings
from hypothesis import given
from hypothesis import strategies as st

from newburrow.formats.exports import detection, export_records
from newburrow.intake.encodings import (
    TextEncoding,
    encoding_named,
    encoding_of,
    guessed_encoding,
)
from newburrow.intake.head import as_utf8
from newburrow.intake.part import Part
from newburrow.model import Entry
from tests.helpers import SITE, FolderCase, item, rss

# encoding of the standard -> Python's codec, and words that it can write
WORDS = {
    "big5": ("big5hkscs", "蘋果在秋天成熟。果園裡的樹"), "euc-jp": ("euc_jp", "りんごは秋に熟す。ｱ"), "euc-kr": ("cp949", "사과는 가을에 익습니다 똠"),
    "gb18030": ("gb18030", "苹果在秋天成熟。𠀋"), "gbk": ("gbk", "苹果在秋天成熟。"), "ibm866": ("cp866", "Яблоки"),
    "iso-2022-jp": ("iso2022_jp", "りんごは秋に熟す"), "iso-8859-2": ("iso8859-2", "Jabłka źródło"), "iso-8859-5": ("iso8859-5", "Яблоки"),
    "iso-8859-7": ("iso8859-7", "Μήλα"), "iso-8859-8": ("iso8859-8", "תפוחים"), "iso-8859-15": ("iso8859-15", "œuvre €"),
    "iso-8859-16": ("iso8859-16", "mărul ș"), "koi8-r": ("koi8_r", "Яблоки"), "koi8-u": ("koi8_u", "Яблука їх"),
    "macintosh": ("mac_roman", "Äpfel “süß” Ω"), "shift_jis": ("cp932", "りんご①～ソ表ｱ"), "windows-1250": ("cp1250", "Jabłka źródło"),
    "windows-1251": ("cp1251", "Яблоки"), "windows-1252": ("cp1252", "Äpfel “süß” €"), "windows-1253": ("cp1253", "Μήλα"),
    "windows-1254": ("cp1254", "ağaç şöyle"), "windows-1255": ("cp1255", "תפוחים"), "windows-1256": ("cp1256", "تفاح"),
    "windows-1257": ("cp1257", "ābols"), "windows-1258": ("cp1258", "tao đo"), "windows-874": ("cp874", "แอปเปิ้ล"),
    "x-mac-cyrillic": ("mac_cyrillic", "Яблоки"), "utf-16le": ("utf-16", "Äpfel 🍎"), "utf-16be": ("utf-16-be", "Äpfel 🍎"),
    "utf-32le": ("utf-32", "Äpfel 🍎"), "utf-8": ("utf-8", "Äpfel 🍎"),
}  # fmt: skip


def part(data: bytes, name: str = "a.txt") -> Part:
    return Part(name, len(data), name, lambda: io.BytesIO(data))


def text(data: bytes, name: str) -> str:
    with as_utf8(part(data), TextEncoding(name)).open() as stream:
        return stream.read().decode("utf-8")


class OfExports(FolderCase):
    def titles(self, name: str, data: bytes) -> list[str]:
        export = detection.examine(self.write(name, data))
        return [
            record.title
            for record in export_records.records(export)
            if isinstance(record, Entry)
        ]

    def xml(self, label: str, codec: str, words: str) -> bytes:
        return rss(item(words, SITE)).replace("UTF-8", label).encode(codec)

    def test_xml_in_every_encoding(self) -> None:
        for label, (codec, words) in WORDS.items():
            self.assertEqual(
                self.titles("a.xml", self.xml(label, codec, words)), [words], label
            )

    def test_every_label_of_the_standard_is_known(self) -> None:
        for label, encoding in webencodings.LABELS.items():
            if encoding != "replacement":
                self.assertEqual(encoding_named(label), encoding, label)
                self.assertEqual(encoding_named(label.upper()), encoding, label)
        for label in ("base64", "rot13", "idna", "utf-7", "unicode_escape", "nothing", ""):
            self.assertEqual(encoding_named(label), "", label)

    def test_latin_1_means_windows_1252_and_controls_stay(self) -> None:
        data = self.xml("ISO-8859-1", "cp1252", "“x” €").replace("€".encode("cp1252"), b"\x81")
        self.assertEqual(self.titles("a.xml", data), ["“x” \x81"])

    def test_a_declaration_that_is_not_true(self) -> None:
        for label in ("ISO-8859-1", "utf-16", "no-such", "shift_jis"):
            self.write("a.xml", self.xml(label, "utf-8", "Äpfel りんご"))
            found = self.survey("a.xml")
            self.assertEqual(found["sources"][0]["encoding"], "utf-8", label)
            self.assertIn(
                "encoding-misstated", [finding["code"] for finding in found["findings"]]
            )
            self.assertEqual(self.titles("a.xml", self.xml(label, "utf-8", "Äpfel")), ["Äpfel"])

    def test_bytes_that_mean_nothing_are_named_with_their_line(self) -> None:
        self.write(
            "a.xml",
            self.xml("shift_jis", "cp932", "りんご").replace(b"</item>", b"\n\x81\x20</item>"),
        )
        message = self.refused("survey", "a.xml")
        self.assertIn("The file is in shift_jis", message)
        self.assertIn("a.xml, line 5", message)

    def test_texts_that_declare_nothing(self) -> None:
        texts = {
            "shift_jis": ("cp932", "りんごは秋に熟します。果樹園の木々は美しい。"),
            "windows-1251": (
                "cp1251",
                "Яблоки в саду созревают осенью. Мы собираем урожай и варим сидр.",
            ),
            "windows-1252": (
                "cp1252",
                "Der Apfel fällt nicht weit vom Stamm; schön, daß die Bäume blühen.",
            ),
        }
        for name, (codec, words) in texts.items():
            front = f'---\ntitle: "{words}"\n---\n{words}\n'
            self.assertEqual(self.titles("site/a.md", front.encode(codec)), [words], name)
            self.assertEqual(self.survey("site/a.md")["sources"][0]["encoding"], name)
            feed = json.dumps(
                {"version": "https://jsonfeed.org/version/1.1", "title": words, "items": [{"id": "1", "title": words, "url": SITE}]},
                ensure_ascii=False,
            )  # fmt: skip
            for data in (
                feed.encode(codec),
                feed.encode("utf-16"),
                feed.encode("utf-16-be"),
                codecs.BOM_UTF8 + feed.encode(),
            ):
                self.assertEqual(self.titles("feed.json", data), [words], name)

    def test_the_dialect_names_the_encoding(self) -> None:
        dialect = 'name = "mine"\nformat = "csv"\nencoding = "koi8-r"\n[[records]]\nof = "entry"\n[records.take]\ntitle = "title"\n'
        self.write("mine.toml", dialect)
        self.write("posts.csv", "id,title\n1,Сад\n".encode("koi8-r"))
        export = detection.examine(self.folder / "posts.csv", str(self.folder / "mine.toml"))
        (entry,) = [
            record for record in export_records.records(export) if isinstance(record, Entry)
        ]
        self.assertEqual(entry.title, "Сад")
        self.write("mine.toml", dialect.replace("koi8-r", "koi8-x"))
        message = self.refused("survey", "posts.csv", "--dialect", "mine.toml")
        self.assertIn("There is no encoding named 'koi8-x'.", message)
        self.assertIn("mine.toml, line 3", message)

    def test_uploads_keep_their_bytes(self) -> None:
        upload = "Äpfel\n".encode("utf-16")
        folder = self.folder / "site"
        self.write("site/feed.xml", rss(item("A", SITE, '<a href="/notes.txt">x</a>')))
        self.write("site/notes.txt", upload)
        self.run_ok("move", folder, "--to", "plainleaf", "--out", "moved")
        (moved,) = (self.folder / "moved").rglob("notes-*.txt")
        self.assertEqual(moved.read_bytes(), upload)


class Mended(FolderCase):
    def test_what_is_broken_becomes_utf_8(self) -> None:
        for label, (codec, words) in WORDS.items():
            data = (
                rss(item(words, SITE), head="<docs>R & D</docs>")
                .replace("UTF-8", label)
                .encode(codec)
            )
            self.write("a.xml", data)
            self.run_ok("mend", "a.xml", "-o", "fixed.xml")
            fixed = (self.folder / "fixed.xml").read_bytes()
            self.assertIn(f"<title>{words}</title>", fixed.decode("utf-8"), label)
            self.assertIn("R &amp; D", fixed.decode("utf-8"))
            (self.folder / "fixed.xml").unlink()

    def test_json_without_a_declaration(self) -> None:
        words = "りんごは秋に熟します。果樹園の木々は美しい。"
        self.write("a.json", json.dumps([words], ensure_ascii=False).encode("cp932")[:-1])
        self.run_ok("mend", "a.json", "-o", "fixed.json")
        self.assertEqual(json.loads((self.folder / "fixed.json").read_bytes()), [words])


class Streams(unittest.TestCase):
    @given(st.sampled_from(sorted(WORDS)), st.integers(1, 4000), st.integers(0, 3))
    def test_a_character_may_be_cut_by_any_block(
        self, name: str, times: int, before: int
    ) -> None:
        codec, words = WORDS[name]
        expected = "a" * before + words * times
        self.assertEqual(text(expected.encode(codec), name).removeprefix("\ufeff"), expected)

    def test_the_first_bytes_show_an_encoding_without_a_mark(self) -> None:
        for codec in ("utf-16-le", "utf-16-be", "utf-32-le", "utf-32-be"):
            for start in ("<?xml version='1.0'?><a/>", '{"a": 1}'):
                found = encoding_of(start.encode(codec))
                self.assertEqual(
                    found, TextEncoding(codec.replace("-l", "l").replace("-b", "b"))
                )

    def test_a_file_of_several_origins_is_utf_8_with_faults(self) -> None:
        mixed = "Äpfel, Bäume, Öl\n".encode() * 3 + "Süß\n".encode("cp1252")
        self.assertEqual(
            guessed_encoding(part(mixed).open), TextEncoding("utf-8", guessed=True)
        )
        self.assertIsNone(guessed_encoding(part("Äpfel".encode()).open))


class Pages(FolderCase):
    """Pages of HTML that do not declare their encoding, or declare it where the standard does not look."""

    PAGE = "<html><head>{0}<title>{1}</title></head><body><h1>{1}</h1><p>{1} {1} {1}</p></body></html>"

    def findings(self) -> dict[str, list[str]]:
        found = json.loads(self.run_ok("survey", "s", "--json"))
        self.titles = {size["title"] for size in found["largest"]}
        return {finding["code"]: finding["examples"] for finding in found["findings"]}

    def test_the_letters_decide(self) -> None:
        for name, codec, words in (
            ("windows-1252", "cp1252", "Äpfel für den Öllampenträger"),
            (
                "windows-1251",
                "cp1251",
                "Яблони цветут весной, а осенью мы собираем урожай в саду",
            ),
            ("shift_jis", "cp932", "りんごの木を春に接ぎ木します。台木は矮性です。"),
        ):
            self.write("s/a.html", self.PAGE.format("", words).encode(codec))
            self.assertIn(name, self.findings()["encoding-guessed"][0])
            self.assertEqual(self.titles, {words})

    def test_a_declaration_further_below(self) -> None:
        late = f"<!-- {'x' * 2000} --><meta charset='iso-8859-2'>"
        self.write("s/a.html", self.PAGE.format(late, "ąś źródło").encode("iso8859-2"))
        self.assertNotIn("encoding-guessed", self.findings())
        self.assertEqual(self.titles, {"ąś źródło"})

    def test_a_page_of_several_origins(self) -> None:
        mixed = (
            self.PAGE.format("", "Äpfel, Öl")
            .encode()
            .replace(b"</body>", b"\n<p>S\xfc\xdf</p></body>")
        )
        self.write("s/a.html", mixed)
        self.assertIn("line 2", self.findings()["encoding-mixed"][0])

    def test_a_lesson_of_a_package(self) -> None:
        resource = '<resource identifier="r" type="webcontent" href="a.html"><file href="a.html"/></resource>'
        self.write(
            "s/imsmanifest.xml",
            '<manifest xmlns="http://www.imsglobal.org/xsd/imsccv1p3/imscp_v1p1" identifier="m"><organizations>'
            '<organization identifier="o"><item identifier="i" identifierref="r"><title/></item></organization>'
            f"</organizations><resources>{resource}</resources></manifest>",
        )
        self.write("s/a.html", self.PAGE.format("", "Äpfel").encode("cp1252"))
        self.findings()
        self.assertEqual(self.titles, {"Äpfel"})

    def test_texts_that_begin_with_a_tag(self) -> None:
        for name in ("a.md", "a.creole"):
            self.write(f"s/{name}", "<p>Äpfel</p>\n\nSüßes Öl aus Äpfeln\n".encode("cp1252"))
            self.assertIn("windows-1252", self.findings()["encoding-guessed"][0])
            (self.folder / "s" / name).unlink()
