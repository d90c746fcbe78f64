import io
import unittest

from newburrow.core import plugins, tomlfile
from newburrow.core.problem import BurrowError, Problem
from newburrow.dialects.schema import Dialect
from newburrow.formats.base import Input
from newburrow.formats.rss import RDF_ROOT
from newburrow.model import Author, Body, Comment, Entry, Media, Site, Term
from newburrow.model.reading import Mention
from tests.helpers import SITE, item, rss

NAMESPACE = "https://otherhost.example/ns"
DIALECT = """
name = "other"
format = "rss"
[namespaces]
o = "https://otherhost.example/ns"
[entry]
id = "o:id"
kind = "o:kind"
status = "o:status"
slug = "o:slug"
parent = "o:parent"
position = "o:order"
lead_picture = "o:lead"
other_addresses = "o:old"
id_addresses = ["/?item={id}", "/item/{id}"]
[[entry.fields]]
element = "o:detail"
name = "o:what"
value = "o:is"
[comment]
element = "o:comment"
id = "o:id"
author_name = "o:by"
status = "o:status"
parent = "o:to"
published = "o:at"
body = "o:said"
markup = "text"
[media]
path = "o:file"
address = "o:url"
[author]
element = "o:author"
login = "o:login"
name = "o:name"
[term]
element = "o:term"
slug = "@slug"
name = "o:name"
parent = "@in"
entry_slug = "@slug"
entry_vocabulary = "@domain"
default_vocabulary = "category"
[values.kind]
enclosed-file = "media"
[values.status]
out = "published"
hid = "private"
"""


def read(
    text: str, dialect: str = 'name = "plain"\nformat = "rss"', encoding: str = "utf-8"
) -> list[object]:
    reader = plugins.get(plugins.FORMATS, "rss")
    source = Input(
        "export.xml",
        io.BytesIO(text.encode(encoding)),
        tomlfile.load(dialect, "d.toml", Dialect),
    )
    return list(reader.read(source))


def other(*items: str, head: str = "") -> list[object]:
    return read(rss(*items, head=head, attributes=f'xmlns:q="{NAMESPACE}"'), DIALECT)


def of(kind: type, found: list[object]) -> list:  # type: ignore[type-arg]
    declared = [record for record in found if isinstance(record, kind)]
    keys = {getattr(record, "key", "") for record in declared}
    named = [
        one.record for one in found if isinstance(one, Mention) and isinstance(one.record, kind)
    ]
    return declared + [record for record in named if record.key not in keys]


class Plain(unittest.TestCase):
    def test_core_elements(self) -> None:
        found = read(
            rss(
                item("One & two", "/a/", "<p>body</p>", "<pubDate>Sat, 06 May 2023 08:00:00 +0100</pubDate>"
                     "<guid>https://mistlebank.example/?item=1</guid><category domain='x'>Bees</category>"
                     "<author>t@mistlebank.example (Tamsin)</author>"),
                head="<language>en</language>",
            )
        )  # fmt: skip
        entry = of(Entry, found)[0]
        self.assertEqual(entry.permalink, SITE + "a/")
        self.assertEqual(entry.addresses, (SITE + "?item=1",))
        self.assertEqual(entry.body, Body("<p>body</p>"))
        self.assertEqual(entry.published.isoformat(), "2023-05-06T08:00:00+01:00")
        self.assertEqual(of(Author, found)[0].email, "t@mistlebank.example")
        self.assertEqual(of(Term, found)[0].name, "Bees")
        self.assertEqual(
            (of(Site, found)[0].title, of(Site, found)[0].language),
            ("Mistle Bank Orchard", "en"),
        )
        self.assertEqual(entry.source.line, 4)

    def test_modules_are_known_by_their_uri_whatever_the_prefix(self) -> None:
        found = read(
            rss(
                "<item><title>A</title><description>short</description><zz:encoded>long</zz:encoded><yy:creator>T</yy:creator>"
                "<yy:date>2023-05-06T08:00:00Z</yy:date><xx:comments>3</xx:comments></item>",
                attributes='xmlns:zz="http://purl.org/rss/1.0/modules/content/" xmlns:yy="http://purl.org/dc/elements/1.1/" '
                'xmlns:xx="http://purl.org/rss/1.0/modules/slash/"',
            )
        )
        entry = of(Entry, found)[0]
        self.assertEqual(
            (entry.body.text, entry.summary, entry.authors), ("long", "short", ("T",))
        )
        self.assertEqual(entry.published.year, 2023)
        self.assertEqual([problem.code for problem in of(Problem, found)], ["comments-missing"])

    def test_facts_of_the_channel_may_come_after_the_items(self) -> None:
        text = f"<rss version='2.0'><channel>{item('A', SITE + 'a')}<title>Late</title></channel></rss>"
        self.assertEqual(of(Site, read(text))[0].title, "Late")
        self.assertEqual(of(Site, read(text))[0].address, SITE)

    def test_what_has_no_place_is_kept(self) -> None:
        found = read(
            rss(
                item(
                    "A",
                    "/a",
                    extra='<enclosure url="x.mp3" length="3"/><o:mood xmlns:o="urn:o">fine</o:mood><empty/>',
                )
            )
        )
        extra = of(Entry, found)[0].extra
        self.assertEqual(extra["{urn:o}mood"], ["fine"])
        self.assertNotIn("enclosure", extra)
        self.assertEqual([(m.address, m.size) for m in of(Media, found)], [(SITE + "x.mp3", 3)])
        self.assertNotIn("empty", extra)

    def test_other_encodings(self) -> None:
        text = rss(item("Über", "/a")).replace("UTF-8", "ISO-8859-1")
        self.assertEqual(of(Entry, read(text, encoding="latin-1"))[0].title, "Über")

    def test_what_is_not_well_formed_is_named_with_its_place(self) -> None:
        with self.assertRaises(BurrowError) as caught:
            read(rss("<item><title>A & B</title></item>"))
        problem = caught.exception.problem
        self.assertEqual(
            (problem.code, problem.where.file, problem.where.line),
            ("not-well-formed", "export.xml", 4),
        )
        self.assertGreater(problem.where.column, 10)

    def test_large_texts_and_deep_nesting(self) -> None:
        found = read(rss(item("A", "/a", "x" * 12_000_000)))
        self.assertEqual(len(of(Entry, found)[0].body.text), 12_000_000)
        deep = "<d>" * 1500 + "</d>" * 1500
        self.assertEqual(len(of(Entry, read(rss(item("A", "/a", extra=deep))))), 1)
        with self.assertRaises(BurrowError):
            read(rss(item("A", "/a", extra="<d>" * 100_000 + "</d>" * 100_000)))


class Elders(unittest.TestCase):
    def test_rss_1(self) -> None:
        text = (
            '<r:RDF xmlns:r="http://www.w3.org/1999/02/22-rdf-syntax-ns#" xmlns="http://purl.org/rss/1.0/" '
            'xmlns:d="http://purl.org/dc/elements/1.1/" xmlns:o="urn:o"><channel r:about="x"><title>Orchard</title>'
            f"<link>{SITE}</link><description>News</description><items><r:Seq/></items></channel>"
            f'<item r:about="{SITE}a"><title>A</title><link>{SITE}a</link><description>body</description><d:creator>T</d:creator>'
            "<d:date>2004-05-06</d:date><d:subject>Bees</d:subject><o:mood>fine</o:mood></item></r:RDF>"
        )
        source = Input(
            "a.rdf",
            io.BytesIO(text.encode()),
            tomlfile.load('name = "d"\nformat = "rss"', "d", Dialect),
            RDF_ROOT,
        )
        found = list(plugins.get(plugins.FORMATS, "rss").read(source))
        entry = of(Entry, found)[0]
        self.assertEqual(
            (entry.title, entry.permalink, entry.body.text, entry.guid),
            ("A", SITE + "a", "body", SITE + "a"),
        )
        self.assertEqual(
            (entry.authors, entry.terms, entry.published.year), (("T",), ("tag/Bees",), 2004)
        )
        self.assertEqual(entry.extra, {"{urn:o}mood": ["fine"]})
        site = of(Site, found)[0]
        self.assertEqual(
            (site.title, site.address, site.description), ("Orchard", SITE, "News")
        )

    def test_rss_0_91(self) -> None:
        found = read(
            f'<rss version="0.91"><channel><title>O</title><link>{SITE}</link>{item("A", SITE + "a", "b")}</channel></rss>'
        )
        self.assertEqual(of(Entry, found)[0].body.text, "b")


class WithDialect(unittest.TestCase):
    def test_facts_of_an_entry(self) -> None:
        found = other(
            item("A", "/a/", extra="<q:id>7</q:id><q:status>hid</q:status><q:slug>a</q:slug><q:parent>3</q:parent><q:order>2</q:order>"
                 "<q:lead>9</q:lead><q:old>/was/</q:old><q:detail><q:what>mood</q:what><q:is>fine</q:is></q:detail>"),
        )  # fmt: skip
        entry = of(Entry, found)[0]
        self.assertEqual(
            (entry.key, entry.status, entry.slug, entry.parent, entry.position),
            ("7", "private", "a", "3", 2),
        )
        self.assertEqual(entry.lead_picture, "9")
        self.assertEqual(entry.addresses, (SITE + "was/", SITE + "?item=7", SITE + "item/7"))
        self.assertEqual(entry.fields, {"mood": "fine"})
        self.assertEqual(entry.extra, {})

    def test_comments_within_comments_answer_them(self) -> None:
        found = other(
            item("A", "/a", extra="<q:id>1</q:id><q:comment><q:id>5</q:id><q:by>Nesta</q:by><q:said>a &lt; b</q:said>"
                 "<q:comment><q:id>6</q:id></q:comment></q:comment><q:comment><q:id>8</q:id><q:to>6</q:to><q:x>kept</q:x></q:comment>"),
        )  # fmt: skip
        comments = of(Comment, found)
        self.assertEqual(
            [(c.key, c.parent, c.entry) for c in comments],
            [("5", "", "1"), ("6", "5", "1"), ("8", "6", "1")],
        )
        self.assertEqual(comments[0].body, Body("a < b", "text"))
        self.assertEqual(comments[2].extra, {f"{{{NAMESPACE}}}x": ["kept"]})

    def test_media_items(self) -> None:
        found = other(item("Bud", "/?item=9", extra="<q:id>9</q:id><q:kind>enclosed-file</q:kind><q:file>f/bud.png</q:file>"
                           "<q:url>/f/bud.png</q:url><q:slug>bud</q:slug>"))  # fmt: skip
        media = of(Media, found)[0]
        self.assertEqual(
            (media.key, media.path, media.address, media.title),
            ("9", "f/bud.png", SITE + "f/bud.png", "Bud"),
        )
        self.assertEqual(media.extra["slug"], ["bud"])
        self.assertEqual(of(Entry, found), [])

    def test_nothing_on_a_file_or_beside_one_is_dropped(self) -> None:
        facts = ("<q:id>9</q:id><q:kind>enclosed-file</q:kind><q:status>hid</q:status><category>bees</category><q:lead>3</q:lead>"
                 "<q:detail><q:what>mood</q:what><q:is>fine</q:is></q:detail><q:comment><q:id>7</q:id></q:comment>")  # fmt: skip
        found = other(
            item("Bud", "/?item=9", "a text", facts),
            item("A", "/a", extra="<q:id>1</q:id><q:file>f.png</q:file>"),
        )
        self.assertEqual(of(Media, found)[0].extra, {"lead_picture": ["3"], "body": ["a text"], "status": ["private"],
                                                     "field mood": ["fine"], "terms": ["category/bees"]})  # fmt: skip
        self.assertEqual(
            [(comment.key, comment.entry) for comment in of(Comment, found)], [("7", "9")]
        )
        self.assertEqual(of(Entry, found)[0].extra, {f"{{{NAMESPACE}}}file": ["f.png"]})

    def test_declared_authors_and_terms_win_over_named_ones(self) -> None:
        head = ("<q:author><q:login>t</q:login><q:name>Tamsin</q:name></q:author>"
                "<q:term slug='bees' in='wild'><q:name>Bees</q:name></q:term>")  # fmt: skip
        extra = "<author>t</author><author>Guest</author><category slug='bees'>bees!</category><category>Owls</category>"
        found = other(item("A", "/a", extra=extra), head=head)
        self.assertEqual(
            [(a.key, a.name) for a in of(Author, found)], [("t", "Tamsin"), ("Guest", "Guest")]
        )
        terms = [(t.key, t.name, t.parent) for t in of(Term, found)]
        self.assertEqual(
            terms, [("category/bees", "Bees", "category/wild"), ("category/Owls", "Owls", "")]
        )

    def test_values_that_nobody_mapped_are_said_and_never_published(self) -> None:
        found = other(
            item(
                "A",
                "/a",
                extra="<q:id>1</q:id><q:status>odd</q:status><q:kind>odder</q:kind><q:order>x</q:order>",
            )
        )
        entry = of(Entry, found)[0]
        self.assertEqual((entry.status, entry.kind), ("private", "document"))
        codes = {problem.code for problem in of(Problem, found)}
        self.assertEqual(codes, {"unknown-value", "no-number"})

    def test_dates_that_are_none_are_said(self) -> None:
        found = other(
            item(
                "A",
                "/a",
                extra="<pubDate>soon</pubDate><q:comment><q:at>later</q:at></q:comment>",
            )
        )
        self.assertEqual(
            [problem.code for problem in of(Problem, found)], ["no-date", "no-date"]
        )
