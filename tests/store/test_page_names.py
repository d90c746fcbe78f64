"""Pages by the names that links use, and such links moved by the real program."""

from newburrow.model import Entry
from newburrow.store.content_store import Store
from newburrow.store.new_store import NewStore
from tests.helpers import SITE, FolderCase, item, rows, rss

DIALECT = """
name = "wiki"
format = "rss"
[namespaces]
w = "urn:w"
[entry]
slug = "w:slug"
markup = "creole"
"""


class Names(FolderCase):
    def addresses(self, *entries: Entry) -> Store:
        path = self.folder / "content.sqlite"
        with NewStore(path) as new:
            for entry in entries:
                new.add(entry)
            new.finish(dict)
            new.commit()
        store = Store(path)
        self.addCleanup(store.__exit__)
        return store

    def test_which_page_a_name_is_of(self) -> None:
        names = self.addresses(
            Entry(key="1", title="Owl  Box", slug="owls", permalink="/1/"),
            Entry(key="2", title="owl box", kind="wiki-page", permalink="/2/"),
            Entry(key="3", title="Pears", kind="wiki-page", addresses=("/3/",)),
            Entry(key="4", title="Pears", kind="wiki-page", permalink="/4/"),
            Entry(key="5", title="Nowhere", slug=""),
        )
        for name, wanted in (
            ("Owl Box", "/2/"), ("owl_box", "/2/"), (" OWL BOX ", "/2/"), ("owls", "/1/"), ("Pears", "/3/"),
            ("Nowhere", ""), ("", ""), ("Owl", ""), ("%", ""),
        ):  # fmt: skip
            self.assertEqual(names.page_names.address(name), wanted, name)

    def test_links_by_name_lead_to_the_new_address(self) -> None:
        slug = "<w:slug xmlns:w='urn:w'>{}</w:slug>"
        self.write("dialect.toml", DIALECT)
        self.write("feed.xml", rss(
                item("Owl box", f"{SITE}w?page=1", "See [[The Pear Walk#map|the walk]].", slug.format("owl-box")),
                item("The pear walk", f"{SITE}w?page=2", "To [[owl_box]] and [[Nobody]].", slug.format("pear-walk")),
                head=f"<link>{SITE}</link>"))  # fmt: skip
        self.run_ok(
            "move", "feed.xml", "--dialect", "dialect.toml", "--to", "lanternlog", "--out", "m"
        )
        feed = (self.folder / "m/new/lanternlog-import.atom").read_text()
        self.assertIn(f'href="{SITE}leaves/pear-walk#map"', feed)
        self.assertIn(f'href="{SITE}leaves/owl-box"', feed)
        dead = [
            row["what"]
            for row in rows(self.folder / "m/follow-ups.csv")
            if row["kind"] == "red-link"
        ]
        self.assertEqual(len(dead), 1)
        self.assertIn("Nobody", dead[0])
