import io
import os
import unittest
import zipfile

from newburrow.core.problem import BurrowError
from newburrow.intake.excerpt import excerpt
from newburrow.intake.head import head_of
from newburrow.intake.opening import open_source
from newburrow.intake.prolog import read_prolog
from tests.helpers import FolderCase, rss, zipped


class Sources(FolderCase):
    def names(self, path: object) -> list[str]:
        return [part.name for part in open_source(self.folder / str(path)).parts]

    def test_a_folder_a_zip_and_a_file_look_alike(self) -> None:
        self.write("in/export.xml", rss())
        self.write("in/files/a.png", b"png")
        zipped(self.folder / "in.zip", export_xml=b"x", files__a_png=b"png")
        self.assertEqual(self.names("in"), ["export.xml", "files/a.png"])
        self.assertEqual(self.names("in.zip"), ["export_xml", "files/a_png"])
        self.assertEqual(self.names("in/export.xml"), ["export.xml"])

    def test_what_systems_leave_in_zips_is_passed_over(self) -> None:
        zipped(self.folder / "in.zip", a=b"y")
        with zipfile.ZipFile(self.folder / "in.zip", "a") as archive:
            archive.writestr("__MACOSX/._a", b"x")
            archive.writestr("sub/.DS_Store", b"x")
        self.assertEqual(self.names("in.zip"), ["a"])

    def test_links_in_a_folder_are_not_followed(self) -> None:
        self.write("secret", "s")
        self.write("in/a.xml", "x")
        os.symlink(self.folder / "secret", self.folder / "in" / "link")
        self.assertEqual(self.names("in"), ["a.xml"])

    def test_damage_shows_as_a_plain_message(self) -> None:
        path = zipped(self.folder / "a.zip", export_xml=os.urandom(5000))
        data = bytearray(path.read_bytes())
        data[2000:2010] = b"0123456789"
        path.write_bytes(data)
        part = open_source(path).parts[0]
        with self.assertRaises(BurrowError) as caught:
            head_of(part)
        self.assertIn("damaged", str(caught.exception))

    def test_a_fingerprint_is_of_the_content(self) -> None:
        path = self.write("a.xml", "one")
        first = open_source(path).fingerprint()
        self.assertEqual(open_source(path).fingerprint(), first)
        path.write_text("two")
        self.assertNotEqual(open_source(path).fingerprint(), first)


class Prologs(unittest.TestCase):
    def test_root_and_namespaces(self) -> None:
        found = read_prolog(
            io.BytesIO(b'<?xml version="1.0"?><!-- x --><rss xmlns:a="urn:a" version="2.0"><'),
            "a",
        )
        assert found is not None
        self.assertEqual(
            (found.root, found.namespaces, found.attributes),
            ("rss", ("urn:a",), {"version": "2.0"}),
        )

    def test_utf_16(self) -> None:
        found = read_prolog(io.BytesIO('<?xml version="1.0"?><rss/>'.encode("utf-16")), "a")
        self.assertEqual(found and found.root, "rss")

    def test_entities_are_refused_before_any_parser_expands_them(self) -> None:
        for text in (
            '<!DOCTYPE rss [<!ENTITY a "b"><!ENTITY c "&a;&a;&a;">]><rss>&c;</rss>',
            '<!DOCTYPE rss [<!ENTITY a SYSTEM "file:///etc/passwd">]><rss>&a;</rss>',
            '<!DOCTYPE rss [<!ENTITY % a "b"> %a;]><rss/>',
            '<!DOCTYPE rss [%a; <!ENTITY b "c">]><rss>&b;</rss>',
        ):
            for encoding in ("utf-8", "utf-16"):
                with self.assertRaises(BurrowError) as caught:
                    read_prolog(io.BytesIO(text.encode(encoding)), "a.xml")
                self.assertEqual(caught.exception.problem.code, "entity-declaration")

    def test_what_is_no_xml_has_no_prolog(self) -> None:
        for data in (
            b"",
            b"hello",
            b"<",
            b"\x89PNG\r\n",
            b"<a <b>",
            b"<?xml version='1.0' encoding='ugf'?><a/>",
        ):
            self.assertIsNone(read_prolog(io.BytesIO(data), "a"))


class Excerpts(FolderCase):
    def test_the_line_with_a_marker(self) -> None:
        part = open_source(self.write("a", "one\ntwo three\nfour")).parts[0]
        self.assertEqual(excerpt(part, 2, 5), "two three\n    ^")
        self.assertEqual(excerpt(part, 9, 1), "")

    def test_a_long_line_is_cut_around_the_place(self) -> None:
        part = open_source(self.write("a", "a" * 3_000_000 + "HERE" + "b" * 500)).parts[0]
        line, marker = excerpt(part, 1, 3_000_001).split("\n")
        self.assertLess(len(line), 90)
        self.assertEqual(line[marker.index("^")], "H")
