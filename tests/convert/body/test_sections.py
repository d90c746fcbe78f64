"""Links to places within pages, on a host whose markup marks headings alone, and from one that marks them by itself."""

import unittest

from newburrow.dialects.schema import Dialect, EntryMap
from newburrow.model import Body, Entry
from tests.convert.cases import HOST, MoveCase
from tests.helpers import SITE

CREOLE = HOST.replace(
    "elements = [",
    'name = "creole"\nheading_ids = true\nelements = ["h2", "h3", "table", "tr", "td", ',
)
PLACES = (
    '<h2 id="part-two">Winter cuts</h2><p><a name="old"></a></p><h3>Äpfel</h3><p id="row">x</p>'
    '<section id="all"><h3>Winter cuts</h3></section>'
)
PAGE = Entry(key="2", slug="b", permalink=SITE + "b/", body=Body(PLACES))


class WithoutIds(MoveCase):
    def link(self, address: str, own: str = "") -> str:
        self.setUp()
        self.host_toml = CREOLE
        entry = Entry(
            key="1",
            slug="a",
            permalink=SITE + "a/",
            body=Body(f'<p><a href="{address}">w</a></p>{own}'),
        )
        made = self.converted(entry, PAGE)["1"].entry.body.text.partition("\n")[0]
        return made.replace("https://new.example", "").replace(SITE, "/")

    def test_a_heading_is_named_by_its_words(self) -> None:
        self.assertTrue(self.link("/b/#part-two").endswith("b.html#winter-cuts|w]]"))
        self.assertNotIn("section-lost", self.codes())
        self.assertEqual(self.link("#part-two", PLACES), "[[#winter-cuts|w]]")
        self.assertEqual(self.link("#old", PLACES), "[[#äpfel|w]]")

    def test_any_other_place_is_lost_and_that_is_said(self) -> None:
        self.assertTrue(self.link("/b/#row").endswith("b.html|w]]"))
        self.assertIn("section-lost", self.codes())
        self.assertEqual(self.link("#row", PLACES), "w")

    def test_the_second_heading_of_the_same_words_cannot_be_named(self) -> None:
        self.assertTrue(self.link("/b/#all").endswith("b.html|w]]"))
        self.assertIn("section-lost", self.codes())

    def test_a_place_of_the_layout_stays(self) -> None:
        self.assertTrue(self.link("/b/#replies").endswith("b.html#replies|w]]"))
        self.assertNotIn("section-lost", self.codes())


class Structure(MoveCase):
    def codes_of(self, body: str) -> list[str]:
        self.setUp()
        self.host_toml = CREOLE.replace('"tr", ', '"tr", "ul", "li", "pre", ')
        self.converted(
            Entry(key="1", slug="a", permalink=SITE + "a/", body=Body(body)),
        )
        return [
            code
            for code in self.codes()
            if code in ("structure-changed", "link-without-words", "link-in-code")
        ]

    def test_what_the_markup_cannot_say_is_told(self) -> None:
        split = "<ul><li>one<pre>code</pre></li><li>two</li></ul>"
        self.assertEqual(self.codes_of(split), ["structure-changed"])
        self.assertEqual(self.codes_of("<ul><li>one</li><li>two</li></ul><pre>x</pre>"), [])
        self.codes_of(split)
        self.assertIn("lists: 1 before, 2 now", self.said_of("structure-changed")[0])

    def test_links_in_code_are_told(self) -> None:
        code = '<pre>see <a href="https://x.example/1">it</a> <a href="#a">a</a></pre><p><a href="https://x.example/2">w</a></p>'
        self.assertEqual(self.codes_of(code), ["link-in-code"])
        self.assertIn("(1)", self.said_of("link-in-code")[0])
        self.assertEqual(
            self.codes_of("<pre>x</pre><p><a href='https://x.example/2'>w</a></p>"), []
        )

    def test_links_without_words_are_told(self) -> None:
        empty = '<p><a href="https://x.example/1"><b> </b></a><a href="https://x.example/2">w</a><a name="n"></a></p>'
        self.assertEqual(self.codes_of(empty), ["link-without-words"])
        self.assertIn("(1)", self.said_of("link-without-words")[0])
        self.assertEqual(self.codes_of(empty.replace("<b> </b>", "z")), [])
        self.assertEqual(self.codes_of('<h2>a<a href="#a"></a></h2>'), [])


class FromIdsOfTheHost(MoveCase):
    def test_headings_get_the_ids_that_the_old_host_gave_them(self) -> None:
        self.dialect = Dialect(
            name="texts",
            format="markdown",
            entry=EntryMap(markup="markdown", heading_ids=True),
        )
        self.host_toml = HOST.replace("elements = [", 'elements = ["h2", ')
        text = "## Winter cuts\n\n[w](#winter-cuts)\n"
        entry = Entry(key="1", slug="a", permalink=SITE + "a/", body=Body(text, "markdown"))
        made = self.converted(entry)["1"].entry.body.text
        self.assertIn('<h2 id="winter-cuts">', made)


if __name__ == "__main__":
    unittest.main()
