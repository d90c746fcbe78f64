import unittest

from hypothesis import given
from hypothesis import strategies as st

from newburrow.dialects.macros import arguments, look_like_macros, put_back, taken_out, uses
from newburrow.dialects.schema import Macro
from tests.helpers import FolderCase, item, rows, rss

MACROS = [
    Macro(name="row"),
    Macro(name="toc", form="brace"),
    Macro(name="x-note", form="tag"),
    Macro(name="@see", form="line"),
    Macro(name="row-two"),
]


def written(text: str) -> list[tuple[str, str, str]]:
    return [(use.macro.name, use.words.strip(), use.inner) for use in uses(text, MACROS)]


class Finding(unittest.TestCase):
    def test_each_form(self) -> None:
        for text, wanted in (
            ('a [row of="1,2"] b', [("row", 'of="1,2"', "")]),
            ("[row]in[/row] [ROW /]out[/row]", [("row", "", "in"), ("row", "", "")]),
            ('[row t="a]b"]', [("row", 't="a]b"', "")]),
            ("[row-two x] [rows] [row-three]", [("row-two", "x", "")]),
            ("{{toc depth=2}} {{tocs}}", [("toc", "depth=2", "")]),
            ("{{ toc }}<b>in</b>{{/toc}}", [("toc", "", "<b>in</b>")]),
            (
                "<p><x-note kind='a'>in <i>x</i></x-note></p>",
                [("x-note", "kind='a'", "in <i>x</i>")],
            ),
            ("<<x-note a>>", [("x-note", "a", "")]),
            ("one\n@see that\nno @see this", [("@see", "that", "")]),
            ("<p>@see that</p><p>not @see x</p>", [("@see", "that", "")]),
            ("<code>[row]</code><pre>\n@see x\n</pre>", []),
            ('<img alt="[row]"> &lt; [row]', [("row", "", "")]),
            ("[row][row]a[/row][/row]", [("row", "", "[row]a")]),
        ):
            self.assertEqual(written(text), wanted, text)

    def test_what_stands_in_one(self) -> None:
        self.assertEqual(
            arguments("of=&quot;1,2&quot; big a=b 'c d' x-y=\u201cz\u201d"),
            ({"of": "1,2", "a": "b", "x_y": "z"}, ["big", "c d"]),
        )

    def test_what_looks_like_one(self) -> None:
        text = '[row a=b] [form id="3"] [note] [quote]x[/quote] {{box}} [a](b) [1=2]'
        self.assertEqual(list(look_like_macros(text, "html", MACROS)), ["form", "quote", "box"])

    @given(st.text(alphabet="[]{}<>/rowtcx-note@see= \"'\n\ue0000\ue0011", max_size=60))
    def test_what_is_taken_out_can_be_put_back(self, text: str) -> None:
        bare, found = taken_out(text.replace("\ue000", ""), MACROS)
        self.assertEqual(
            put_back(bare, found, lambda use: use.written), text.replace("\ue000", "")
        )


DIALECT = """
name = "d"
format = "rss"
[[macros]]
name = "row"
do = "template"
template = '<div class="r">{% for w in words %}<i>{{ w }}</i>{% endfor %}{{ inner }}{{ title }}</div>'
[[macros]]
name = "box"
do = "inner"
[[macros]]
name = "ad"
do = "drop"
about = "an advertisement"
[[macros]]
name = "toc"
form = "brace"
"""


class Acting(FolderCase):
    def moved(self, body: str, markup: str = "html") -> tuple[str, list[str]]:
        self.write("d.toml", DIALECT + f'[entry]\nmarkup = "{markup}"\n')
        self.write("feed.xml", rss(item("A", "/a/", body)))
        self.write(
            "h.toml", 'name = "h"\nformat = "atom"\n[kinds.post]\naddress = "/{slug}/"\n'
        )
        self.run_ok(
            "move", "feed.xml", "--dialect", "d.toml", "--to", "h.toml", "--out", f"m{markup}"
        )
        text = (self.folder / f"m{markup}/new/entries.atom").read_text()
        return text, [
            row["what"]
            for row in rows(self.folder / f"m{markup}/follow-ups.csv")
            if row["kind"].startswith("macro")
        ]

    def test_what_the_dialect_says_is_done(self) -> None:
        text, said = self.moved(
            '<p>a [row x "&lt;y&gt;" title="&amp;"][box]<b>in</b>[/box][/row] [ad]buy[/ad] {{toc}}</p>'
        )
        self.assertIn(
            '&lt;div class="r"&gt;&lt;i&gt;x&lt;/i&gt;&lt;i&gt;&amp;lt;y&amp;gt;&lt;/i&gt;&lt;b&gt;in&lt;/b&gt;&amp;amp;&lt;/div&gt;',
            text,
        )
        self.assertNotIn("buy", text)
        self.assertIn("{{toc}}", text)
        self.assertEqual(len(said), 3)
        self.assertIn("[ad]buy[/ad] (an advertisement) was removed.", said)

    def test_no_markup_takes_one_for_anything_else(self) -> None:
        text, _said = self.moved("//a// [row x]**b**[/row] {{toc}}", "creole")
        self.assertIn("&lt;em&gt;a&lt;/em&gt;", text)
        self.assertIn('&lt;div class="r"&gt;&lt;i&gt;x&lt;/i&gt;&lt;p&gt;&lt;strong&gt;b', text)
        self.assertIn("{{toc}}", text)

    def test_a_template_that_is_none(self) -> None:
        self.write("feed.xml", rss(item("A", "/a/")))
        for line, message in (
            (
                'template = "{% for %}"\ndo = "template"',
                "The template of the macro 'm' is wrong",
            ),
            ('do = "template"', "needs both"),
        ):
            self.write(
                "d.toml", f'name = "d"\nformat = "rss"\n[[macros]]\nname = "m"\n{line}\n'
            )
            self.assertIn(message, self.refused("survey", "feed.xml", "--dialect", "d.toml"))
