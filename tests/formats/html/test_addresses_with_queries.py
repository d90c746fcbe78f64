"""Sites that tell their pages apart by a query: from a web archive, and from the files of a mirror."""

from tests.helpers import FolderCase, rows
from tests.intake.test_warcs import PAGE, SITE, record

_TEXTS = {
    "/": '<a href="index.php?title=Pear">pear</a> <a href="/index.php?title=Apple&amp;from=home#sorts">apple</a>',
    "/index.php?title=Pear": "All about pears.",
    "/index.php?title=Apple": f'All about apples. <a href="{SITE}/index.php?title=Pear">pear</a>',
    "/view?id=3": 'The third. <a href="view?id=4">next</a>',
    "/view?id=4": "The fourth.",
}


class QueryAddresses(FolderCase):
    def _check(self, *source: str) -> None:
        """Move it: each page is there with its own address and a slug by its title, and no link is dead."""
        self.run_ok("move", *source, "--to", "plainleaf", "--out", "m")
        ledger = [row for row in rows(self.folder / "m/ledger.csv") if row["kind"] == "page"]
        self.assertEqual(
            {row["old_address"] for row in ledger}, {SITE + path for path in _TEXTS}
        )
        self.assertEqual({row["fate"] for row in ledger}, {"moved"})
        new = {row["title"]: row["new_address"].rpartition(".example")[2] for row in ledger}
        self.assertEqual(new["Index.php?title=pear"], "/index-php-title-pear/")
        answers = {row["old"]: row["new"] for row in rows(self.folder / "m/redirects/addresses.csv")}  # fmt: skip
        for row in ledger:
            if row["old_address"] != f"{SITE}/":
                self.assertEqual(answers[row["old_address"]], row["new_address"])
        self.assertFalse([old for old in answers if "%3F" in old])
        kinds = [row["kind"] for row in rows(self.folder / "m/follow-ups.csv")]
        self.assertFalse({"dead-link", "missing-picture"}.intersection(kinds))

    def test_from_a_web_archive(self) -> None:
        head = b"HTTP/1.1 200 OK\r\nContent-Type: text/html\r\n\r\n"
        made = [
            record("response", SITE + path, 2020, head + self._page(path, text).encode(), path)
            for path, text in _TEXTS.items()
        ]
        self.write("site.warc", b"".join(made))
        self._check("site.warc")

    def test_from_a_mirror(self) -> None:
        """Links lead to the files, as mirrors change them, or still to the addresses; names may end in `.html`."""
        for number, (path, text) in enumerate(_TEXTS.items()):
            name = path.lstrip("/") or "index.html"
            if number % 2 and "?" in name:
                name += ".html"
                text = text.replace(
                    f"{SITE}/index.php?title=Pear", "index.php%3Ftitle=Pear.html"
                )
            self.write(f"site/{name}", self._page(path, text))
        self.write("site/p.png?w=2", b"\x89PNG\r\n\x1a\n")
        shown = f'<img src="p.png%3Fw=2" alt="p"> <img src="{SITE}/p.png?w=2" alt="p">'
        self.write("site/index.html", self._page("/", f"{_TEXTS['/']} {shown}"))
        self._check("site", "--site", SITE)
        text = next(self.folder.glob("m/new/texts/home*.md")).read_text()
        (picture,) = (self.folder / "m/new/files").iterdir()
        self.assertEqual(text.count(picture.name), 2)

    def _page(self, path: str, text: str) -> str:
        return PAGE.format((path.lstrip("/") or "home").capitalize(), text)
