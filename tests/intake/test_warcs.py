"""Web archives (ISO 28500): the latest good answers, revisits, redirects, and archives that are damaged."""

import gzip
import uuid
import zipfile
from collections.abc import Callable

from newburrow.intake.opening import open_source
from tests.helpers import FolderCase, rows

SITE = "https://mistle.example"
PAGE = '<!DOCTYPE html><html><head><title>{0}</title></head><body><nav><a href="/">Home</a></nav><main><h1>{0}</h1><p>{1}</p></main></body></html>'
# address, body, status, media type, year, further headers
ANSWERS = (
    ("/", PAGE.format("Welcome", '<a href="/a/">a</a> <a href="moved">m</a> <a href="/gone">g</a> <img src="p.png" alt="p">'), "200 OK", "text/html", 2020, ()),
    ("/a/", PAGE.format("First", "older words"), "200 OK", "text/html", 2019, ()),
    ("/a/", PAGE.format("A", "latest"), "200 OK", "text/html", 2021, ()),
    ("/z?id=3", gzip.compress(PAGE.format("Zipped", "z").encode()), "200 OK", "text/html", 2020, (("Content-Encoding", "gzip"),)),
    ("/moved", "", "301 Moved", "text/html", 2020, (("Location", "/again"),)),
    ("/again", "", "302 Found", "text/html", 2020, (("Location", "a/"),)),
    ("/round", "", "301 Moved", "text/html", 2020, (("Location", "/round"),)),
    ("/gone", "x", "410 Gone", "text/html", 2020, ()),
    ("/p.png", b"\x89PNG\r\n", "200 OK", "image/png", 2020, ()),
)  # fmt: skip


def record(
    kind: str, address: str, year: int, block: bytes, digest: str, more: str = ""
) -> bytes:
    head = (
        f"WARC/1.1\r\nWARC-Type: {kind}\r\nWARC-Target-URI: {address}\r\nWARC-Date: {year}-01-01T00:00:00Z\r\n"
        f"WARC-Record-ID: <urn:uuid:{uuid.uuid5(uuid.NAMESPACE_URL, f'{address}{year}{kind}')}>\r\n{more}"
        f"WARC-Payload-Digest: {digest}\r\nContent-Type: application/http; msgtype=response\r\n"
        f"Content-Length: {len(block)}\r\n\r\n"
    )
    return head.encode() + block + b"\r\n\r\n"


def archive(packed: bool) -> bytes:
    """All records in one file."""
    return b"".join(gzip.compress(data, mtime=0) if packed else data for data in records())


def records() -> list[bytes]:
    made = [
        b"WARC/1.1\r\nWARC-Type: warcinfo\r\nContent-Length: 13\r\n\r\nsoftware: own\r\n\r\n"
    ]
    for number, (path, body, status, type_, year, more) in enumerate(ANSWERS):
        data = body if isinstance(body, bytes) else body.encode()
        further = "".join(f"{name}: {value}\r\n" for name, value in more)
        head = f"HTTP/1.1 {status}\r\nContent-Type: {type_}\r\n{further}\r\n"
        made.append(
            record("response", SITE + path, year, head.encode() + data, f"sha1:{number}")
        )
    repeats = f"WARC-Refers-To-Target-URI: {SITE}/a/\r\n"
    made.append(record("revisit", f"{SITE}/copy", 2021, b"", "sha1:2", repeats))
    return made


def names(source: object) -> set[str]:
    return {part.address.removeprefix(SITE) for part in source.parts}  # type: ignore[attr-defined]


class WebArchives(FolderCase):
    def test_what_is_a_file(self) -> None:
        for packed in (True, False):
            source = open_source(
                self.write("site.warc.gz" if packed else "site.warc", archive(packed))
            )
            self.assertEqual(names(source), {"/", "/a/", "/z?id=3", "/p.png", "/copy"})
            shown = {part.address.removeprefix(SITE): part for part in source.parts}
            for path in ("/a/", "/copy"):
                with shown[path].open() as stream:
                    self.assertIn(b"latest", stream.read())
            with shown["/z?id=3"].open() as stream:
                self.assertIn(b"Zipped", stream.read())
            answers = {answer.address.removeprefix(SITE): answer for answer in source.answers}
            self.assertEqual(answers.keys(), {"/moved", "/again", "/round", "/gone"})
            self.assertEqual(answers["/again"].target, f"{SITE}/a/")
            self.assertEqual(
                len(source.left_out), 5
            )  # the older answer, and four that are none

    def test_the_encoding_that_the_server_named_and_pages_that_were_cut_off(self) -> None:
        """What HTTP says counts before what the page declares (HTML standard section 13.2.3.2)."""
        made = records()
        for path, codec, label in (
            ("/latin", "cp1252", "ISO-8859-1"),
            ("/utf", "utf-8", '"UTF-8"'),
        ):
            page = PAGE.format("Äpfel", "süß").replace(
                "<title>", '<meta charset="windows-1251"><title>'
            )
            head = (
                f"HTTP/1.1 200 OK\r\nContent-Type: text/html; charset={label}\r\n\r\n".encode()
            )
            more = "WARC-Truncated: time\r\n" if path == "/utf" else ""
            made.append(
                record("response", SITE + path, 2020, head + page.encode(codec), path, more)
            )
        self.write("site.warc", b"".join(made))
        for path in ("latin", "utf"):
            shown = self.run_ok("show", "site.warc", f"{SITE}/{path}")
            self.assertIn("Äpfel", shown)
            self.assertIn("süß", shown)
        left = {
            part.name: part.reason for part in open_source(self.folder / "site.warc").left_out
        }
        self.assertIn("cut off by the crawler (time)", left[f"the end of {SITE}/utf"])

    def test_several_files_of_one_crawl(self) -> None:
        """A folder of them, in whatever order: the revisit first, one packed, one cut off; beside them a list."""
        info, *answers, revisit = records()
        notes = record("resource", "metadata://own.example/log", 2022, b"words", "sha1:x")
        self.write("crawl/a.warc", info + revisit + answers[2] + notes)
        self.write("crawl/b.warc.gz", b"".join(gzip.compress(data) for data in answers[::2]))
        self.write("crawl/c.warc", b"".join([*answers[1::2], answers[0]])[:-40])
        self.write("crawl/list.cdx", "CDX a b")
        (self.folder / "zipped").mkdir()
        with zipfile.ZipFile(self.folder / "zipped/crawl.zip", "w") as archive_file:
            for path in sorted((self.folder / "crawl").iterdir()):
                archive_file.write(path, path.name)
        for path in ("crawl", "zipped/crawl.zip"):
            source = open_source(self.folder / path)
            self.assertEqual(names(source), {"", "/", "/a/", "/z?id=3", "/p.png", "/copy"})
            shown = {part.address.removeprefix(SITE): part for part in source.parts}
            for address in ("/a/", "/copy"):
                with shown[address].open() as stream:
                    self.assertIn(b"latest", stream.read())
            reasons = [file.reason for file in source.left_out]
            for words in ("cut off", "about the archive", "older answer", "status 410"):
                self.assertTrue(any(words in reason for reason in reasons), words)
            self.assertEqual(len(source.answers), 4)
        self.run_ok("move", "crawl", "--to", "plainleaf", "--out", "m")
        stamp = open_source(self.folder / "crawl").stamp()
        self.write("crawl/a.warc", info)
        self.assertNotEqual(open_source(self.folder / "crawl").stamp(), stamp)

    def test_a_move(self) -> None:
        self.write("site.warc.gz", archive(True))
        self.run_ok("move", "site.warc.gz", "--to", "plainleaf", "--out", "m")
        answers = {
            row["old"].removeprefix(SITE): row
            for row in rows(self.folder / "m/redirects/addresses.csv")
        }
        for path in ("/moved", "/again"):
            self.assertEqual(answers[path]["new"], f"{SITE}/a/")
        self.assertEqual(answers["/gone"]["status"], "410")
        dead = [
            row["what"]
            for row in rows(self.folder / "m/follow-ups.csv")
            if row["kind"] == "dead-link"
        ]
        self.assertEqual(len(dead), 1)
        self.assertIn("/gone", dead[0])
        for row in rows(self.folder / "m/ledger.csv"):
            self.assertIn(row["fate"], ("moved", "left-out"))

    def test_damage_is_told_and_the_rest_is_read(self) -> None:
        plain, packed = archive(False), archive(True)
        second = packed.index(b"\x1f\x8b\x08", packed.index(b"\x1f\x8b\x08", 10) + 10)

        def longer(data: bytes) -> bytes:
            return data.replace(b"older words", b"older words, and more of them")

        def shorter(data: bytes) -> bytes:
            return data.replace(b"older words", b"old")

        def flipped(data: bytes) -> bytes:
            return data[: second + 40] + bytes([data[second + 40] ^ 0xFF]) + data[second + 41 :]

        cases: tuple[tuple[str, bytes, Callable[[bytes], bytes], set[str]], ...] = (
            ("longer.warc", plain, longer, {"/", "/a/", "/z?id=3", "/p.png", "/copy"}),
            ("shorter.warc", plain, shorter, {"/", "/a/", "/z?id=3", "/p.png", "/copy"}),
            ("cut.warc", plain, lambda data: data[:-250], {"/", "/a/", "/z?id=3", "/p.png"}),
            ("flipped.warc.gz", packed, flipped, {"/", "/z?id=3", "/p.png"}),
            ("cut.warc.gz", packed, lambda data: data[: second - 5], {"/"}),
        )
        for name, data, change, wanted in cases:
            source = open_source(self.write(name, change(data)))
            self.assertEqual(names(source) - {"/a/", "/copy"}, wanted - {"/a/", "/copy"}, name)
            damaged = [
                file.reason
                for file in source.left_out
                if "damaged" in file.reason or "cut off" in file.reason
            ]
            self.assertEqual(len(damaged), 1, f"{name}: {source.left_out}")

    def test_a_record_without_an_address(self) -> None:
        data = archive(False).replace(b"WARC-Target-URI: https://mistle.example/a/", b"X-Target-URI: https://mistle.example/none", 1)  # fmt: skip
        source = open_source(self.write("nameless.warc", data))
        self.assertIn("/", names(source))
        self.assertTrue(any(file.name.startswith("record at") for file in source.left_out))
