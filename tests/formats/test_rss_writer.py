import io
import subprocess
from datetime import UTC, datetime

from hypothesis import given
from hypothesis import strategies as st
from lxml import etree
from msgspec.structs import replace

from newburrow.dialects import loader
from newburrow.formats.base import Job, Refused
from newburrow.formats.rss.writer import RssWriter
from newburrow.markup.plain_text import MARKUP as TEXT
from newburrow.model import Author, Body, Comment, Entry, Media, Site, Term
from newburrow.model.bundle import Bundle
from tests.helpers import SITE, FolderCase, demo_export

WHEN = datetime(2024, 3, 2, 9, tzinfo=UTC)
ODD = st.text(max_size=12) | st.sampled_from(["]]>", "<b>&amp;", "\x00\x1b", "]]]]>>", '"\n\t'])

RP = "https://reedpost.example/ns/archive/2"


class Kept:
    """Where a writer's files go in a test."""

    def __init__(self) -> None:
        self.files: dict[str, bytes] = {}

    def open(self, name: str) -> io.BytesIO:
        kept = self

        class File(io.BytesIO):
            def close(self) -> None:
                kept.files[name] = self.getvalue()
                super().close()

        return File()


def bundle(number: int, body: str = "<p>Body</p>", **more: object) -> Bundle:
    entry = Entry(
        key=str(number),
        title=f"Entry {number}",
        slug=f"entry-{number}",
        published=WHEN,
        body=Body(body),
        **more,
    )  # type: ignore[arg-type]
    comments = (Comment(key="c1", entry=entry.key, author_name="Jory", published=WHEN, body=Body("one", "text")),
                Comment(key="c2", entry=entry.key, parent="c1", author_name="Nell", body=Body("two", "text")))  # fmt: skip
    return Bundle(entry, (Author(key="nell", login="nell", name="Nell Birch"),), (Term(key="tag/pears", slug="pears", name="Pears"),),
                  comments, new_address=f"{SITE}{number}/")  # fmt: skip


class Writing(FolderCase):
    def written(
        self, *bundles: Bundle, dialect: str = "reedpost", limit: int = 0
    ) -> tuple[dict[str, bytes], list[str]]:
        kept, said = Kept(), list[str]()
        options = {"dialect": dialect} if dialect else {}
        job = Job(
            Site(key="site", title="Orchard", address=SITE),
            options,
            "",
            loader.load(dialect) if dialect else None,
            limit,
        )
        writer = RssWriter(kept, job)
        for one in bundles:
            said += [problem.code for problem in writer.entry(one)]
        said += [
            problem.code
            for problem in writer.media(
                Media(
                    key="m",
                    address=SITE + "m.png",
                    path="files/m.png",
                    alternative_text="A tree",
                )
            )
        ]
        writer.finish()
        return kept.files, said

    def test_the_demo_there_and_back(self) -> None:
        self.write("export.zip", demo_export())
        self.run_ok("move", "export.zip", "--to", "reedpost", "--out", "m")
        found, before = self.survey("m/new"), self.survey("export.zip")
        self.assertEqual(found["sources"][0]["dialect"], "reedpost")
        self.assertEqual(found["counts"], {"post": 61, "page": 7, "comment": 142, "pingback": 3, "author": 4, "category": 10, "tag": 8,
                                           "media": 39, "menu-item": 6})  # fmt: skip
        self.assertEqual(found["states"]["post"], {"published": 59, "draft": 1, "scheduled": 1})
        names = [
            {(term["vocabulary"], term["name"], term["parent"]) for term in one["terms"]}
            for one in (found, before)
        ]
        self.assertEqual(*names)
        self.run_ok("move", "export.zip", "--to", "lanternlog", "--out", "one")
        self.run_ok("move", "m/new", "--to", "lanternlog", "--out", "two")
        one, two = (
            (self.folder / name / "new/lanternlog-import.atom").read_text()
            for name in ("one", "two")
        )
        self.assertEqual(one.count("<entry"), two.count("<entry"))
        self.assertEqual(
            sorted(line for line in one.split("\n") if line.startswith("<thr:")),
            sorted(line for line in two.split("\n") if line.startswith("<thr:")),
        )

    def test_in_parts_each_whole_by_itself(self) -> None:
        files, said = self.written(*(bundle(n, "x" * 900) for n in range(20)), limit=6000)
        self.assertEqual(said, [])
        with self.assertRaisesRegex(Refused, r"10,\d{3} bytes; .* 6,000 at most"):
            self.written(bundle(1), bundle(99, "y" * 9000), limit=6000)
        self.assertGreater(len(files), 4)
        titles = []
        for number, (name, data) in enumerate(files.items(), 1):
            self.assertEqual(name, f"feed-{number}.xml")
            root = etree.fromstring(data)
            titles += [title.text for title in root.iterfind(".//item/title")]
            self.assertLessEqual(len(data), 6000, name)
            if root.find(".//item/category") is not None:
                self.assertEqual(
                    len(root.findall(".//{https://reedpost.example/ns/archive/2}topic")), 1
                )
        self.assertEqual(titles[:-1], [f"Entry {n}" for n in range(20)])

    def test_a_picture_that_stands_for_an_entry_is_in_its_part(self) -> None:
        lead = Media(key="77", address=SITE + "lead.png", path="files/lead.png", title="Lead")
        plain = [bundle(n, "x" * 900) for n in range(20)]
        shown = [
            replace(one, lead_picture=lead) if n in (3, 15) else one
            for n, one in enumerate(plain)
        ]
        for limit, expected in ((6000, 2), (0, 0)):
            files, _said = self.written(*shown, limit=limit)
            found = 0
            for data in files.values():
                items = etree.fromstring(data).findall(".//item")
                ids = [item.findtext(f"{{{RP}}}id") for item in items]
                leads = [item.findtext(f"{{{RP}}}lead") for item in items]
                if "77" in leads:
                    self.assertEqual(ids.count("77"), 1 if limit else 0)
                    found += ids.count("77")
            self.assertEqual(found, expected)

    def test_plain_rss_says_what_it_drops(self) -> None:
        files, said = self.written(bundle(1, parent="7", fields={"soil": "clay"}), dialect="")
        self.assertEqual(said, ["dropped", "dropped-detail"])
        # a thread has no place
        self.assertEqual(self.written(bundle(1), dialect="")[1], ["dropped", "dropped-detail"])
        self.write("plain.xml", files["feed.xml"])
        self.assertEqual(
            self.survey("plain.xml")["counts"], {"post": 1, "comment": 2, "author": 1, "tag": 1}
        )

    @given(ODD, ODD, ODD)
    def test_nothing_in_a_text_breaks_out(self, title: str, body: str, value: str) -> None:
        one = bundle(1, body, fields={"soil": value})
        one = Bundle(
            Entry(key="1", title=title, body=Body(body), fields={value: value}),
            comments=one.comments,
            new_address=SITE,
        )
        for dialect in ("reedpost", ""):
            data = self.written(one, dialect=dialect)[0]["feed.xml"]
            root = etree.fromstring(data)
            self.assertEqual(len(root.findall(".//item")), 2 if dialect else 3)
            encoded = (
                root.findtext(".//item/{http://purl.org/rss/1.0/modules/content/}encoded") or ""
            )
            if body.isprintable():
                self.assertEqual(encoded, body)

    def test_xmllint_finds_nothing(self) -> None:
        path = self.write("feed.xml", self.written(bundle(1))[0]["feed.xml"])
        subprocess.run(["xmllint", "--noout", path], check=True)

    def test_plain_text(self) -> None:
        for html, text in (
            ("<p>a &amp; b<br>c</p><p>d</p>", "a & b\nc\n\nd"), ('<a href="https://x.example/">here</a>', "here (https://x.example/)"),
            ('<a href="mailto:a@x.example">a@x.example</a>', "a@x.example"), ("<ul><li>one</li><li>two</li></ul>", "* one\n* two"),
            ('<img src="x" alt="A tree"> b', "A tree b"), ("<script>x</script>a<!-- c -->", "a"), ("a < b", "a < b"),
        ):  # fmt: skip
            self.assertEqual(TEXT.from_html(html), text, html)
