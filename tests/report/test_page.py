import json
import re

from newburrow.report import charts
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
        scripts = re.findall("<script[^>]*>", body)
        data = [script for script in scripts if 'type="application/json"' in script]
        self.assertEqual(len(scripts), len(data) + 1)
        for words in ("<img", "<b>x", 'href="javascript'):
            self.assertFalse(words in body, words)
        self.assertTrue("\\u003cscript>alert(1)" in body)

    def test_it_needs_nothing_from_elsewhere(self) -> None:
        page = self.report(item("A", SITE + "a"))
        self.assertEqual(
            re.findall(r'(?:src|href)="(?!#|https://mistlebank\.example)[^"]*', page), []
        )
        self.assertFalse("@import" in page)

    def test_every_row_is_in_the_page(self) -> None:
        page = self.report(*(item(f"entry {n}", f"{SITE}{n}") for n in range(3100)))
        found = re.search(
            r'data-columns="kind title old new fate reason">(.*?)</script>', page, re.S
        )
        assert found
        titles = {row[1] for row in json.loads(found[1])}
        self.assertLessEqual({f"entry {n}" for n in range(3100)}, titles)
        self.assertNotIn("<", found[1])

    def test_the_verdict_comes_first(self) -> None:
        page = self.report(item("A", SITE + "a", "<p><a href='/gone'>x</a></p>"))
        verdict = re.search(r'<p class="verdict good">(.*?)</p>', page)
        assert verdict
        self.assertEqual(
            verdict[1],
            "Every object is accounted for, and none failed; 2 things need a person.",
        )
        self.assertLess(verdict.end(), page.index("What to do next"))

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
