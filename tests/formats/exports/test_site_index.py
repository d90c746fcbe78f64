"""What feeds and sitemaps beside pages show of the site: which files are its pages, and where it stood."""

from collections.abc import Iterable

from newburrow.formats.exports.site_index import SiteIndex
from newburrow.intake.opening import open_source
from tests.helpers import FolderCase

PAGE = "<!DOCTYPE html><title>Pears</title><main><h1>Pears {0}</h1><p>Text {0}.</p></main>"
O = "https://o.example"  # noqa: E741


def sitemap(addresses: Iterable[str]) -> str:
    lines = "".join(f"<url><loc>{address}</loc></url>" for address in addresses)
    return f'<urlset xmlns="http://www.sitemaps.org/schemas/sitemap/0.9">{lines}</urlset>'


def feed(addresses: Iterable[str]) -> str:
    items = "".join(
        f"<item><link>{address}</link><pubDate>Tue, 02 Jan 2024 10:00:00 GMT</pubDate></item>"
        for address in addresses
    )
    return f'<rss version="2.0"><channel><title>Pears</title>{items}</channel></rss>'


class AddressOfTheSite(FolderCase):
    def site_of(self, addresses: list[str], places: list[str]) -> str:
        self.write("x/sitemap.xml", sitemap(addresses))
        return SiteIndex(open_source(self.folder / "x").parts).site_of(places)

    def test_the_place_of_a_page_ends_its_address(self) -> None:
        for addresses, places, site in (
            ([f"{O}/a.html", f"{O}/b/"], ["a.html", "b/index.html"], f"{O}/"),
            ([f"{O}/a", f"{O}/b"], ["a.html", "b.htm"], f"{O}/"),
            ([f"{O}/docs/v%202/a.html"], ["a.html", "c.html"], f"{O}/docs/v%202/"),
            ([f"{O}/docs/b/a.html"], ["a.html", "b/a.html"], f"{O}/docs/"),
            ([f"{O}/docs/b/a.html", f"{O}/docs/a.html"], ["a.html", "b/a.html"], f"{O}/docs/"),
            ([f"{O}/%C3%A9.html"], ["é.html"], f"{O}/"),
            ([f"{O}:8443/a?x=1#s"], ["a.html"], f"{O}:8443/"),
        ):
            with self.subTest(addresses):
                self.assertEqual(self.site_of(addresses, places), site)

    def test_what_shows_nothing(self) -> None:
        strangers = [f"https://s{n}.example/a.html" for n in range(9)]
        for addresses, places in (
            ([f"{O}/"], ["index.html"]),
            ([f"{O}/x.html", f"{O}/y.html"], ["a.html", "b.html"]),
            (["a.html", "/b.html", "mailto:a@o.example", "file:///srv/a.html"], ["a.html"]),
            (strangers, [f"{n}.html" for n in range(8)] + ["a.html"]),
            ([], ["a.html"]),
        ):
            with self.subTest(addresses):
                self.assertEqual(self.site_of(addresses, places), "")

    def test_a_site_without_a_word_of_its_address(self) -> None:
        """A feed or a sitemap shows it; what a person gives comes before that."""
        for n in range(4):
            self.write(f"site/posts/p{n}.html", PAGE.format(n))
        self.write("site/home.html", PAGE.format("home"))
        for name, text in (
            ("feed.xml", feed(f"{O}/blog/posts/p{n}.html" for n in range(3))),
            ("sitemap.xml", sitemap(f"{O}/blog/posts/p{n}" for n in range(4))),
        ):
            made = self.write(f"site/{name}", text)
            found = self.survey("site")
            self.assertEqual(found["site"]["address"], f"{O}/blog/")
            self.assertEqual(found["counts"]["page"], 5)
            codes = {finding["code"] for finding in found["findings"]}
            self.assertNotIn("site-address-unknown", codes)
            made.unlink()
        self.write("site/feed.xml", feed(f"{O}/blog/posts/p{n}.html" for n in range(3)))
        given = self.survey("site", "--site", "https://g.example/")
        self.assertEqual(given["site"]["address"], "https://g.example/")
