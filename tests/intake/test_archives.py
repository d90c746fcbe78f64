import gzip
import io
import os
import struct
import tarfile
import time
import zipfile

from newburrow.core.problem import BurrowError
from newburrow.intake.opening import open_source
from tests.helpers import SITE, FolderCase, item, rows, rss

XML = rss(item("A", SITE + "a/", '<img src="/files/bud.png">')).encode()


def zip_of(files: dict[str, bytes]) -> bytes:
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in files.items():
            archive.writestr(name, data)
    return buffer.getvalue()


def tar_of(files: dict[str, bytes], *links: str) -> bytes:
    buffer = io.BytesIO()
    with tarfile.open(fileobj=buffer, mode="w") as archive:
        for name, data in files.items():
            info = tarfile.TarInfo(name)
            info.size = len(data)
            archive.addfile(info, io.BytesIO(data))
        for name in links:
            info = tarfile.TarInfo(name)
            info.type, info.linkname = tarfile.SYMTYPE, "/etc/passwd"
            archive.addfile(info)
    return buffer.getvalue()


class Archives(FolderCase):
    def parts(self, data: bytes, name: str = "export") -> dict[str, bytes]:
        found = {}
        for part in open_source(self.write(name, data)).parts:
            with part.open() as stream:
                found[part.name] = stream.read()
        return found

    def refused_parts(self, data: bytes) -> str:
        with self.assertRaises(BurrowError) as caught:
            self.parts(data)
        return str(caught.exception)

    def test_every_form_is_told_by_its_content(self) -> None:
        files = {"a.xml": b"<rss/>", "f/b.png": b"png"}
        for data in (zip_of(files), tar_of(files), gzip.compress(tar_of(files))):
            self.assertEqual(self.parts(data, "export.bin"), files)
        self.assertEqual(self.parts(gzip.compress(b"<rss/>"), "a.xml.gz"), {"a.xml": b"<rss/>"})

    def test_links_and_names_that_lead_out(self) -> None:
        found = self.parts(tar_of({"../../out": b"1", "/abs": b"2"}, "link"))
        self.assertEqual(sorted(found.values()), [b"1", b"2"])
        self.assertEqual(sorted(self.parts(zip_of({"../out": b"1"}))), ["../out"])

    def test_two_files_of_one_name_are_two(self) -> None:
        buffer = io.BytesIO()
        with zipfile.ZipFile(buffer, "w") as archive, self.assertWarns(UserWarning):
            archive.writestr("a", b"1")
            archive.writestr("a", b"2")
        self.assertEqual(self.parts(buffer.getvalue()), {"a": b"1", "a (2)": b"2"})

    def test_what_would_fill_the_disk(self) -> None:
        zeros = b"\0" * (130 * 1024 * 1024)
        for data in (
            zip_of({"a.xml": XML.replace(b"</channel>", b" " * len(zeros) + b"</channel>")}),
            gzip.compress(zeros),
        ):
            path = self.write("bomb", data)
            self.assertIn("times its size", self.refused("survey", path))
        path = self.write("bomb", zip_of({"b.gz": gzip.compress(zeros), "a.xml": XML}))
        findings = {found["code"]: found["examples"] for found in self.survey(path)["findings"]}
        self.assertIn("times its size", findings["file-unopened"][0])

    def test_a_million_files(self) -> None:
        end = struct.pack(
            "<4sHHHHIIH", b"PK\5\6", 0, 0, 0xFFFF, 0xFFFF, 0xFFFFFFFF, 0xFFFFFFFF, 0
        )
        record = struct.pack(
            "<4sQHHIIQQQQ", b"PK\6\6", 44, 45, 45, 0, 0, 1_000_000, 1_000_000, 46_000_000, 4
        )
        locator = struct.pack("<4sIQI", b"PK\6\7", 0, 4, 1)
        before = time.monotonic()
        self.assertIn(
            "more than 300,000 files", self.refused_parts(b"PK\3\4" + record + locator + end)
        )
        self.assertLess(time.monotonic() - before, 5)  # refused before the list is read

    def test_damage(self) -> None:
        for data in (zip_of({"a": os.urandom(9000)})[:4000], gzip.compress(os.urandom(9000))[:4000], b"PK\3\4" + b"x" * 500,
                     b"\x1f\x8b" + b"x" * 500):  # fmt: skip
            self.assertIn("damaged", self.refused_parts(data))

    def test_archives_within_archives_move_as_one(self) -> None:
        inner = zip_of({"part.xml": XML, "files/bud.png": b"png"})
        notes = zip_of({"notes.txt": b"a zip that a post offers"})
        office = zip_of({"[Content_Types].xml": b"<a/>", "word/document.xml": XML})
        self.write("all.zip", zip_of({"one/inner.zip": inner, "two.tar.gz": gzip.compress(tar_of({"b.xml": rss(item("B", SITE + "b")).encode()})),
                                      "files/notes.zip": notes, "files/plan.docx": office}))  # fmt: skip
        self.run_ok("move", "all.zip", "--to", "lanternlog", "--out", "m")
        ledger = rows(self.folder / "m/ledger.csv")
        self.assertEqual(
            sorted(row["title"] for row in ledger if row["kind"] == "post"), ["A", "B"]
        )
        self.assertEqual(
            sorted(row["title"] for row in ledger if row["kind"] == "media"),
            ["bud.png", "notes.zip", "plan.docx"],
        )
        fates = {row["title"]: row["fate"] for row in ledger}
        self.assertEqual(fates.pop("notes.zip"), "left-out")  # an archive that nothing shows
        self.assertEqual(set(fates.values()), {"moved"})
