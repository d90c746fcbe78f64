"""What is content of a source, where uploaded files look like content too; and that each file is accounted for."""

import contextlib
import gzip
import io
import json
import shutil
import tarfile
import zipfile

from newburrow.cli import main
from tests.helpers import SITE, FolderCase, item, rows, rss

Files = dict[str, bytes]
MAIN = rss(item("One", SITE + "one/", "x"), item("Two", SITE + "two/", "y")).encode()
OTHER = rss(item("Other", SITE + "other/", "z")).encode()
BAG = {
    "bagit.txt": b"BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n",
    "manifest-md5.txt": b"",
}
TEXT = b"---\ntitle: Other\n---\nText"


def packed(files: Files) -> bytes:
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in files.items():
            archive.writestr(name, data)
    return buffer.getvalue()


def tarred(files: Files, mode: str) -> bytes:
    buffer = io.BytesIO()
    with tarfile.open(fileobj=buffer, mode=mode) as archive:  # type: ignore[call-overload]
        for name, data in files.items():
            info = tarfile.TarInfo(name)
            info.size = len(data)
            archive.addfile(info, io.BytesIO(data))
        link = tarfile.TarInfo("files/link.png")
        link.type, link.linkname = tarfile.SYMTYPE, "/etc/passwd"
        archive.addfile(link)
    return buffer.getvalue()


def flipped(data: bytes, name: str, offset: int, bits: int, nth: int = 0) -> bytes:
    """A zip with some bits changed, at an offset from where a name stands: in its header, or in its list."""
    changed = bytearray(data)
    place = changed.find(name.encode()) if not nth else changed.rfind(name.encode())
    changed[place + offset] ^= bits
    return bytes(changed)


def within(folder: str, files: Files) -> Files:
    return {f"{folder}/{name}": data for name, data in files.items()}


# What lies beside the main export, and the finding about it. None of its entries may be published.
FILES: dict[str, tuple[Files, str]] = {
    "a feed among uploads": ({"uploads/podcast.xml": OTHER}, "content-as-file"),
    "a feed among pictures": ({"sub/a.xml": OTHER, "sub/a.png": b"png"}, "content-as-file"),
    "a feed of the same name": ({"old/main.xml": OTHER, "old/a.png": b"png"}, "content-as-file"),
    "a bag": (within("uploads/bag", BAG | {"data/x.xml": OTHER}), "bag-as-files"),
    "a bag beside": (within("bag", BAG), "bag-as-files"),
    "texts": ({"notes/a.md": TEXT, "readme.md": b"# Other"}, "content-as-file"),
    "a folder of texts": (within("site/texts", {"a.md": TEXT, "b.md": TEXT}), "content-as-file"),
    "a theme": ({"theme.zip": packed({"readme.md": TEXT, "a.css": b"a{}", "f.xml": OTHER})}, "content-as-file"),
    "a backup": ({"files/backup.zip": packed({"export.xml": OTHER})}, "content-as-file"),
    "a backup of a backup": ({"files/a.tar": tarred({"b.zip": packed({"main.xml": OTHER})}, "w")}, "content-as-file"),
    "a bomb": ({"files/b.gz": gzip.compress(b"\0" * (80 << 20))}, "file-unopened"),
    "a damaged archive": ({"files/a.zip": packed({"a.txt": b"x" * 999})[:-30]}, "file-unopened"),
    "entities": ({"files/a.svg": b'<!DOCTYPE svg [<!ENTITY a "b">]><svg>&a;</svg>'}, "file-unopened"),
    "a parameter entity": ({"files/a.xml": b'<!DOCTYPE x [<!ENTITY % p "q"> %p; <!ENTITY a "b">]><x/>'}, "file-unopened"),
}  # fmt: skip


class ContentChoice(FolderCase):
    def moved(self, data: bytes | Files, *more: str, status: int = 0) -> dict[str, object]:
        """Titles of entries that moved, codes of follow-ups and counts of files."""
        name, out = f"e{len(list(self.folder.iterdir()))}", self.folder / "o"
        if isinstance(data, bytes):
            self.write(name, data)
        else:
            for path, content in data.items():
                self.write(f"{name}/{path}", content)
        words = [
            "move",
            str(self.folder / name),
            "--to",
            "jsonfeed",
            "--out",
            str(out),
            "--json",
            *more,
        ]
        printed = io.StringIO()
        with contextlib.redirect_stdout(printed), contextlib.redirect_stderr(io.StringIO()):
            self.assertEqual(main.main([*words, "--jobs", "1"]), status)
        files = json.loads(printed.getvalue())["files"]
        ledger = rows(out / "ledger.csv")
        self.assertEqual(files["listed"], sum(files.values()) - files["listed"])
        found = {
            "titles": sorted(
                row["title"]
                for row in ledger
                if row["kind"] == "post" and row["fate"] == "moved"
            ),
            "codes": {row["kind"] for row in rows(out / "follow-ups.csv")},
            "files": files,
            "reasons": {row["title"]: row["reason"] for row in ledger},
        }
        shutil.rmtree(out)
        return found

    def test_what_lies_among_files_is_a_file(self) -> None:
        for name, (files, code) in FILES.items():
            whole = {"main.xml": MAIN} | files
            with self.subTest(name):
                found = self.moved(whole if "bag" in name else packed(whole))
                self.assertEqual(found["titles"], ["One", "Two"])
                self.assertIn(code, found["codes"])  # type: ignore[arg-type]
                self.assertEqual(found["files"]["listed"], len(whole))  # type: ignore[index]

    def test_what_a_person_names_is_content(self) -> None:
        files = {"main.xml": MAIN, "uploads/podcast.xml": OTHER}
        self.assertEqual(
            self.moved(files, "--content", "uploads/*")["titles"], ["One", "Other", "Two"]
        )

    def test_parts_of_one_export(self) -> None:
        for files in (
            {"main.xml": MAIN, "more/main-2.xml": OTHER},
            {"main.xml": MAIN, "more/main-2.xml": OTHER, "more/a.png": b"png"},
            {"part-1/a.xml": MAIN, "part-1/a.png": b"1", "part-2/a.xml": OTHER, "part-2/b.png": b"2"},
            {"one.zip": packed({"a.xml": MAIN, "files/a.png": b"1"}), "x/two.zip": packed({"b.xml": OTHER})},
            {"files/a.xml": MAIN, "files/b.xml": OTHER},
        ):  # fmt: skip
            self.assertEqual(self.moved(files)["titles"], ["One", "Other", "Two"])

    def test_texts_with_a_feed_of_them(self) -> None:
        files = {
            "one.md": TEXT,
            "two.md": TEXT.replace(b"Other", b"Two"),
            "static/feed.xml": MAIN,
        }
        self.assertEqual(self.moved(files)["titles"], ["Other", "Two"])
        files = {"texts/one.md": TEXT, "texts/a/two.md": TEXT, "feed.xml": MAIN}
        self.assertEqual(self.moved(files)["titles"], ["Other", "Other"])

    def test_files_that_cannot_be_read_fail_alone(self) -> None:
        files = {"main.xml": MAIN, "files/a.pdf": b"secret" * 99, "files/b.png": b"png"}
        whole = packed(files)
        locked = flipped(flipped(whole, "files/a.pdf", -24, 1), "files/a.pdf", -38, 1, nth=1)
        for data, reason in (
            (locked, "password"),
            (flipped(whole, "files/a.pdf", 14, 255), "damaged"),
        ):
            found = self.moved(data, status=1)
            self.assertEqual(found["titles"], ["One", "Two"])
            self.assertIn("file-unreadable", found["codes"])  # type: ignore[arg-type]
            self.assertIn(reason, " ".join(found["reasons"].values()))  # type: ignore[attr-defined]

    def test_files_that_are_not_read_have_a_reason(self) -> None:
        files = {
            "main.xml": MAIN,
            ".DS_Store": b"x",
            "a/Thumbs.db": b"x",
            "__MACOSX/._main.xml": b"x",
        }
        found = self.moved(files)
        self.assertEqual(found["files"]["left-out"], 3)  # type: ignore[index]
        self.assertIn("operating system", found["reasons"]["a/Thumbs.db"])  # type: ignore[index]
        for mode in ("w", "w:gz", "w:bz2", "w:xz"):
            found = self.moved(tarred({"main.xml": MAIN, "files/a.png": b"png"}, mode))
            self.assertEqual(found["titles"], ["One", "Two"])
            self.assertIn("link", found["reasons"]["files/link.png"])  # type: ignore[index]

    def test_the_budget_of_a_source_can_be_raised(self) -> None:
        bombs = {"main.xml": MAIN} | {f"files/{n}.bin": bytes(30 << 20) for n in range(4)}
        self.write("bombs.zip", packed(bombs))
        self.assertIn("--limit unpacked=", self.refused("survey", "bombs.zip"))
        self.run_ok("survey", "bombs.zip", "--limit", "unpacked=1GB")
        self.assertIn(
            "--limit files=", self.refused("survey", "bombs.zip", "--limit", "files=3")
        )
        self.assertIn(
            "is not a limit", self.refused("survey", "bombs.zip", "--limit", "time=3")
        )
