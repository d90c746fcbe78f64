"""Sites that state a path, or a place on somebody's disk, in place of a web address."""

import json

from tests.helpers import FolderCase, item, rows

BODY = '<p><a href="/2020/b.html">b</a></p>'


class WithoutWebAddress(FolderCase):
    def feed(self, site: str, path: str) -> None:
        items = item("A", f"{path}2020/a.html", BODY) + item("B", f"{path}2020/b.html", "x")
        head = f"<rss version='2.0'><channel><title>O</title><link>{site}</link>"
        self.write("feed.xml", f"{head}<description/>{items}</channel></rss>")

    def moved(self, *more: str, source: str = "feed.xml") -> tuple[set[str], str]:
        """Old addresses, and what was written, of a move."""
        self.run_ok("move", source, *more, "--to", "plainleaf", "--out", "m")
        old = {row["old"] for row in rows(self.folder / "m/redirects/addresses.csv")}
        written = [path.read_text("utf-8") for path in (self.folder / "m/new").rglob("*.md")]
        return old, "".join(written)

    def codes(self) -> set[str]:
        return {row["kind"] for row in rows(self.folder / "m/follow-ups.csv")}

    def test_a_place_on_a_disk(self) -> None:
        self.feed("file:///srv/www/", "file:///srv/www/")
        old, written = self.moved()
        self.assertIn("https://old-site.example/2020/a.html", old)
        self.assertIn("(https://new-site.example/notes/b/)", written)
        self.assertIn("site-address-unknown", self.codes())

    def test_a_path(self) -> None:
        self.feed("/", "/")
        old, written = self.moved()
        self.assertIn("https://old-site.example/2020/a.html", old)
        self.assertIn("(https://new-site.example/notes/b/)", written)
        findings = {found["code"]: found for found in self.survey("feed.xml")["findings"]}
        self.assertEqual(
            findings["site-address-unknown"]["examples"], ["https://old-site.example/"]
        )

    def test_paths_alone_in_a_feed_that_states_no_site(self) -> None:
        self.feed("", "")
        old, written = self.moved()
        self.assertIn("https://old-site.example/2020/a.html", old)
        self.assertIn("(https://new-site.example/notes/b/)", written)

    def test_the_address_that_a_person_gives(self) -> None:
        self.feed("file:///srv/www/", "file:///srv/www/")
        old, _written = self.moved("--site", "https://g.example/")
        self.assertIn("https://g.example/2020/a.html", old)
        self.assertNotIn("site-address-unknown", self.codes())

    def test_a_feed_in_json(self) -> None:
        entries = [
            {"id": "1", "url": "file:///srv/a.html", "content_html": "<a href='b.html'>b</a>"},
            {"id": "2", "url": "file:///srv/b.html", "content_html": "x"},
        ]
        feed = {
            "version": "https://jsonfeed.org/version/1.1",
            "title": "O",
            "home_page_url": "file:///srv/",
            "items": entries,
        }
        self.write("feed.json", json.dumps(feed))
        old, written = self.moved(source="feed.json")
        self.assertIn("https://old-site.example/a.html", old)
        self.assertIn("(https://new-site.example/b.html)", written)
