"""Pages that name another page as their original: each keeps its address, and the original its own."""

import shutil

from tests.helpers import FolderCase, rows
from tests.intake.test_warcs import SITE, record

_PAGE = '<!DOCTYPE html><html><head><title>{0}</title><link rel="canonical" href="{1}"></head><body><main><h1>{0}</h1><p>Text of {0}.</p></main></body></html>'
# path of each page, and the one that it names as its original; the last is not in the export
_PAGES = {
    "/": "/",
    "/pear.html": "/pear.html",
    "/pear-print.html": "/pear.html",
    "/trees/": "/trees/",
    "/trees/list.html": "/trees/",
    "/lost.html": "/elsewhere.html",
    "/show.php?id=3": "/show.php?id=3",
    "/show.php?id=3&view=print": "/show.php?id=3",
}
_COPIES = {
    "/pear-print.html": "/pear.html",
    "/trees/list.html": "/trees/",
    "/show.php?id=3&view=print": "/show.php?id=3",
}


def _page(path: str, original: str) -> str:
    return _PAGE.format(f"Page {path}".replace("&", "&amp;"), f"{SITE}{original}".replace("&", "&amp;"))  # fmt: skip


class Copies(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        head = b"HTTP/1.1 200 OK\r\nContent-Type: text/html\r\n\r\n"
        made = []
        for path, original in _PAGES.items():
            page = _page(path, original)
            made.append(record("response", SITE + path, 2020, head + page.encode(), path))
            name = f"{path}index.html" if path.endswith("/") else path
            self.write(f"site{name}", page)
        self.write("site.warc", b"".join(made))

    def _ledger(self) -> dict[str, str]:
        """The old address of each page and what became of it."""
        return {
            row["old_address"].removeprefix(SITE): row["fate"]
            for row in rows(self.folder / "m/ledger.csv")
            if row["kind"] == "page"
        }

    def test_each_keeps_its_address_and_is_named(self) -> None:
        for source in ("site", "site.warc"):
            self.run_ok("move", source, "--to", "plainleaf", "--out", "m")
            # one that is not there is taken at its word
            paths = {"/elsewhere.html" if path == "/lost.html" else path for path in _PAGES}
            self.assertEqual(self._ledger(), dict.fromkeys(paths, "moved"), source)
            notes = rows(self.folder / "m/follow-ups.csv")
            self.assertFalse([row for row in notes if row["kind"] == "address-conflict"])
            (copies,) = (row for row in notes if row["kind"] == "copy-of-page")
            self.assertEqual(copies["places"], str(len(_COPIES)))
            shutil.rmtree(self.folder / "m")

    def test_those_that_are_left_out_lead_to_their_originals(self) -> None:
        self.run_ok("draft", "site.warc", "--to", "plainleaf", "--out", "m")
        with (self.folder / "m/move.toml").open("a") as stream:
            stream.write("\n[[choose.leave]]\ncopies = true\n")
        self.run_ok("move", "m")
        ledger = self._ledger()
        answers = {
            row["old"].removeprefix(SITE): row["new"]
            for row in rows(self.folder / "m/redirects/addresses.csv")
        }
        for copy, original in _COPIES.items():
            self.assertEqual(ledger[copy], "left-out")
            self.assertEqual(answers[copy], answers[original])
