"""A wiki whose menu alone says what is under what, and links to older versions of its pages."""

from newburrow.model import Entry
from newburrow.store.content_store import Store
from tests.helpers import FolderCase, rows

MENU = """* [[Start]]
* [[Fruit]]
** [[Apples]]
*** [[Russet]]
** [[Pears]]
* [[Apples]]
** [[Fruit]]
"""


class Tree(FolderCase):
    def pages(self, **texts: str) -> dict[str, str]:
        """The parents of the pages of a wiki by their titles, after a move to a host with a tree."""
        names = {"Start": "[[Fruit]]", "Fruit": "f", "Apples": "a", "Russet": "r", "Pears": "p"}
        for name, text in {**names, "Menu": MENU, **texts}.items():
            self.write(f"w/pages/{name}.creole", text)
        self.write("w/site.json", '{"title": "Wiki", "address": "https://wiki.example/"}')
        self.run_ok("move", "w", "--to", "sedgewiki", "--out", "m")
        with Store(self.folder / "m/content.sqlite") as store:
            titles = {entry.key: entry.title for entry in store.all(Entry)}
            return {entry.title: titles.get(entry.parent, "") for entry in store.all(Entry)}

    def test_lines_below_others(self) -> None:
        parents = self.pages()
        self.assertEqual(
            parents,
            {"Start": "", "Fruit": "", "Apples": "Fruit", "Russet": "Apples", "Pears": "Fruit", "Menu": ""},
        )  # fmt: skip

    def test_a_page_that_says_it_itself_settles_it(self) -> None:
        parents = self.pages(Pears="---\nparent: Start\n---\np")
        self.assertEqual(parents["Pears"], "Start")
        self.assertEqual(parents["Apples"], "")

    def test_links_to_older_versions(self) -> None:
        self.pages(
            Start="[[Pears?version=3|then]] [[https://wiki.example/pool/Apples?version=2#graft|a]]"
        )
        redirects = {
            row["old"]: row["new"] for row in rows(self.folder / "m/redirects/addresses.csv")
        }
        for old, page in (("Pears?version=3", "Pears"), ("Apples?version=2", "Apples")):
            self.assertEqual(
                redirects[f"https://wiki.example/pool/{old}"],
                redirects[f"https://wiki.example/pool/{page}"],
            )
        self.assertIn(
            "older-version", {row["kind"] for row in rows(self.folder / "m/follow-ups.csv")}
        )
        self.assertNotIn(
            "dead-link", {row["kind"] for row in rows(self.folder / "m/follow-ups.csv")}
        )
