"""Pages of a wiki that are about a category, and terms that no entry has: what they become on each host."""

from newburrow.convert import category_page
from newburrow.dialects.page_name import name_in
from newburrow.formats.exports.category_pages import with_categories
from newburrow.model import Body, Entry
from newburrow.model.reading import Relation
from tests.helpers import FolderCase, item, rows

DIALECT = """name = "fen"
extends = "tarnwiki"
[wiki]
category = "Kind: {name}"
discussion = "{name} (talk)"
"""
DATE = "---\ndate: 2014-05-01T10:00:00Z\n---\n"
PAGES = {
    "Bow saw": "Cuts. See [[Kind: Tools]].\n\n[[Kind: Tools]], [[Kind: Sharp/edged things|sharp]]\n",
    "Tools%2FOwl box": "A home.\n\n[[Kind: Tools]]\n",
    "Tools%2FOwl box (talk)": "How high?\n",
    "Kind%3A Tools": "All //tools//, and 1 < 2 & 3.\n\n[[Kind: Gear]]\n",
    "Kind%3A Empty": "Nothing is filed here.\n",
}
# Hosts that keep descriptions of terms, and where the list of one is.
LISTS = {
    "reedpost": "/marks/{}/",
    "sedgewiki": "/w-labels/{}",
    "bag": "/terms/{}/",
}


class CategoryPages(FolderCase):
    """Moved with the built program."""

    def setUp(self) -> None:
        super().setUp()
        self.write("fen.toml", DIALECT)
        self.write("wiki/site.json", '{"title": "Fen", "address": "https://fen.example/"}')
        for name, text in PAGES.items():
            self.write(f"wiki/pages/{name}.creole", DATE + text)

    def move(
        self, host: str, category_pages: str, verify: bool = True
    ) -> dict[str, dict[str, str]]:
        self.run_ok("draft", "wiki", "--dialect", "fen.toml", "--to", host, "--out", host)
        path = self.folder / host / "move.toml"
        said = path.read_text().replace(
            'category_pages = "pages"', f'category_pages = "{category_pages}"'
        )
        path.write_text(
            said.replace('discussion_pages = "pages"', 'discussion_pages = "comments"')
        )
        self.run_ok("move", host)
        if verify:
            self.run_ok("verify", host)
        return {row["title"]: row for row in rows(self.folder / host / "ledger.csv")}

    def test_the_survey_counts_categories(self) -> None:
        self.assertEqual(self.survey("wiki", "--dialect", "fen.toml")["counts"]["category"], 4)

    def test_their_list_takes_the_place_of_the_page(self) -> None:
        for host, lists in LISTS.items():
            with self.subTest(host):
                fates = self.move(host, "terms")
                redirects = {
                    row["old"]: row["new"]
                    for row in rows(self.folder / host / "redirects" / "addresses.csv")
                }
                for name in ("Tools", "Empty"):
                    there = "https://fen.example" + lists.format(name.lower())
                    self.assertEqual(fates[f"Kind: {name}"]["fate"], "merged")
                    self.assertEqual(fates[f"Kind: {name}"]["new_address"], there)
                    self.assertEqual(fates[name]["fate"], "moved")
                    self.assertEqual(
                        redirects[f"https://fen.example/pool/Kind%3A%20{name}"], there
                    )
                self.assertIn(
                    "comment on “Tools/Owl box”", fates["Tools/Owl box (talk)"]["reason"]
                )

    def test_a_script_in_the_text_of_such_a_page_is_no_script_in_the_description(self) -> None:
        self.write("wiki/pages/Kind%3A Tools.creole", DATE + "No <script>alert(1)</script>.\n")
        self.move("reedpost", "terms", verify=False)
        written = (self.folder / "reedpost" / "new" / "reedpost-import-1.xml").read_text()
        self.assertIn("<rp:about>No &amp;lt;script", written)

    def test_what_readers_may_not_see_describes_nothing_and_is_no_comment(self) -> None:
        secret = "---\ndate: 2014-05-01T10:00:00Z\nstatus: draft\n---\nFor our eyes only.\n"
        self.write("wiki/pages/Kind%3A Tools.creole", secret)
        self.write("wiki/pages/Tools%2FOwl box (talk).creole", secret)
        self.write("wiki/pages/Kind%3A Empty.creole", DATE + "Left behind.\n")
        self.run_ok("draft", "wiki", "--dialect", "fen.toml", "--to", "reedpost", "--out", "m")
        path = self.folder / "m" / "move.toml"
        said = path.read_text().replace('category_pages = "pages"', 'category_pages = "terms"')
        said = said.replace('discussion_pages = "pages"', 'discussion_pages = "comments"')
        path.write_text(said + '\n[[choose.leave]]\nitems = ["Kind: Empty"]\n')
        self.run_ok("move", "m")
        self.run_ok("verify", "m")
        written = (self.folder / "m/new/reedpost-import-1.xml").read_text()
        self.assertNotIn("<rp:about>", written)
        self.assertNotIn("<rp:reply", written)
        self.assertNotIn("Left behind.", written)
        fates = {row["title"]: row["fate"] for row in rows(self.folder / "m/ledger.csv")}
        self.assertEqual(fates["Kind: Empty"], "left-out")
        self.assertEqual(
            (fates["Kind: Tools"], fates["Tools/Owl box (talk)"]), ("moved", "moved")
        )

    def test_a_page_about_one_that_is_left_out_stays_a_page(self) -> None:
        self.run_ok("draft", "wiki", "--dialect", "fen.toml", "--to", "reedpost", "--out", "m")
        path = self.folder / "m" / "move.toml"
        said = path.read_text().replace(
            'discussion_pages = "pages"', 'discussion_pages = "comments"'
        )
        path.write_text(said + '\n[[choose.leave]]\nitems = ["Tools/Owl box"]\n')
        self.run_ok("move", "m")
        self.run_ok("verify", "m")
        fates = {row["title"]: row["fate"] for row in rows(self.folder / "m/ledger.csv")}
        self.assertEqual(fates["Tools/Owl box"], "left-out")
        self.assertEqual(fates["Tools/Owl box (talk)"], "moved")
        self.assertIn("How high?", (self.folder / "m/new/reedpost-import-1.xml").read_text())

    def test_they_stay_pages_where_terms_have_no_descriptions_and_where_that_was_decided(
        self,
    ) -> None:
        for host, decided in (("lanternlog", "terms"), ("reedpost", "pages")):
            with self.subTest(host):
                fates = self.move(host, decided)
                self.assertEqual(fates["Kind: Tools"]["fate"], "moved")
                self.assertEqual(fates["Tools"]["fate"], "moved")


class Filing(FolderCase):
    """What links to the pages of categories say."""

    def filed(self, markup: str, text: str) -> tuple[str, list[str]]:
        page = Entry(key="p", title="Bow saw", kind="wiki-page", body=Body(text, markup=markup))
        found = list(with_categories(page, "Kind: {name}"))
        entry = next(record for record in found if isinstance(record, Entry))
        return entry.body.text, [
            record.word for record in found if isinstance(record, Relation)
        ]

    def test_a_paragraph_of_such_links_files_the_page_and_is_not_shown(self) -> None:
        for markup, text, left in (
            ("creole", "Cuts.\n\n[[Kind: Tools]]\n[[Kind: Gear|all gear]]", "Cuts."),
            ("markdown", "Cuts.\n\n[Kind: Tools](/k), [Kind: Gear](/g)\n", "Cuts."),
            (
                "html",
                '<p>Cuts.</p>\n<p class="k"><a href="/k">Kind: Tools</a> · <a href="/g">Kind: Gear</a></p>',
                "<p>Cuts.</p>",
            ),
        ):
            with self.subTest(markup):
                self.assertEqual(self.filed(markup, text), (left, ["Tools", "Gear"]))

    def test_links_among_words_and_to_other_pages_are_links(self) -> None:
        for text in (
            "See [[Kind: Tools]].",
            "[[Kind: Tools]] [[Owl box]]",
            "* [[Kind: Tools]]",
            "Kind: Tools",
        ):
            with self.subTest(text):
                self.assertEqual(self.filed("creole", text), (text, []))

    def test_a_text_that_cannot_be_read_describes_as_it_stands(self) -> None:
        deep = Entry(
            key="p", title="Kind: Deep", body=Body("<div>" * 20_000 + "words", markup="html")
        )
        made = category_page.description(deep)
        self.assertFalse(made.is_whole)
        self.assertIn("words", made.text)
        self.assertNotIn("<", made.text)

    def test_a_name_holds_any_sign(self) -> None:
        self.assertEqual(name_in("{name} (talk)", "C#/What? (talk)"), "C#/What?")
        self.assertEqual(name_in("{name} (talk)", " (talk)"), "")
        self.assertEqual(name_in("", "Pears"), "")


class TermsOfNoEntry(FolderCase):
    """A term above others that no entry has by itself."""

    def test_the_term_above_is_written(self) -> None:
        feed = (
            '<rss version="2.0" xmlns:rp="https://reedpost.example/ns/archive/2"><channel><title>Orchard</title>'
            "<link>https://mistlebank.example/</link>"
            + item(
                "Pears",
                "https://mistlebank.example/pears",
                "Words",
                '<category domain="topic">Pears</category>',
            )
            + '<rp:topic slug="Pears" shelf="topic" within="Fruit"><rp:name>Pears</rp:name></rp:topic>'
            '<rp:topic slug="Fruit" shelf="topic"><rp:name>Fruit</rp:name></rp:topic></channel></rss>'
        )
        self.write("site.xml", feed)
        for host in ("plainleaf", "quarrydesk"):
            with self.subTest(host):
                self.run_ok(
                    "move", "site.xml", "--dialect", "reedpost", "--to", host, "--out", host
                )
                self.run_ok("verify", host)
                found = self.survey(
                    f"{host}/new", *([] if host == "bag" else ["--dialect", host])
                )
                self.assertEqual(found["counts"]["category"], 2)
