"""Broken exports: a plain message or a right result, never a fault."""

import contextlib
import io
import json
import random
import re
import zipfile

from newburrow.cli import main
from tests.helpers import ROUNDS, FolderCase, demo_export

PIECES = (
    b"<",
    b"&",
    b"]]>",
    b"\0",
    b"\xff\xfe",
    b"<!--",
    b"</item>",
    b"<item>",
    b"\x1b",
    b"&#0;",
    b"<rp:reply>",
    b"\xe9",
    b"<!DOCTYPE x [",
)


def broken(data: bytes, chance: random.Random) -> bytes:
    """The data with bytes flipped, put in, taken out, or cut off."""
    out = bytearray(data)
    for _ in range(chance.choice((1, 1, 2, 5, 40))):
        place = chance.randrange(len(out) + 1)
        what = chance.randrange(4)
        if what == 0:
            out[place : place + 1] = bytes((chance.randrange(256),))
        elif what == 1:
            out[place:place] = chance.choice(PIECES)
        elif what == 2:
            del out[place : place + chance.randrange(1, 50)]
        elif chance.random() < 0.3:
            del out[place:]
    return bytes(out)


ODD = ("", "0", "59", "501", "x" * 3000, "//", "http://[", "javascript:alert(1)", "%%%", "../..", "/", "?entry=59", "article", "file",
       "junk", "2021-13-45", "&lt;script&gt;", "\u202e", "a\nb", "   ", "99999999999999999999",
       "https://mistlebank.example/p/visit.html")  # fmt: skip
_VALUE = re.compile(
    r"(<(?:rp:\w+|link|guid[^>]*|title|pubDate|dc:creator|category[^>]*)>)[^<]*(?=</)|(\w+=\")[^\"]*(?=\")"
)


def odd(xml: str, chance: random.Random) -> str:
    """The export with some of its values replaced by odd ones; still well-formed."""
    share = chance.choice((0.002, 0.01, 0.05, 0.2))
    head, items = xml.split("</rp:zone>", 1)

    def replaced(found: re.Match[str]) -> str:
        return (
            (found[1] or found[2]) + chance.choice(ODD) if chance.random() < share else found[0]
        )

    return head + "</rp:zone>" + _VALUE.sub(replaced, items)


class Fuzzing(FolderCase):
    def survey_of(self, name: str, data: bytes) -> tuple[int, str]:
        path = self.write(name, data)
        out, err = io.StringIO(), io.StringIO()
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
            status = main.main(["survey", str(path), "--json"])
        return status, err.getvalue()

    def check(self, name: str, data: bytes, rounds: int) -> None:
        chance = random.Random(name)
        statuses = set()
        for number in range(rounds * ROUNDS):
            status, message = self.survey_of(name, broken(data, chance))
            self.assertNotIn("fault", message, f"{name} {number}")
            self.assertIn(
                (status, bool(message)), ((0, False), (2, True)), f"{name} {number}: {message}"
            )
            statuses.add(status)
        self.assertEqual(statuses, {0, 2})

    def test_moves_of_odd_exports_add_up(self) -> None:
        xml = zipfile.ZipFile(io.BytesIO(demo_export())).read("export/mistlebank.xml").decode()
        chance = random.Random("odd")
        for number in range(15 * ROUNDS):
            path = self.write("odd.xml", odd(xml, chance))
            out = io.StringIO()
            with contextlib.redirect_stdout(out):
                status = main.main(
                    [
                        "move",
                        str(path),
                        "--to",
                        "lanternlog",
                        "--out",
                        str(self.folder / str(number)),
                        "--json",
                    ]
                )
            self.assertIn(status, (0, 1), number)
            for kind, account in json.loads(out.getvalue())["counts"].items():
                self.assertEqual(account["found"] * 2, sum(account.values()), (number, kind))
            follow_ups = (self.folder / str(number) / "follow-ups.csv").read_text("utf-8")
            self.assertNotIn("\nfault,", follow_ups, number)

    def test_the_xml(self) -> None:
        self.check(
            "a.xml",
            zipfile.ZipFile(io.BytesIO(demo_export())).read("export/mistlebank.xml"),
            120,
        )

    def test_the_zip(self) -> None:
        self.check("a.zip", demo_export(), 80)
