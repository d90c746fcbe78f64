import re

from newburrow.report import charts
from newburrow.report.page import MOST
from newburrow.report.pages import web_address
from tests.helpers import SITE, FolderCase, item, rss


class Reports(FolderCase):
    def report(self, *items: str) -> str:
        self.write("feed.xml", rss(*items))
        self.run_ok("move", "feed.xml", "--to", "lanternlog", "--out", "m")
        return (self.folder / "m/report.html").read_text("utf-8")

    def test_nothing_of_an_export_is_markup_in_it(self) -> None:
        evil = "<script>alert(1)</script>\"'><img src=x onerror=alert(1)>"
        page = self.report(
            item(
                evil,
                "javascript:alert(1)",
                f"<p>{evil}</p>",
                f"<category>{'&lt;b&gt;x'}</category>",
            )
        )
        body = page[page.index("<body>") :]
        self.assertEqual(len(re.findall("<script", body)), 1)
        for words in ("<img", "<b>x", 'href="javascript'):
            self.assertFalse(words in body, words)
        self.assertTrue("&lt;script&gt;alert(1)" in body)

    def test_it_needs_nothing_from_elsewhere(self) -> None:
        page = self.report(item("A", SITE + "a"))
        self.assertEqual(
            re.findall(r'(?:src|href)="(?!#|https://mistlebank\.example)[^"]*', page), []
        )
        self.assertFalse("@import" in page)

    def test_a_long_list_is_cut_and_says_so(self) -> None:
        page = self.report(*(item(f"entry {n}", f"{SITE}{n}") for n in range(MOST + 50)))
        self.assertTrue(
            f"{MOST:,} of {MOST + 51:,}, those that did not move first; all are in ledger.csv"
            in page
        )
        self.assertLess(len(page), 8_000_000)

    def test_only_web_addresses_can_be_clicked(self) -> None:
        self.assertEqual(web_address("javascript:alert(1)"), "")
        self.assertEqual(web_address("HTTPS://a.example/"), "HTTPS://a.example/")


class Charts(FolderCase):
    def test_the_same_numbers_give_the_same_bytes(self) -> None:
        years = {"2021": (15, 2), "2022": (11, 1)}
        first = charts.by_year(years)
        self.assertTrue(first.startswith("<svg"))
        self.assertEqual(charts.by_year(years), first)
        for words in ("2021", "move", "left out"):
            self.assertIn(words, first)
        self.assertEqual(charts.by_year({}), "")
