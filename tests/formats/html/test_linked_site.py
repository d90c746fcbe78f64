"""A site saved as pages that state no address: links among them show it."""

from tests.helpers import FolderCase, rows

SITE = "https://growers.example/notes/"
PAGES = ("apples", "pears/early", "pears/late", "plums")


class LinkedSite(FolderCase):
    def saved(self, *links: str) -> dict:
        """Survey pages of which each has these links."""
        text = "".join(f'<p><a href="{link}">More of {link[-9:]}</a>.</p>' for link in links)
        for name in PAGES:
            page = f"<!DOCTYPE html><title>{name}</title><main><h1>{name}</h1>{text}</main>"
            self.write(f"saved/{name}.html", page)
        return self.survey("saved")

    def codes(self, found: dict) -> set[str]:
        return {finding["code"] for finding in found["findings"]}

    def test_whole_addresses_of_pages(self) -> None:
        for ending in (".html", "", "/"):
            links = [f"{SITE}{name}{ending}" for name in PAGES]
            found = self.saved(*links, f"{SITE}login", "https://other.example/plums.html")
            self.assertEqual(found["site"]["address"], SITE)
            self.assertIn("site-address-by-links", self.codes(found))
            self.assertNotIn("site-address-unknown", self.codes(found))
        self.run_ok("move", "saved", "--to", "reedpost", "--out", "m")
        old = {row["old"] for row in rows(self.folder / "m/redirects/addresses.csv")}
        self.assertIn(f"{SITE}pears/late.html", old)
        notes = rows(self.folder / "m/follow-ups.csv")
        self.assertIn("site-address-by-links", {row["kind"] for row in notes})
        self.assertEqual(
            self.survey("saved", "--site", "https://g.example/")["site"]["address"],
            "https://g.example/",
        )

    def test_a_base_element(self) -> None:
        base = f'<base href="{SITE}">'
        for name in PAGES:
            links = "".join(f'<a href="{other}.html">{other}</a> ' for other in PAGES)
            self.write(
                f"saved/{name}.html",
                f"<!DOCTYPE html><head>{base}<title>{name}</title></head><main>{links}</main>",
            )
        self.assertEqual(self.survey("saved")["site"]["address"], SITE)

    def test_pictures(self) -> None:
        for n in range(3):
            self.write(f"saved/files/ü {n}.png", b"\x89PNG\r\n\x1a\n")
        links = "".join(f'<img src="{SITE}files/%C3%BC {n}.png" alt="">' for n in range(3))
        self.write(
            "saved/plums.html", f"<!DOCTYPE html><title>Plums</title><main>{links}</main>"
        )
        self.assertEqual(self.survey("saved")["site"]["address"], SITE)
        self.run_ok("move", "saved", "--to", "lanternlog", "--out", "m")
        old = {row["old"] for row in rows(self.folder / "m/redirects/addresses.csv")}
        self.assertIn(f"{SITE}files/%C3%BC%202.png", old)

    def test_too_little_to_go_by(self) -> None:
        elsewhere = [f"https://other.example/{n}" for n in range(9)]
        alike = [f"https://other.example/{name}" for name in ("apples", "plums", "pears/late")]
        for links in (
            (f"{SITE}apples", f"{SITE}plums"),
            (*elsewhere, *alike),
            ("https://a.example/", "https://b.example/index.html", "https://c.example/"),
            ("file:///srv/apples.html", "mailto:a@b.example", "plums.html"),
        ):
            with self.subTest(links):
                found = self.saved(*links)
                self.assertIn("site-address-unknown", self.codes(found))
