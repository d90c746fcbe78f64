import io

from newburrow.core.problem import BurrowError
from newburrow.dialects import loader
from newburrow.intake.head import Head
from newburrow.intake.part import Part
from newburrow.intake.prolog import Prolog
from tests.helpers import FolderCase, item, rss

FEED = Part("a.xml", 4, "a.xml", lambda: io.BytesIO(b"<rss"))
RIGHT = 'name = "mine"\nformat = "rss"\n[namespaces]\no = "urn:o"\n'


class Dialects(FolderCase):
    def problem(self, text: str):  # type: ignore[no-untyped-def]
        path = self.write("mine.toml", text)
        with self.assertRaises(BurrowError) as caught:
            loader.load(str(path))
        return caught.exception.problem

    def test_those_that_ship_are_right(self) -> None:
        for name in loader.DIALECTS.names():
            text = (loader.DIALECTS.folder / f"{name}.toml").read_text("utf-8")
            dialect = loader.load(str(self.write("copy.toml", text)))  # a copy is checked
            self.assertEqual(dialect, loader.load(name))
            self.assertEqual(dialect.name, name)
            self.assertTrue(dialect.title and dialect.about)

    def test_mistakes_are_named_with_line_and_nearest(self) -> None:
        for added, line, words in (
            ("[entry]\nkindd = 'o:kind'\n", 6, "'kind'"),
            ("[entry]\n\nkind = 'x:kind'\n", 7, "prefix 'x' is not declared"),
            ("[comment]\nelement = 'o:c'\nbody = 'o:b['\n", 7, "not an XPath 1.0 expression"),
            ("[entry]\nmarkup = 'htlm'\n", 6, "'html'"),
            ("[values.kinds]\na = 'post'\n", 5, "'kind'"),
            ("[[entry.fields]]\nelement = 'z:f'\n", 6, "prefix 'z'"),
            ("[[macros]]\nname = 'a'\nform = 'bracked'\n", 7, "not one of those allowed"),
            ("[entry]\nposition = 7\n", 6, "found a whole number"),
            ("[author]\narchive = '/by/{logn}/'\n", 6, "Did you mean 'login'"),
            ("[addresses]\ndates = ['/{year}/{mont}/']\n", 6, "'month'"),
            (
                "[addresses]\nper_page = 5\nfurther = '/page/'\n",
                7,
                "gives every object the same address",
            ),
        ):
            problem = self.problem(RIGHT + added)
            self.assertEqual(problem.where.line, line, added)
            self.assertIn(words, problem.text(), added)
        self.assertIn("'rss'", self.problem(RIGHT.replace("rss", "rsss")).advice)

    def test_a_dialect_is_known_by_its_namespace(self) -> None:
        shipped = loader.load("reedpost")
        head = Head("a.xml", b"<rss", Prolog("rss", (shipped.recognise.namespace,), {}), FEED)
        self.assertEqual([one.name for one in loader.recognise("rss", head)], ["reedpost"])
        self.assertEqual(
            loader.recognise("rss", Head("a.xml", b"<rss", Prolog("rss", (), {}), FEED)), []
        )

    def test_a_users_own_reads_an_export(self) -> None:
        self.write(
            "mine.toml", RIGHT + "[entry]\nkind = 'o:kind'\n[values.kind]\nleaf = 'page'\n"
        )
        self.write(
            "feed.xml",
            rss(item("A", "/a", extra="<q:kind>leaf</q:kind>"), attributes='xmlns:q="urn:o"'),
        )
        self.assertEqual(
            self.survey("feed.xml", "--dialect", "mine.toml")["counts"], {"page": 1}
        )
        self.assertEqual(self.survey("feed.xml")["counts"], {"post": 1})
