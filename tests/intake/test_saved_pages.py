"""Pages saved in one file each (RFC 2557): their files under their addresses, each once, and the latest copy of a page."""

import base64
import quopri
import zipfile

from newburrow.intake.opening import open_source
from tests.helpers import FolderCase, rows

SITE = "https://mistle.example"
PICTURE = b"\x89PNG\r\n\x1a\n picture"


def _part(
    media_type: str, body: bytes, coding: str = "quoted-printable", **headers: str
) -> bytes:
    if coding == "base64":
        encoded = base64.encodebytes(body)
    else:
        encoded = quopri.encodestring(body)
    lines = [f"Content-Type: {media_type}", f"Content-Transfer-Encoding: {coding}"]
    lines += [f"Content-{name.capitalize()}: {value}" for name, value in headers.items()]
    return "\r\n".join([*lines, "", ""]).encode() + encoded.replace(b"\n", b"\r\n")


def _saved(day: int, *parts: bytes) -> bytes:
    head = (
        "From: <Saved by a browser>\r\nSubject: =?utf-8?Q?B=C3=A4ume?=\r\n"
        f"Date: Mon, {day} Jan 2024 10:00:00 GMT\r\nMIME-Version: 1.0\r\n"
        'Content-Type: multipart/related;\r\n\ttype="text/html";\r\n\tboundary="=_edge"\r\n\r\n'
    )
    inner = b"".join(b"\r\n--=_edge\r\n" + part for part in parts)
    return head.encode() + inner + b"\r\n--=_edge--\r\n"


def _page(title: str, body: str) -> bytes:
    return f"<!DOCTYPE html><html><head><title>{title}</title></head><body><main><h1>{title}</h1>{body}</main></body></html>".encode()


def saved_page() -> bytes:
    """One with a picture, a style and a frame."""
    body = '<p>Words. <img src="cid:pic@x"><img src="/a.png"></p><iframe src="cid:frame@x"></iframe>'
    return _saved(
        2,
        _part("text/html", _page("Saved", body), location=f"{SITE}/saved"),
        _part("text/css", b"p {}", id="<style@x>"),
        _part("image/png", PICTURE, "base64", id="<pic@x>"),
        _part("image/png", PICTURE, "base64", location=f"{SITE}/a.png"),
        _part("text/html", b"film", id="<frame@x>", location="https://film.example/1"),
    )


class SavedPages(FolderCase):
    """A folder of pages as browsers save them."""

    def setUp(self) -> None:
        super().setUp()
        shared = _part("image/png", PICTURE, "base64", location=f"{SITE}/shared.png")
        self.write(
            "saved/Bäume.mhtml",
            _saved(
                2,
                _part("text/css", b"p {}", id="<style@x>"),  # the page need not come first
                _part(
                    "text/html",
                    _page(
                        "Bäume",
                        '<p>Words = more. <img src="cid:pic@x" alt="p">'
                        f'<img src="{SITE}/shared.png" alt="s"> <a href="{SITE}/pears">pears</a></p>'
                        '<iframe src="cid:frame@x"></iframe>',
                    ),
                    location="=?utf-8?Q?https://mistle.example/b=C3=A4?=\r\n =?utf-8?Q?ume?=",
                ),
                _part("image/png", PICTURE + b"2", "base64", id="<pic@x>"),
                _part("text/html", b"film", id="<frame@x>", location="https://film.example/1"),
                shared,
            ),
        )
        pears = (_part("text/html", _page("Pears", f'<p>{day}. <img src="{SITE}/shared.png" alt="s"></p>'), location="/pears") for day in (9, 3))  # fmt: skip
        for name, day, page in zip(
            ("pears.mhtml", "pears (1).MHT"), (9, 3), pears, strict=True
        ):
            page = page.replace(b"Location: /pears", f"Location: {SITE}/pears".encode())
            self.write(f"saved/{name}", _saved(day, page, shared))

    def test_each_file_has_its_address_and_is_there_once(self) -> None:
        source = open_source(self.folder / "saved")
        texts = {}
        for part in source.parts:
            with part.open() as stream:
                texts[part.address.removeprefix(SITE)] = stream.read()
        pages = {address for address, data in texts.items() if b"<main>" in data}
        self.assertEqual(pages, {"/bäume", "/pears"})
        self.assertIn(b"<p>9. ", texts["/pears"])
        self.assertEqual(texts["/shared.png"], PICTURE)
        (own,) = (address for address, data in texts.items() if data == PICTURE + b"2")
        self.assertIn(f'src="{SITE}{own}"'.encode(), texts["/bäume"])
        self.assertIn(b'src="https://film.example/1"', texts["/bäume"])
        self.assertEqual(len(texts), len(source.parts))
        reasons = sorted(file.reason for file in source.left_out)
        self.assertEqual(reasons, ["is a frame within the page", "is an older copy of a page that is read"])  # fmt: skip

    def test_a_move_also_from_a_zip(self) -> None:
        with zipfile.ZipFile(self.folder / "saved.zip", "w") as archive:
            for path in (self.folder / "saved").iterdir():
                archive.write(path, path.name)
        for number, source in enumerate(("saved", "saved.zip")):
            out = f"m{number}"
            self.run_ok("move", source, "--to", "plainleaf", "--out", out)
            fates = {(row["kind"], row["title"]): row["fate"] for row in rows(self.folder / out / "ledger.csv")}  # fmt: skip
            self.assertEqual(fates["page", "Bäume"], "moved")
            self.assertEqual(fates["page", "Pears"], "moved")
            self.assertEqual([kind for kind, _title in fates].count("media"), 2)
            kinds = {row["kind"] for row in rows(self.folder / out / "follow-ups.csv")}
            self.assertFalse(kinds & {"missing-picture", "dead-link"})

    def test_one_saved_page_alone(self) -> None:
        self.assertIn("9. ", self.run_ok("show", "saved/pears.mhtml", "Pears"))

    def test_pages_from_a_disk_keep_their_pictures(self) -> None:
        """Two in one folder that call different pictures by the same name."""
        for name in ("one", "two"):
            page = _page(
                name, '<p>Text. <img src="cid:a@x" alt="a"> <img src="b.png" alt="b"></p>'
            )
            where = f"file:///C:/site/{name}"
            self.write(
                f"disk/{name}.mht",
                _saved(
                    5,
                    _part("text/html", page, location=f"{where}/page.html"),
                    _part("image/png", PICTURE + name.encode(), "base64", id="<a@x>"),
                    _part(
                        "image/png", b"b" + name.encode(), "base64", location=f"{where}/b.png"
                    ),
                ),
            )
        found = {}
        for part in open_source(self.folder / "disk").parts:
            with part.open() as stream:
                found[part.name] = stream.read()
        for name in ("one", "two"):
            self.assertIn(f'src="{name}-files/a-x.png"'.encode(), found[f"{name}.html"])
            self.assertEqual(found[f"{name}-files/a-x.png"], PICTURE + name.encode())

    def test_pages_without_an_address_are_no_copies_of_one_another(self) -> None:
        for ending in ("mht", "mhtml"):
            page = _part("text/html", _page(ending, f"<p>Text in {ending}.</p>"))
            self.write(f"two/a.{ending}", _saved(5, page))
        source = open_source(self.folder / "two")
        self.assertEqual({part.name for part in source.parts}, {"a.html", "a (2).html"})
        self.assertEqual(source.left_out, ())

    def test_what_is_no_saved_page_is_a_file(self) -> None:
        whole = _saved(2, _part("image/png", PICTURE, "base64", location=f"{SITE}/a.png"))
        for name, data in (
            ("no-page.mhtml", whole),
            ("cut.mhtml", whole[:60]),
            ("text.mhtml", b"just words"),
            ("mail.eml", _saved(2, _part("text/html", _page("Mail", "x"), id="<a@x>"))),
        ):
            self.write(f"files/{name}", data)
        names = {part.name for part in open_source(self.folder / "files").parts}
        self.assertEqual(names, {"no-page.mhtml", "cut.mhtml", "text.mhtml", "mail.eml"})

    def test_a_page_that_was_cut_off_is_read_as_far_as_it_goes(self) -> None:
        data = _saved(2, _part("text/html", _page("Cut", "<p>Words and words.</p>" * 50), location=f"{SITE}/cut"))  # fmt: skip
        self.write("cut.mhtml", data[: len(data) // 2])
        self.assertIn("Words and words.", self.run_ok("show", "cut.mhtml", "Cut"))
        self.assertIn(
            "the end of cut.mhtml: it was cut off", self.run_ok("survey", "cut.mhtml")
        )


class SavedWithFolders(FolderCase):
    """Pages that a browser saved with a folder of files beside each."""

    def test_frames_are_no_pages(self) -> None:
        frame = _page("Frame", "<p>An advertisement.</p>")
        shows = '<p>Text.</p><iframe width="3" src="./B%C3%A4ume &amp; mehr_files/frame.html"></iframe>'
        self.write("site/Bäume & mehr.html", _page("Bäume", shows))
        for name in ("frame.html", "page.html"):  # no page shows the second one as a frame
            self.write(f"site/Bäume & mehr_files/{name}", frame)
        self.write("site/other_files/frame.html", frame)
        source = open_source(self.folder / "site")
        self.assertEqual([file.name for file in source.left_out], ["Bäume & mehr_files/frame.html"])  # fmt: skip
        self.assertEqual(len(source.parts), 3)
        self.run_ok("move", "site", "--to", "plainleaf", "--out", "m")
        ledger = {row["object"]: row for row in rows(self.folder / "m/ledger.csv")}
        self.assertEqual(ledger["file:Bäume & mehr_files/frame.html"]["fate"], "left-out")
