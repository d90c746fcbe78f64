"""The walk through a small wiki, of which one page is left out."""

import json

from tests.helpers import FolderCase, rows

PAGES = {
    "Home": "To [[A]] and [[Nowhere]].",
    "A": "To [[B]]. {{a.png}}",
    "B": "To [[C]].",
    "C": "The end, and [[Home]].",
    "Island": "To [[A]]. {{i.png}}",
}


class Walk(FolderCase):
    def test_before_and_after(self) -> None:
        self.write(
            "w/site.json",
            '{"title": "W", "address": "https://w.example/", "front_page": "Home"}',
        )
        for name, text in PAGES.items():
            self.write(f"w/pages/{name}.creole", text)
        for page, name in (("A", "a.png"), ("Island", "i.png"), ("B", "never.png")):
            self.write(f"w/shelf/{page}/{name}", f"\x89PNG {name}")
        self.run_ok("draft", "w", "--to", "plainleaf", "--out", "m")
        toml = (self.folder / "m/move.toml").read_text()
        self.write("m/move.toml", toml + '\n[[choose.leave]]\nitems = ["B"]\n')
        outcome = json.loads(self.run_ok("move", "m", "--json"))
        self.assertEqual(
            outcome["walk"]["before"],
            {"reached": 4, "unreached": 1, "dead_links": 1, "unshown_files": 1},
        )
        # C was reached by B alone; the link to B leads nowhere now
        self.assertEqual(
            outcome["walk"]["after"],
            {"reached": 2, "unreached": 2, "dead_links": 2, "unshown_files": 1},
        )
        found = {(row["what"], row["title"]): row for row in rows(self.folder / "m/walk.csv")}
        self.assertEqual(found["page not reached", "C"]["before"], "reached")
        self.assertEqual(found["page not reached", "C"]["after"], "not reached")
        self.assertEqual(found["page not reached", "Island"]["before"], "not reached")
        self.assertEqual(found["dead link", "A"]["before"], "leads to a page that is left out")
        self.assertEqual(found["dead link", "Home"]["detail"], "Nowhere")
        self.assertEqual(found["file not shown", "never.png"]["detail"], "B")
        self.assertIn("2 of 4 pages reached", self.run_ok("move", "m"))
        self.assertIn('id="walk"', (self.folder / "m/report.html").read_text())
