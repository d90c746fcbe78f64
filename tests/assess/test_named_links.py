"""What names in the links of a wiki mean."""

from newburrow.assess.named_links import NamedLinks
from newburrow.dialects.schema import Dialect, WikiMap
from newburrow.model import Entry, Media, Site
from newburrow.store.content_store import Store
from newburrow.store.new_store import NewStore
from tests.helpers import FolderCase, rows

SITE = "https://w.example/"
PAGES = (
    "Owl box",
    "C#",
    "What is it?",
    "Talk: Pears",
    "Tools",
    "Tools/Saw",
    "Tools/Saw/Blade",
    "pears",
    "Pears",
)
WIKI = WikiMap(
    other_wikis={"fen": "https://fen.example/{name}"}, parent_mark="/", file_prefixes=["shelf"]
)


class Names(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        path = self.folder / "content.sqlite"
        with NewStore(path) as new:
            new.add(Site(key="site", address=SITE))
            for number, name in enumerate(PAGES):
                new.add(Entry(key=name, kind="wiki-page", title=name, permalink=f"{SITE}{number}",
                              addresses=(f"{SITE}Old%20owls",) if number == 0 else ()))  # fmt: skip
            for page in ("Owl box", "Tools"):
                new.add(Media(key=f"{page} plan", path=f"shelf/{page}/plan.png", entry=page))
            new.finish(dict)
            new.commit()
        store = Store(path)
        self.addCleanup(store.__exit__)
        self.names = NamedLinks(
            store.page_names, [Dialect(name="d", format="creole", wiki=WIKI)]
        )

    def test_links(self) -> None:
        on_saw = self.names.at(f"{SITE}5")
        for target, wanted in (
            ("Owl box", f"{SITE}0"), ("owl_BOX", f"{SITE}0"), ("Old owls", f"{SITE}0"), ("Owl box#The Size", f"{SITE}0#the-size"),
            ("C#", f"{SITE}1"), ("C##why", f"{SITE}1#why"), ("What is it?", f"{SITE}2"), ("Talk: Pears", f"{SITE}3"),
            ("Tools/Saw", f"{SITE}5"), ("./Blade", f"{SITE}6"), ("/Blade", f"{SITE}6"), ("..", None), ("../", f"{SITE}4"),
            ("../../Owl box", f"{SITE}0"), ("Pears", f"{SITE}8"), ("pears", f"{SITE}7"),
            ("fen:Hedge rows", "https://fen.example/Hedge%20rows"), ("nofen:Hedge", None), ("Nobody", None), ("Nobody#x", None),
            ("#Some part", "#some-part"), ("", ""), ("/a/path", "/a/path"), ("https://x.example/a b", "https://x.example/a b"),
            ("mailto:a@b.example", "mailto:a@b.example"), ("javascript:alert(1)", "javascript:alert(1)"),
            ("Owl box/plan.png", f"{SITE}shelf/Owl%20box/plan.png"), ("shelf:Owl box/plan.png", f"{SITE}shelf/Owl%20box/plan.png"),
        ):  # fmt: skip
            self.assertEqual(on_saw.link(target), wanted, target)

    def test_pictures_of_the_page_come_first(self) -> None:
        self.assertEqual(
            self.names.at(f"{SITE}0").file("plan.png"), f"{SITE}shelf/Owl%20box/plan.png"
        )
        self.assertEqual(
            self.names.at(f"{SITE}4").file("plan.png"), f"{SITE}shelf/Tools/plan.png"
        )
        self.assertEqual(self.names.at(f"{SITE}5").file("plan.png"), "plan.png")


class NamesWithSigns(FolderCase):
    """Pages and files whose names hold signs that names of files, or addresses, cannot have."""

    def test_files_and_versions_of_such_pages(self) -> None:
        self.write("w/site.json", '{"title": "W", "address": "https://w.example/"}')
        pages = {
            "C%23": "C#",
            "A%2FB": "A/B",
            "What%3F": "What?",
            "50%25 off": "50% off",
            "index": "index",
        }
        for number, (file, name) in enumerate(pages.items()):
            links = f"[[p#{number}.png|x]] {{{{p#{number}.png|y}}}} [[shelf:{name}/p#{number}.png|z]]"
            self.write(f"w/pages/{file}.creole", f"{links}\n")
            self.write(f"w/versions/{file}/1.creole", "Earlier words.\n")
            self.write(f"w/shelf/{file}/p#{number}.png", f"\x89PNG {number}")
        for host in ("tarnwiki", "sedgewiki"):
            done = self.run_ok("move", "w", "--to", host, "--out", host)
            self.assertRegex(done, r"wiki-page +5 +5 +–")
            self.assertRegex(done, r"media +5 +5 +–")
            self.assertRegex(done, r"revision +5 +")
            kinds = {row["kind"] for row in rows(self.folder / host / "follow-ups.csv")}
            self.assertFalse(kinds & {"red-link", "missing-picture", "file-apart", "dead-link"})
            for row in rows(self.folder / host / "redirects/addresses.csv"):
                self.assertNotRegex(row["new"], r"[#?]")
            self.run_ok("verify", host)
