"""A dialect drafted from plain records reads them: what was guessed is what a person would have written."""

import unittest

from newburrow.markup.guess import guess
from tests.helpers import FolderCase

TABLES = {
    "articles.csv": "id,title,slug,body,created_at,author_id,status,tags,mood,cover_id\n"
    '1,How to graft,how-to-graft,"<p>Cut & bind.</p>",2021-03-01 10:00:00,7,live,"grafting,pears",fine,11\n'
    '2,Pressing,pressing,"<p>Press apples.</p>",2021-04-01 10:00:00,8,sketch,"cider,harvest",wet,\n'
    '3,Owls,owls,"<p>They are back.</p>",2021-05-01 10:00:00,7,live,"owls,pears",fine,12\n',
    "comments.csv": "id,article,name,email,message,at,approved\n1,1,Jory,jory@mistlebank.example,Well done!,2021-03-02 10:00,yes\n"
    "2,1,Nell,,Thanks,2021-03-02 11:00,yes\n",
    "users.csv": "id,display_name,email,bio\n7,Nell Birch,nell@mistlebank.example,Grafts\n8,Hob Larkin,hob@mistlebank.example,\n",
    "images.csv": "id,url,alt\n11,/files/graft.png,A graft\n12,/files/owl.png,An owl\n",
    "categories.csv": "id,name,slug\n1,Orchard,orchard\n2,Wildlife,wildlife\n",
    "article_categories.csv": "article,category_id\n1,1\n2,1\n3,2\n",
}
JSON = """{"site": {"title": "Mistle Bank", "url": "https://mistlebank.example/"}, "posts": [
 {"key": "a1", "headline": "Grafting", "text": "# Cut\\n\\n**bind** it", "posted": 1614592800, "author": {"name": "Nell"},
  "labels": ["x", "y"], "replies": [{"id": 1, "by": "Jory", "said": "Well done", "at": 1614592900}],
  "props": [{"name": "soil", "value": "clay"}]},
 {"key": "a2", "headline": "Owls", "text": "# Owls\\n\\nare **back**", "posted": 1614692800, "author": {"name": "Hob"},
  "labels": ["y"], "replies": [], "odd\\n[x]": "1"}]}"""
XML = """<export xmlns:o="urn:orchard"><info><title>Mistle Bank</title><url>https://mistlebank.example/</url></info>
<articles><article number="1" state="live"><headline>Grafting</headline><o:text>&lt;p&gt;Cut&lt;/p&gt;</o:text>
<date>2021-03-01T10:00:00Z</date><writer>Nell</writer><tags><tag>pears</tag><tag>graft</tag></tags>
<responses><response><by>Jory</by><said>Fine</said></response><response><by>Hob</by><said>Good</said></response></responses>
</article><article number="2" state="sketch"><headline>Owls</headline><date>2021-04-01T10:00:00Z</date><writer>Hob</writer>
</article></articles></export>"""


class Drafting(FolderCase):
    def drafted(self, name: str) -> tuple[str, dict]:  # type: ignore[type-arg]
        text = self.run_ok("dialects", "--draft-from", name)
        self.write("draft.toml", text)
        return text, self.survey(name, "--dialect", "draft.toml")

    def test_tables_that_refer_to_each_other(self) -> None:
        for name, text in TABLES.items():
            self.write(f"export/{name}", text)
        text, found = self.drafted("export")
        self.assertEqual(
            found["counts"],
            {"post": 3, "comment": 2, "author": 2, "tag": 5, "category": 2, "media": 2},
        )
        self.assertEqual(
            found["states"], {"post": {"published": 2, "draft": 1}, "comment": {"approved": 2}}
        )
        authors = [(author["name"], author["entries"]) for author in found["authors"]]
        self.assertEqual(authors, [("Nell Birch", 2), ("Hob Larkin", 1)])
        terms = {(term["vocabulary"], term["name"]): term["entries"] for term in found["terms"]}
        self.assertEqual((terms["category", "Orchard"], terms["tag", "pears"]), (2, 2))
        for words in (
            'take.lead_picture = "cover_id"',
            "# mood",
            'split.tag = ","',
            "# approved",
            'of = "relation"',
        ):
            self.assertIn(words, text)

    def test_all_in_one_json_file(self) -> None:
        self.write("all.json", JSON)
        text, found = self.drafted("all.json")
        self.assertEqual(found["counts"], {"post": 2, "comment": 1, "author": 2, "tag": 2})
        self.assertEqual(
            (found["site"]["title"], found["first"][:10]), ("Mistle Bank", "2021-03-01")
        )
        for words in (
            'markup = "markdown"',
            'forms = ["unix"]',
            '[[records.pairs]]\nelement = "$.props[*]"',
            "# odd\\u000A[x]",
        ):
            self.assertIn(words, text)

    def test_xml_of_any_shape(self) -> None:
        self.write("all.xml", XML)
        _text, found = self.drafted("all.xml")
        self.assertEqual(found["counts"], {"post": 2, "comment": 2, "author": 2, "tag": 2})
        self.assertEqual(found["states"]["post"], {"published": 1, "draft": 1})
        self.assertEqual([one["code"] for one in found["findings"]], ["no-slug"])

    def test_json_lines_and_one_file_an_entry(self) -> None:
        self.write(
            "posts.jsonl",
            '{"id": 1, "title": "Pears", "body": "a"}\n{"id": 2, "title": "Owls", "body": "b"}\n',
        )
        self.assertEqual(self.drafted("posts.jsonl")[1]["counts"], {"post": 2})
        for number in (1, 2, 3):
            self.write(
                f"e/pages/{number}.json",
                f'{{"id": {number}, "title": "Page {number}", "content": "x"}}',
            )
        text, found = self.drafted("e")
        self.assertIn('file = "pages/*.json"', text)
        self.assertEqual(found["counts"], {"post": 3})

    def test_what_means_nothing_is_said(self) -> None:
        self.write("odd.json", '{"things": [{"q": 1}, {"q": 2}]}')
        text = self.run_ok("dialects", "--draft-from", "odd.json")
        self.assertIn("# Not guessed: things", text)
        self.write("bad.json", '{"posts": [{"id": 1},')
        self.assertIn("newburrow mend", self.refused("dialects", "--draft-from", "bad.json"))


class Markups(unittest.TestCase):
    def test_by_its_signs(self) -> None:
        for text, name in (
            ("<p>a</p>", "html"), ("one <b>b</b>\n\ntwo", "html-lines"), ("# Title\n\ntext", "markdown"),
            ("h2. Title\n\ntext", "textile"), ("== Title\n[[Page]]", "creole"), ("Only words.", "text"), ("", "text"),
        ):  # fmt: skip
            self.assertEqual(guess(text), name, text)
