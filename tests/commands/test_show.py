import json

from tests.helpers import SITE, FolderCase, demo_export, item, rss


class Showing(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.write("export.zip", demo_export())

    def key(self, word: str) -> str:
        return json.loads(self.run_ok("show", "export.zip", word, "--json"))["record"]["key"]

    def test_by_whatever_is_at_hand(self) -> None:
        for word in ("59", "how-to-graft", "How to graft: whip & tongue in nine steps", "WHIP & TONGUE", "/?entry=59",
                     SITE + "2022-02-26/how-to-graft", "2022-02-26/grafting-for-beginners", SITE + "?entry=59#labels"):  # fmt: skip
            self.assertEqual(self.key(word), "59", word)
        self.assertEqual(self.key("/files/2021/hill-06.png"), self.key("hill-06"))

    def test_the_whole_item(self) -> None:
        printed = self.run_ok("show", "export.zip", "how-to-graft")
        for words in ("in export/mistlebank.xml in export.zip, line 573", "Marta Quill", "Grafting (category), Grafting (tag)",
                      "published:        2022-02-26T10:00:00+00:00", "field search-description: Whip", "body (html):\n<p><img",
                      "5 comments:", "files/2023/graft-02.png"):  # fmt: skip
            self.assertIn(words, printed)
        self.assertIn(
            "not in the model, weather: sleet",
            self.run_ok("show", "export.zip", "a note without"),
        )
        self.assertIn("Our trees (11)", self.run_ok("show", "export.zip", "tree-map"))
        self.assertIn("digest:", self.run_ok("show", "export.zip", "lantern-again"))

    def test_none_and_several(self) -> None:
        self.assertIn(
            "2 items fit 'open-day':\n  101  post  2023-05-06  Open day  mistlebank.example/2023-05-06/open-day\n  104  post  2023-05-20  Open day  ",
            self.refused("show", "export.zip", "open-day"),
        )
        self.assertIn("Did you mean 'Visit us'?", self.refused("show", "export.zip", "Vist us"))

    def test_threads_are_set_in(self) -> None:
        comments = "<r:reply id='1'><r:text>one</r:text><r:reply id='2'><r:text>two</r:text></r:reply></r:reply>"
        self.write(
            "e.xml",
            rss(
                item("A", SITE + "a", extra=comments),
                attributes='xmlns:r="https://reedpost.example/ns/archive/2"',
            ),
        )
        printed = self.run_ok("show", "e.xml", "A")
        self.assertIn("\n  one\n  anonymous, no date, approved (comment 2)\n    two\n", printed)
