"""Web archives (ISO 28500): the latest good answers, revisits, redirects, and archives that are damaged."""

import gzip
import uuid
import zipfile
import zlib
from collections.abc import Callable

import brotli

from newburrow.intake.opening import open_source
from tests.helpers import FolderCase, rows

SITE = "https://mistle.example"
PAGE = '<!DOCTYPE html><html><head><title>{0}</title></head><body><nav><a href="/">Home</a></nav><main><h1>{0}</h1><p>{1}</p></main></body></html>'
# address, body, status, media type, year, further headers
ANSWERS = (
    ("/", PAGE.format("Welcome", '<a href="/a/">a</a> <a href="moved">m</a> <a href="/gone">g</a> <img src="p.png" alt="p">'), "200 OK", "text/html", 2020, ()),
    ("/a/", PAGE.format("First", "older words"), "200 OK", "text/html", 2019, ()),
    ("/a/", PAGE.format("A", "latest"), "200 OK", "text/html", 2021, ()),
    ("/z?id=3", gzip.compress(PAGE.format("Zipped", "z").encode()), "200 OK", "text/html", 2020, (("Content-Encoding", "gzip"), ("Refresh", "300"), ("Refresh", "5; url=/z?id=3"))),
    ("/moved", "", "301 Moved", "text/html", 2020, (("Location", "/again"),)),
    ("/again", "", "302 Found", "text/html", 2020, (("Location", "a/"),)),
    ("/led", "Please wait.", "200 OK", "text/html", 2020, (("Refresh", "0; URL='/again'"),)),
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
            self.assertEqual(answers.keys(), {"/moved", "/again", "/led", "/round", "/gone"})
            self.assertEqual(answers["/again"].target, f"{SITE}/a/")
            self.assertEqual(
                len(source.left_out), 6
            )  # the older answer, and five that are none

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
        self.assertIn("cut off (time)", left[f"the end of {SITE}/utf"])

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
            self.assertEqual(len(source.answers), 5)
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
        for path in ("/moved", "/again", "/led"):
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


def _page(title: str) -> bytes:
    """An answer of HTTP with a page."""
    return _answer("200 OK", PAGE.format(title, f"The text of {title}.").encode())


def _answer(status: str, body: bytes, *headers: str) -> bytes:
    lines = (f"HTTP/1.1 {status}", "Content-Type: text/html; charset=utf-8", *headers)
    return "\r\n".join([*lines, "", ""]).encode() + body


def rare_archive() -> bytes:
    """Answers in several codings, a record in pieces, a request, a revisit by identity."""
    case = RareRecords()
    case.made = []
    page = PAGE.format("Packed", "words " * 20).encode()
    for coding, body in (("br", brotli.compress(page)), ("gzip", gzip.compress(page))):
        answer = _answer("200 OK", body, f"Content-Encoding: {coding}")
        case.add("response", f"/{coding}", answer)
    case.add("response", "/pieces", _page("In pieces")[:90], 2020, "WARC-Segment-Number: 1")
    first = f"WARC-Segment-Origin-ID: {case.identity()}"
    case.add("continuation", "/pieces", _page("In pieces")[90:], 2020, "WARC-Segment-Number: 2", first)  # fmt: skip
    case.add("request", "/gzip", b"GET / HTTP/1.1\r\n\r\n")
    case.add("revisit", "/again", b"", 2021, f"WARC-Refers-To: {case.identity()}")
    return b"".join(case.made)


class RareRecords(FolderCase):
    """What the standard has beside plain answers; what is not read is named."""

    def setUp(self) -> None:
        super().setUp()
        self.made: list[bytes] = []

    def add(self, kind: str, path: str, block: bytes, year: int = 2020, *headers: str) -> None:
        more = "".join(f"{header}\r\n" for header in headers)
        digest = f"sha1:{len(self.made)}"
        self.made.append(record(kind, f"{SITE}{path}", year, block, digest, more))

    def identity(self) -> str:
        """That of the last record."""
        line = self.made[-1].partition(b"WARC-Record-ID: ")[2].partition(b"\r\n")[0]
        return line.decode()

    def _texts(self) -> dict[str, str]:
        self.source = open_source(self.write("rare.warc", b"".join(self.made)))
        found = {}
        for part in self.source.parts:
            with part.open() as stream:
                found[part.address.removeprefix(SITE)] = stream.read().decode()
        return found

    def _reasons(self) -> str:
        return "; ".join(f"{file.name} {file.reason}" for file in self.source.left_out)

    def test_a_record_in_pieces_is_whole_again(self) -> None:
        block = _answer("200 OK", PAGE.format("Long", "pears " * 500 + "the end").encode())
        pieces = (
            block[:40],
            block[40:700],
            block[700:],
        )  # the first ends within the headers of HTTP
        first = ""
        for path, numbers in (("/whole", (1, 2, 3)), ("/mixed", (1, 3, 2)), ("/gap", (1, 3))):
            for number in numbers:
                headers = [f"WARC-Segment-Number: {number}"]
                if number == 1:
                    kind = "response"
                else:
                    kind = "continuation"
                    headers.append(f"WARC-Segment-Origin-ID: {first}")
                if number == len(pieces):
                    headers.append(f"WARC-Segment-Total-Length: {len(block)}")
                self.add(kind, path, pieces[number - 1], 2020 + number, *headers)
                if number == 1:
                    first = self.identity()
        self.add("continuation", "/lost", b"x", 2020, "WARC-Segment-Number: 2", "WARC-Segment-Origin-ID: <urn:none>")  # fmt: skip
        found = self._texts()
        self.assertTrue(found["/whole"].endswith("the end</p></main></body></html>"))
        self.assertEqual(found["/mixed"], found["/whole"])
        reasons = self._reasons()
        self.assertIn(f"the end of {SITE}/gap was cut off (pieces", reasons)
        self.assertIn(f"{SITE}/lost continues a record that is not", reasons)

    def test_only_what_a_page_was_asked_for_is_one(self) -> None:
        """The answer to a form or to HEAD does not stand for the page of its address."""
        for path, method in (("/form", b"POST"), ("/head", b"HEAD"), ("/get", b"GET")):
            self.add("response", path, _page("Older"), 2020)
            self.add("response", path, _page("Newer"), 2021)
            answer = self.identity()
            request = method + b" / HTTP/1.1\r\n\r\n"
            self.add("request", path, request, 2021, f"WARC-Concurrent-To: {answer}")
        # the other way round: the answer names the request, and one record beside it
        self.add("request", "/asked", b"POST / HTTP/1.1\r\n\r\n", 2021)
        named = f"WARC-Concurrent-To: {self.identity()}"
        self.add("response", "/asked", _page("Older"), 2020)
        self.add("response", "/asked", _page("Newer"), 2021, "WARC-Concurrent-To: <urn:other>", named)  # fmt: skip
        found = self._texts()
        for path, title in (("/form", "Older"), ("/head", "Older"), ("/get", "Newer"), ("/asked", "Older")):  # fmt: skip
            self.assertIn(title, found[path], path)
        self.assertEqual(self._reasons().count("is the answer to a form"), 3)

    def test_revisits_that_name_the_record_or_say_not_modified(self) -> None:
        self.add("response", "/a", _page("First"))
        named = f"WARC-Refers-To: {self.identity()}"
        profile = "WARC-Profile: http://archive.example/revisit/"
        self.add("revisit", "/copy", b"", 2021, named, f"{profile}identical-payload-digest")
        self.add("revisit", "/a", b"HTTP/1.1 304 Not Modified\r\n\r\n", 2022, f"{profile}server-not-modified")  # fmt: skip
        self.add("revisit", "/b", b"", 2022, f"{profile}identical-payload-digest")
        found = self._texts()
        self.assertIn("First", found["/copy"])
        self.assertEqual(found.keys(), {"/a", "/copy"})
        reasons = self._reasons()
        self.assertEqual(reasons.count("repeats an answer that is not in the archive"), 1)
        self.assertIn(f"{SITE}/a is an older answer", reasons)

    def test_codings_of_http(self) -> None:
        page = PAGE.format("Packed", "words").encode()
        packed = gzip.compress(page)
        half = len(packed) // 2
        chunks = b"".join(b"%x\r\n%s\r\n" % (len(data), data) for data in (packed[:half], packed[half:], b""))  # fmt: skip
        for path, body, headers in (
            ("/br", brotli.compress(page), ("content-encoding: BR",)),
            ("/brotli-is-a-lie", page, ("Content-Encoding: br",)),
            ("/gzip-is-a-lie", page, ("Content-Encoding: gzip",)),
            ("/chunked", chunks, ("Content-Encoding: x-gzip", "Transfer-Encoding: Chunked")),
            ("/unknown", page, ("Content-Encoding: zstd",)),
        ):
            self.add("response", path, _answer("200 OK", body, *headers))
        found = self._texts()
        self.assertEqual(found.keys(), {"/br", "/brotli-is-a-lie", "/gzip-is-a-lie", "/chunked"})  # fmt: skip
        self.assertEqual(set(found.values()), {page.decode()})
        self.assertIn(f"{SITE}/unknown is compressed with 'zstd'", self._reasons())

    def test_codings_that_are_damaged_or_a_bomb(self) -> None:
        """The beginning is read, and the rest is named; nothing else is said on standard error."""
        page = PAGE.format("Packed", "".join(map(str, range(9000)))).encode()
        raw = zlib.compressobj(6, zlib.DEFLATED, -15)
        packed = {
            "br": brotli.compress(page),
            "gzip": gzip.compress(page),
            "deflate": zlib.compress(page),
        }
        whole = [("/raw", "deflate", raw.compress(page) + raw.flush())]
        for coding, data in packed.items():
            damaged = bytearray(data)
            damaged[len(data) // 2 : len(data) // 2 + 40] = bytes(40)
            whole.append((f"/whole-{coding}", coding, data))
            whole.append((f"/cut-{coding}", coding, data[:-100]))
            whole.append((f"/damaged-{coding}", coding, bytes(damaged)))
        whole.append(("/bomb", "br", brotli.compress(bytes(1 << 28))))
        for path, coding, body in whole:
            answer = _answer("200 OK", body, f"Content-Encoding: {coding}")
            self.add("response", path, answer)
        source = open_source(self.write("rare.warc", b"".join(self.made)))
        shown = {part.address.removeprefix(SITE): part for part in source.parts}
        with shown["/bomb"].open() as stream:
            self.assertEqual(
                len(stream.read(100_000)), 100_000
            )  # no more is unpacked than is read
        reasons = {file.name: file.reason for file in source.left_out}
        for path, part in shown.items():
            if path == "/bomb":
                continue
            with part.open() as stream:
                data = stream.read()
            if path.startswith(("/whole", "/raw")):
                self.assertEqual(data, page, path)
            else:
                self.assertTrue(data.startswith(page[:100]) and len(data) < len(page), path)
                # zeros within Brotli can be read as something
                why = "are damaged" if path in ("/damaged-gzip", "/damaged-deflate") else ""
                self.assertIn(why, reasons[f"the end of {SITE}{path}"])
        self.assertEqual(len(reasons), 6)

    def test_an_answer_with_fewer_bytes_than_the_server_named(self) -> None:
        page = PAGE.format("Page", "words").encode()
        for path, named in (("/short", len(page) + 5), ("/right", len(page)), ("/odd", "many")):
            answer = _answer("200 OK", page, f"Content-Length: {named}")
            self.add("response", path, answer)
        self.assertEqual(len(self._texts()), 3)
        self.assertEqual(self._reasons().count("fewer bytes"), 1)
        self.assertIn(f"the end of {SITE}/short was cut off", self._reasons())

    def test_the_case_of_a_scheme_does_not_count(self) -> None:
        """RFC 3986 section 3.1."""
        self.add("response", "/capitals", _page("Loud"))
        self.made[-1] = self.made[-1].replace(b"URI: https:", b"URI: HTTPS:")
        self.assertEqual([*self._texts()], [f"{SITE}/capitals".replace("https:", "HTTPS:")])

    def test_records_of_other_kinds_are_named(self) -> None:
        self.add("response", "/", _page("Home"))
        self.add("conversion", "/picture", b"png")
        self.add("strange", "/x", b"x")
        self.add("metadata", "/", b"hops: 1")
        self.assertEqual(self._texts().keys(), {"/"})
        reasons = self._reasons()
        self.assertIn("of the kind 'conversion'", reasons)
        self.assertIn("of the kind 'strange'", reasons)
        self.assertEqual(len(self.source.left_out), 2)
