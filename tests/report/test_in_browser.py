"""The report as Chromium shows it: by the rules for access, on a phone, with more rows than a browser can draw."""

import html
import json
import re
import subprocess
import unittest
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

import axe_core_python

from tests.helpers import FolderCase, demo_export, item, rss

AXE = (Path(axe_core_python.__file__).parent / "axe.min.js").read_text("utf-8")
ROWS = 250_000


def asked(page: str, script: str, width: int = 1280, inner: int = 0) -> Any:
    """What a script that is put at the end of a page gives to `say`. `inner` shows it in a frame of that width."""
    end = page.rindex("</body>")
    say = (
        "<script>function say(what) { document.body.textContent = 'SAID' + JSON.stringify(what) + 'DIAS'; }"
        f"</script><script>{script}</script>"
    )
    with TemporaryDirectory(ignore_cleanup_errors=True) as name:
        shown = Path(name) / "page.html"
        shown.write_text(page[:end] + say + page[end:], "utf-8")
        if inner:
            outer = Path(name) / "outer.html"
            outer.write_text(
                f"<!doctype html><body><iframe src='page.html' width='{inner}' height='800'></iframe><script>"
                "addEventListener('message', (event) => { document.body.textContent = event.data; });</script>"
            )
            shown = outer
        words = [
            "chromium", "--headless", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run",
            "--host-resolver-rules=MAP * ~NOTFOUND", f"--window-size={width},900", f"--user-data-dir={name}/profile",
            "--virtual-time-budget=30000", "--dump-dom", shown.as_uri(),
        ]  # fmt: skip
        dumped = subprocess.run(words, capture_output=True, text=True, timeout=110).stdout
    found = re.search("SAID(.*?)DIAS", dumped, re.DOTALL)
    assert found, dumped[:2000]
    return json.loads(html.unescape(found[1]))


class InBrowser(FolderCase):
    def report(self) -> str:
        self.write("export.zip", demo_export())
        self.run_ok("move", "export.zip", "--to", "lanternlog", "--out", "m")
        self.run_ok("verify", "m")  # puts the fidelity into it
        return (self.folder / "m/report.html").read_text("utf-8")

    def test_the_rules_for_access(self) -> None:
        axe = AXE.replace("</script", "<\\/script")
        run = (
            f"{axe};\nsetTimeout(() => axe.run(document, {{iframes: false}}).then((found) => "
            "say(found.violations.map((rule) => [rule.id, rule.nodes.map((node) => node.html)]))), 300);"
        )
        page = self.report()
        self.assertEqual(asked(page, run), [])
        dark = page.replace("(prefers-color-scheme: dark)", "(min-width: 1px)")
        self.assertEqual(asked(dark, run), [])
        self.run_ok("show", "m", "how-to-graft", "--html", "story.html")
        self.assertEqual(
            asked(
                (self.folder / "story.html")
                .read_text("utf-8")
                .replace("default-src 'none';", ""),
                run,
            ),
            [],
        )

    def test_no_sideways_scrolling_on_a_phone(self) -> None:
        told = asked(
            self.report(),
            "setTimeout(() => parent.postMessage('SAID' + JSON.stringify([document.documentElement.scrollWidth, "
            "innerWidth]) + 'DIAS', '*'), 500);",
            inner=360,
        )
        self.assertLessEqual(told[0], told[1])

    def test_each_of_very_many_rows_is_found(self) -> None:
        self.write("feed.xml", rss(item("A", "https://mistlebank.example/a")))
        self.run_ok("move", "feed.xml", "--to", "lanternlog", "--out", "m")
        page = (self.folder / "m/report.html").read_text("utf-8")
        begin = page.index('data-columns="kind title old new fate reason">')
        begin = page.index(">", begin) + 1
        rows = [
            ["post", f"entry {n}", f"https://mistlebank.example/{n}", "", "moved", ""]
            for n in range(ROWS)
        ]
        page = page[:begin] + json.dumps(rows) + page[page.index("</script>", begin) :]
        told = asked(
            page,
            "const list = lists.ledger; list.show('entry 249999', ''); const found = list.found.length;"
            "list.show('', ''); list.sort('title'); list.sort('title');"
            "say([found, list.found.length, list.body.rows.length, list.body.rows[0].cells[1].textContent]);",
        )
        self.assertEqual(told[:3], [1, ROWS, 100])
        self.assertTrue(told[3].startswith("entry 249999"))

    def test_counts_lead_to_their_rows_and_samples_are_stepped(self) -> None:
        told = asked(
            self.report(),
            "document.querySelector('[data-search=\\'kind:post\\'][data-tick=left-out]').click();"
            "const rows = [...document.querySelectorAll('#ledger tbody tr')].map((row) => row.textContent);"
            "const samples = document.querySelector('.samples'); const first = samples.querySelector('output').textContent;"
            "samples.dispatchEvent(new KeyboardEvent('keydown', {key: 'ArrowRight', bubbles: true}));"
            "say([rows, first, samples.querySelector('output').textContent, samples.querySelectorAll('iframe').length]);",
        )
        rows, first, second, frames = told
        self.assertEqual(len(rows), 2)
        self.assertTrue(all("left out" in row and row.startswith("post") for row in rows))
        self.assertTrue(first.startswith("1 of ") and second.startswith("2 of "))
        self.assertEqual(frames, 2)


if __name__ == "__main__":
    unittest.main()
