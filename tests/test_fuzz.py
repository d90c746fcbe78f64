"""Broken exports: a plain message or a right result, never a fault."""

import contextlib
import io
import random
import zipfile

from newburrow.cli import main
from tests.helpers import FolderCase, demo_export

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
        for number in range(rounds):
            status, message = self.survey_of(name, broken(data, chance))
            self.assertNotIn("fault", message, f"{name} {number}")
            self.assertIn((status, bool(message)), ((0, False), (2, True)), f"{name} {number}: {message}")
            statuses.add(status)
        self.assertEqual(statuses, {0, 2})

    def test_the_xml(self) -> None:
        self.check("a.xml", zipfile.ZipFile(io.BytesIO(demo_export())).read("export/mistlebank.xml"), 120)

    def test_the_zip(self) -> None:
        self.check("a.zip", demo_export(), 80)
