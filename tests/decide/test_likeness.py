"""The next site with the decisions of the last one."""

from pathlib import Path

from tests.helpers import SITE, FolderCase, item, rows, rss

DC = 'xmlns:dc="http://purl.org/dc/elements/1.1/"'
RULES = """
[[rules]]
about = "owls"
when = { terms = ["Owl", "Nowhere"] }
set = { kind = "page" }

[[rules]]
when = { words = ["pear"] }
set = { author = "Nobody Here" }

[[rules]]
when = { terms = ["Only there"] }
set = { title = "x" }

[[fields]]
old = "soil"
new = "ground"

[[fields]]
old = "entry.summary"
new = "short"

[[choose.leave]]
terms = ["Only there"]

[[choose.leave]]
kinds = ["page"]
words = ["draft"]
"""


class Like(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        tags = "<category>Owl</category><category>Pears</category><dc:creator>Nell</dc:creator>"
        lost = "<category>Only there</category><category>Nowhere</category><dc:creator>Nobody Here</dc:creator>"
        self.write(
            "one.xml", rss(item("A", SITE + "a", "<p>a</p>", tags + lost), attributes=DC)
        )
        self.write("two.xml", rss(item("B", SITE + "b", "<p>b</p>", tags), attributes=DC))
        self.run_ok("draft", "one.xml", "--to", "reedpost", "--out", "first", "--entries")
        self.first = self.folder / "first"

    def change(self, name: str, *pairs: tuple[str, str]) -> None:
        path = self.first / name
        text = path.read_text()
        for old, new in pairs:
            self.assertIn(old, text)
            text = text.replace(old, new)
        path.write_text(text)

    def drafted(self, *words: str) -> Path:
        self.run_ok("draft", "two.xml", "--like", "first", "--out", "second", *words)
        return self.folder / "second"

    def unfit(self) -> list[tuple[str, str]]:
        return [
            (row["file"], row["decision"])
            for row in rows(self.folder / "second/not-taken-over.csv")
        ]

    def test_settings_rules_and_tables(self) -> None:
        self.change("move.toml", ('of_unsigned = ""', 'of_unsigned = "Nell"'), ('files = "content"', 'files = "all"'),
                    ("[choose.only]", "[choose.only]\nstates = ['published']"))  # fmt: skip
        (self.first / "move.toml").write_text((self.first / "move.toml").read_text() + RULES)
        self.change(
            "terms.csv",
            ("Pears,,1,keep,,,", "Pears,,1,rename,Pear trees,,"),
            ("there,tag,Only there,,1,keep,,,", "there,tag,Only there,,1,drop,,,"),
        )
        self.change("authors.csv", ("Nell,,1,keep,", "Nell,,1,keep,Nell Birch"))
        second = self.drafted()
        text = (second / "move.toml").read_text()
        for words in ('of_unsigned = "Nell"', 'files = "all"', 'states = ["published"]', 'terms = ["Owl"]', 'new = "short"',
                      'words = ["draft"]', 'host = "reedpost"', "# Which comments move"):  # fmt: skip
            self.assertIn(words, text)
        self.assertEqual(text.count("\n[[rules]]"), 1)
        self.assertEqual(text.count("\n[[choose.leave]]"), 1)
        terms = {
            row["name"]: (row["action"], row["new_name"]) for row in rows(second / "terms.csv")
        }
        self.assertEqual(terms, {"Owl": ("keep", ""), "Pears": ("rename", "Pear trees")})
        self.assertEqual(
            [row["new_name"] for row in rows(second / "authors.csv")], ["Nell Birch"]
        )
        self.assertEqual(
            self.unfit(),
            [
                ("move.toml", "choose.leave 1: terms 'Only there'"),
                ("move.toml", "the field 'soil'"),
                ("move.toml", "rule 1 (owls): terms 'Nowhere'"),
                ("move.toml", "rule 2"),
                ("move.toml", "rule 3: terms 'Only there'"),
                ("entries.csv", "the whole table"),
                ("terms.csv", "tag Only there: drop"),
            ],
        )
        self.run_ok("move", "second")
        self.assertEqual(
            {
                row["new_address"].rpartition("/")[2]
                for row in rows(second / "ledger.csv")
                if row["kind"] == "post"
            },
            {"b"},
        )

    def test_a_condition_that_would_choose_more_is_kept_whole(self) -> None:
        self.change("move.toml", ("[choose.only]", '[choose.only]\nterms = ["Only there"]'))
        self.drafted()
        self.assertIn("choose.only: terms 'Only there'", [what for _file, what in self.unfit()])
        self.assertIn("no term 'Only there'", self.refused("move", "second"))

    def test_another_host_takes_what_it_can(self) -> None:
        self.change("move.toml", ('post = "post"', 'post = "page"'))
        second = self.drafted("--to", "quarrydesk")
        self.assertIn('host = "quarrydesk"', (second / "move.toml").read_text())
        self.run_ok("move", "second")

    def test_what_is_refused(self) -> None:
        self.drafted()
        for words, said in (
            (("--like", "first", "--out", "second"), "has decisions already"),
            (("--like", "nowhere", "--out", "third"), "There is no move folder 'nowhere'"),
            (("--out", "third"), "The new host is missing"),
        ):
            self.assertIn(said, self.refused("draft", "two.xml", *words))
