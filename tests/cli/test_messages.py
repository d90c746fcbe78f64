"""Messages name what is wrong, where, which values are allowed, and what to do next."""

import struct
import zipfile

from tests.helpers import SITE, FolderCase, item

FEED = (
    f"<rss version='2.0'><channel><title>Orchard</title><link>{SITE}</link>"
    + item("Bow saw", SITE + "saw", "Words")
    + "</channel></rss>"
)
PAGE = "<!DOCTYPE html><html><head><title>Log in &amp; wait</title></head><body><p>Who are you?</p></body></html>"


def locked(data: bytes) -> bytes:
    """A zip whose members are marked as encrypted (APPNOTE 4.4.4, bit 0)."""
    made = bytearray(data)
    for sign, offset in ((b"PK\x03\x04", 6), (b"PK\x01\x02", 8)):
        place = -1
        while (place := made.find(sign, place + 1)) >= 0:
            struct.pack_into("<H", made, place + offset, made[place + offset] | 1)
    return bytes(made)


class Sources(FolderCase):
    """Files that are not what they are called."""

    def test_they_are_called_what_they_are(self) -> None:
        with zipfile.ZipFile(self.folder / "whole.zip", "w") as archive:
            archive.writestr("feed.xml", FEED)
        whole = (self.folder / "whole.zip").read_bytes()
        for name, data, words in (
            ("page.zip", PAGE.encode(), "a web page, titled “Log in & wait”, not an export"),
            ("page.xml", PAGE.encode(), "Log in there and download the export again"),
            ("error.json", b"<html><body>503</body></html>", "a web page, not an export"),
            ("cut.zip", whole[: len(whole) // 2], "it was cut off"),
            ("noise.zip", bytes(range(1, 200)) * 20, "named .zip, but is not an archive"),
            ("locked.zip", locked(whole), "locked with a password"),
            ("empty.zip", b"", "The file is empty"),
        ):
            with self.subTest(name):
                self.write(name, data)
                self.assertIn(words, self.refused("survey", name))

    def test_a_page_that_is_named_as_one_is_read(self) -> None:
        self.write("page.html", PAGE)
        self.assertEqual(self.survey("page.html")["counts"]["page"], 1)

    def test_what_the_new_host_holds_is_checked_when_drafting(self) -> None:
        self.write("feed.xml", FEED)
        self.write("noise.zip", bytes(range(1, 200)) * 20)
        self.write("list.txt", f"{SITE}a\nnot one\n")
        for held, words in (
            ("nothing.zip", "no file or folder"),
            ("noise.zip", "is not an archive"),
            ("list.txt", "list.txt, line 2"),
        ):
            with self.subTest(held):
                said = self.refused(
                    "draft", "feed.xml", "--to", "reedpost", "--out", "m", "--holds", held
                )
                self.assertIn(words, said)


class Decisions(FolderCase):
    """Mistakes in the files of a move folder."""

    def test_the_allowed_values_are_named(self) -> None:
        self.write("feed.xml", FEED)
        self.run_ok("draft", "feed.xml", "--to", "reedpost", "--out", "m", "--entries")
        for name, old, new, words in (
            ("entries.csv", ",move,", ",mvoe,", "The allowed values are: leave, move."),
            (
                "entries.csv",
                "published",
                "publishd",
                "draft, private, published, removed, scheduled.",
            ),
            ("entries.csv", ",post,", ",psot,", "Did you mean 'post'?"),
            (
                "move.toml",
                'flat = "drop"',
                'flat = "dorp"',
                "The values here are: drop, slug, title.",
            ),
            (
                "move.toml",
                'flat = "drop"',
                "flat = 3",
                "text in quotes but found a whole number",
            ),
            ("move.toml", "latest = ", 'latest = "x" # ', "Write it as 2024-05-06"),
            (
                "move.toml",
                "status = 301",
                "status = 300",
                "The values here are: 301, 302, 307, 308.",
            ),
        ):
            with self.subTest(new):
                path = self.folder / "m" / name
                text = path.read_text()
                self.assertIn(old, text)
                path.write_text(text.replace(old, new, 1))
                said = self.refused("move", "m")
                path.write_text(text)
                self.assertIn(words, said)
                self.assertIn(f"m/{name}, line ", said)

    def test_a_table_in_another_encoding_names_the_line(self) -> None:
        self.write("feed.xml", FEED)
        self.run_ok("draft", "feed.xml", "--to", "reedpost", "--out", "m", "--entries")
        path = self.folder / "m/entries.csv"
        path.write_bytes(path.read_text().replace("Bow saw", "Bögensäge").encode("latin-1"))
        said = self.refused("move", "m")
        self.assertIn("entries.csv, line 2", said)
        self.assertIn("B\ufffdgens\ufffdge", said)
