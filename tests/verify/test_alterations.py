"""A finished result altered in many ways: `verify` finds each change, under its name, and no other."""

import re
import shutil
import tempfile
import unittest
import zipfile
from collections.abc import Callable
from pathlib import Path

from newburrow.commands.move import move_paths
from newburrow.commands.verify import verify_folder
from newburrow.decide.draft import DraftRequest
from newburrow.decide.move_folder import MoveFolder
from newburrow.demo import course, export, growers, wiki_exports
from newburrow.formats.exports.export import ExportRequest
from newburrow.verify.verified import Verified

Edit = Callable[[Path], None]  # alters a move folder


def text(name: str, old: str, new: str, at: int = 0) -> Edit:
    """Replace a text in one file of the result, or in a file within an archive (`import.zip!page.html`)."""

    def edit(folder: Path) -> None:
        file, _mark, member = name.partition("!")
        path = next(folder.glob(file))
        if not member:
            path.write_bytes(_replaced(path.read_bytes(), old, new, at))
            return
        with zipfile.ZipFile(path) as archive:
            parts = {info.filename: archive.read(info) for info in archive.infolist()}
        found = next(part for part in parts if re.fullmatch(member, part))
        parts[found] = _replaced(parts[found], old, new, at)
        with zipfile.ZipFile(path, "w") as archive:
            for part, data in parts.items():
                archive.writestr(part, data)

    return edit


def _replaced(data: bytes, old: str, new: str, at: int) -> bytes:
    pieces = data.decode().split(old)
    assert len(pieces) > at + 1, f"{old!r} is not there"
    return (old.join(pieces[: at + 1]) + new + old.join(pieces[at + 1 :])).encode()


def swapped(name: str, first: str, second: str) -> Edit:
    """Let two texts of one file change places."""

    def edit(folder: Path) -> None:
        path = next(folder.glob(name))
        words = path.read_text("utf-8")
        assert first in words and second in words
        words = words.replace(first, "\0").replace(second, first).replace("\0", second)
        path.write_text(words, "utf-8")

    return edit


def cut(name: str, begin: str, end: str) -> Edit:
    """Take out what stands from one text up to and with another."""

    def edit(folder: Path) -> None:
        path = next(folder.glob(name))
        words = path.read_text("utf-8")
        start = words.index(begin)
        stop = words.index(end, start) + len(end)
        path.write_text(words[:start] + words[stop:], "utf-8")

    return edit


def file(name: str, change: Callable[[Path], object]) -> Edit:
    """Do something with one file."""
    return lambda folder: change(next(folder.glob(name))) and None


def unquoted(folder: Path) -> None:
    """Let a quotation be a mere division."""
    for tag in ("<blockquote", "</blockquote"):
        text(RSS, tag, tag.replace("blockquote", "div"))(folder)


def moved_up(folder: Path) -> None:
    """Put the third item of a feed before the second."""
    path = folder / RSS
    pieces = path.read_text("utf-8").split("<item>")
    pieces[2], pieces[3] = pieces[3], pieces[2]
    path.write_text("<item>".join(pieces), "utf-8")


RSS = "new/reedpost-import-1.xml"
GRAFT = "<title>How to graft: whip &amp; tongue in nine steps</title>"
COURSE = "new/chalkmere-import.imscc!"
PRUNING = "new/pages/Pruning.creole"
# Each is the move, what is done to its result, and what `verify` must say: what differs -> how often.
# fmt: off
ALTERATIONS: dict[str, tuple[str, Edit, dict[str, int]]] = {
    "a word out of a body": ("blog", text(RSS, "no hurry.", "hurry."), {"entry: summary": 1}),
    "a word in a body": ("blog", text(RSS, "as long as your thumb", "as long as your arm"), {"entry: words": 1}),
    "two words change places": ("blog", text(RSS, "badly and loudly", "loudly and badly"), {"entry: words": 1}),
    "a space lost": ("blog", text(RSS, "We sing badly", "Wesing badly"), {"entry: words": 1}),
    "a heading of another level": ("blog", text(RSS, '<h2 id="labels">Labels</h2>', '<h3 id="labels">Labels</h3>'), {"entry: headings": 1}),
    "a place within a page": ("blog", text(RSS, '<h2 id="labels">', "<h2>"), {"entry: dead anchors": 2}),
    "two items of a list become one": ("blog", text(RSS, "</li><li>Cut the scion", " Cut the scion"), {"entry: lists": 1}),
    "a line of code": ("blog", text(RSS, "tree.age &lt; 2", "tree.age &lt; 3"), {"entry: words": 1, "entry: code": 1}),
    "a quotation that is none": ("blog", unquoted, {"entry: quotes": 1, "entry: links": 1}),
    "a link to nowhere": ("blog", text(RSS, 'href="https://mistlebank.example/2021-10-14/apple-day"', 'href="https://mistlebank.example/nowhere"'), {"entry: links": 1}),
    "a link to another page": ("blog", text(RSS, 'href="https://mistlebank.example/2021-10-14/apple-day"', 'href="https://mistlebank.example/visit"'), {"entry: links": 1}),
    "a picture out of a body": ("blog", cut(RSS, '<img src="https://mistlebank.example/files/', ">"), {"entry: pictures": 1}),
    "a title": ("blog", text(RSS, GRAFT, "<title>How to graft</title>"), {"entry: title": 1}),
    "an address": ("blog", text(RSS, "<link>https://mistlebank.example/2021-10-14/apple-day<", "<link>https://mistlebank.example/2021-10-14/apple<"),
                   {"entry: address": 1}),
    "a date off by a zone": ("blog", text(RSS, "Thu, 14 Oct 2021 15:00:00 +0100", "Thu, 14 Oct 2021 15:00:00 +0000"), {"entry: published": 1}),
    "a date of change": ("blog", text(RSS, "<rp:changed>2023-02-20T", "<rp:changed>2023-02-21T"), {"entry: updated": 1}),
    "a state": ("blog", text(RSS, "<rp:state>live</rp:state>", "<rp:state>members</rp:state>", at=8), {"entry: state": 1}),
    "an author": ("blog", text(RSS, "<dc:creator>marta</dc:creator>", "<dc:creator>ben</dc:creator>"), {"entry: authors": 1}),
    "a tag": ("blog", text(RSS, '<category domain="mark" rp:slug="tools">tools</category>', ""), {"entry: terms": 1}),
    "a lead picture": ("blog", text(RSS, "<rp:lead>509</rp:lead>", "<rp:lead>510</rp:lead>"), {"entry: lead picture": 1}),
    "a field": ("blog", text(RSS, "step by step, with what goes wrong", "step by step"), {"entry: field search-description": 1}),
    "a page under another": ("blog", text(RSS, "<rp:within>11</rp:within>", "<rp:within>8</rp:within>"), {"entry: parent": 1}),
    "two entries swapped": ("blog", swapped(RSS, "<title>Apple day</title>", "<title>Toast in the branches</title>"), {"entry: title": 2}),
    "two entries change places": ("blog", moved_up, {"entry: order": 1}),
    "an entry gone": ("blog", cut(RSS, "<item>\n<title>Toast in the branches</title>", "</item>"),
                      {"entry: missing": 1}),
    "an entry of somebody else": ("blog", text(RSS, "</channel>", "<item><title>Buy now</title><link>https://mistlebank.example/buy</link></item></channel>"),
                                  {"entry: added": 1}),
    "a comment under another": ("blog", swapped(RSS, '<rp:reply id="109" ', '<rp:reply id="99" '),
                                {"comment: author": 2, "comment: email": 2, "comment: published": 2, "comment: parent": 2, "comment: words": 2, "entry: order of comments": 1}),
    "a word of a comment": ("blog", text(RSS, "That is how all of ours began.", "That is how ours began."), {"comment: words": 1}),
    "a comment gone": ("blog", cut(RSS, '<rp:reply id="104"', "</rp:reply>"), {"comment: missing": 1}),
    "a comment in another state": ("blog", text(RSS, '<rp:reply id="104" sort="reply" state="shown">', '<rp:reply id="104" sort="reply" state="waiting">'), {"comment: state": 1}),
    "a line of a menu": ("blog", text(RSS, 'words="Visit" to="https://mistlebank.example/visit"', 'words="Visit" to="https://mistlebank.example/contact"'), {"menu-item: line": 1}),
    "the name of the site": ("blog", text(RSS, "<title>Mistle Bank Orchard</title>", "<title>Thistle Bank</title>"), {"site: title": 1}),
    "a picture swapped": ("blog", lambda folder: _swap_files(sorted((folder / "new/files").iterdir())[:2]), {"media: bytes": 2}),
    "a file gone": ("blog", file("new/files/tree-13-*.png", Path.unlink), {"media: missing": 1}),
    "an alternative text": ("blog", text(RSS, "<rp:alt>Bee at Mistle Bank</rp:alt>", "<rp:alt>Wasp</rp:alt>"), {"media: alternative_text": 1}),
    "a redirect to nowhere": ("blog", text("redirects/addresses.csv", ",https://mistlebank.example/2021-10-14/apple-day,301", ",https://mistlebank.example/apple,301"), {"redirect: target": 1, "redirects: content": 3}),
    "a line of a server's file": ("blog", text("redirects/nginx/newburrow-maps.conf", "mistlebank.example", "thistlebank.example", at=1), {"redirects: content": 1}),
    "a server's file gone": ("blog", file("redirects/apache/newburrow-map.txt", Path.unlink), {"redirects: missing": 1}),
    "a row of the ledger": ("blog", text("ledger.csv", "Apple day", "Pear day"), {"table: row 19": 1}),
    "a version of a page": ("wiki", text("new/versions/April/00001.creole", "Frost", "Ice"), {"entry: version 1": 1}),
    "a version gone": ("wiki", file("new/versions/April/00001.creole", Path.unlink), {"entry: version 1": 1}),
    "words in Creole": ("wiki", text(PRUNING, "Plums only in summer", "Plums only in winter"), {"entry: words": 1}),
    "a link in Creole": ("wiki", text(PRUNING, "see [[Plums]]", "see [[Pears|Plums]]"), {"entry: links": 1}),
    "an answer key": ("course", text(COURSE + "quiz-roots.*", ">t0</varequal>", ">t1</varequal>"), {"question: answers": 1}),
    "points": ("course", text(COURSE + "quiz-roots.*", "<fieldentry>1</fieldentry>\n</qtimetadatafield>\n</qtimetadata>\n</itemmetadata>",
                              "<fieldentry>2</fieldentry>\n</qtimetadatafield>\n</qtimetadata>\n</itemmetadata>"), {"question: points": 1}),
    "tries of a quiz": ("course", text(COURSE + "quiz-roots.*", "<fieldlabel>cc_maxattempts</fieldlabel>\n<fieldentry>1<", "<fieldlabel>cc_maxattempts</fieldlabel>\n<fieldentry>2<"),
                        {"entry: quiz: attempts": 1}),
    "a word of a lesson": ("course", text(COURSE + "lessons/bud-grafts.html", "</p>", " Done.</p>"), {"entry: words": 1}),
}
# fmt: on


def _swap_files(pair: list[Path]) -> None:
    first, second = (path.read_bytes() for path in pair)
    pair[0].write_bytes(second)
    pair[1].write_bytes(first)


class Alterations(unittest.TestCase):
    kept: tempfile.TemporaryDirectory[str]

    @classmethod
    def setUpClass(cls) -> None:
        cls.kept = tempfile.TemporaryDirectory()
        cls.addClassCleanup(cls.kept.cleanup)
        folder = Path(cls.kept.name)
        export.write(folder / "blog.zip")
        wiki_exports.write(growers.build(), "tarnwiki", folder / "wiki.zip")
        course.write(course.build(), "slatewell", folder / "course.zip")
        for name, host in (("blog", "reedpost"), ("wiki", "tarnwiki"), ("course", "chalkmere")):
            plan = DraftRequest(ExportRequest([folder / f"{name}.zip"]), host)
            move_paths(plan, folder / name, jobs=1)

    def verified(self, move: str, edit: Edit) -> Verified:
        with tempfile.TemporaryDirectory() as name:
            copy = Path(name) / move
            shutil.copytree(Path(self.kept.name) / move, copy)
            shutil.copy(Path(self.kept.name) / f"{move}.zip", name)
            edit(copy)
            return verify_folder(MoveFolder.existing(copy))

    def test_untouched_results_differ_in_nothing(self) -> None:
        for move in ("blog", "wiki", "course"):
            verified = self.verified(move, lambda _folder: None)
            self.assertEqual(verified.unexplained, {}, move)
            self.assertTrue(all(moved == found for moved, found in verified.counts.values()))

    def test_each_alteration_is_found_and_no_other(self) -> None:
        self.assertGreaterEqual(len(ALTERATIONS), 30)
        for name, (move, edit, expected) in ALTERATIONS.items():
            with self.subTest(name):
                self.assertEqual(self.verified(move, edit).unexplained, expected)


if __name__ == "__main__":
    unittest.main()
