import json
import zipfile

from tests.helpers import SITE, FolderCase, item, rows, rss

SPACES = (
    'xmlns:media="http://search.yahoo.com/mrss/" xmlns:wfw="http://wellformedweb.org/CommentAPI/" '
    'xmlns:thr="http://purl.org/syndication/thread/1.0" xmlns:o="urn:o" xmlns:content="http://purl.org/rss/1.0/modules/content/"'
)
DIALECT = """
name = "d"
format = "rss"
[namespaces]
o = "urn:o"
[dates]
forms = ["%d.%m.%Y"]
zone = "Asia/Tokyo"
[entry]
id = "o:id"
kind = "o:kind"
lead_picture = "o:picture"
markup_named = "o:form"
[[entry.fields]]
element = "o:detail"
lists = true
[comment]
items = "reply"
entry = "o:to"
author_name = "o:by"
markup = "text"
[values.markup]
lines = "html-lines"
"""


class Modules(FolderCase):
    def shown(self, word: str, *more: str) -> dict:  # type: ignore[type-arg]
        return json.loads(self.run_ok("show", "feed.xml", word, "--json", *more))  # type: ignore[no-any-return]

    def feed(self, *items: str) -> None:
        self.write("feed.xml", rss(*items, attributes=SPACES))

    def test_files_that_go_with_an_item(self) -> None:
        self.feed(
            item("A", "/a/", "x", '<enclosure url="/talk.mp3" type="audio/mpeg" length="12"/><media:thumbnail url="/t.png"/>'
                 '<media:group><media:content url="https://far.example/v.mp4" duration="9"><media:title>V</media:title></media:content>'
                 '<media:text>owls</media:text></media:group>'),
            item("B", "/b/", "x", '<enclosure url="/talk.mp3" type="audio/mpeg" length="12"/>'),
        )  # fmt: skip
        record = self.shown("A")["record"]
        self.assertEqual(
            (record["enclosures"], record["lead_picture"]),
            ([SITE + "talk.mp3", "https://far.example/v.mp4"], SITE + "t.png"),
        )
        self.assertNotIn("extra", record)
        video = self.shown("https://far.example/v.mp4")["record"]
        self.assertEqual(
            (video["title"], video["alternative_text"], video["extra"]),
            ("V", "owls", {"duration": ["9"]}),
        )
        # what two items name is one file
        self.assertEqual(self.survey("feed.xml")["counts"]["media"], 2)
        self.run_ok("move", "feed.xml", "--to", "lanternlog", "--out", "m", status=1)
        fates = {
            row["old_address"]: row["fate"]
            for row in rows(self.folder / "m/ledger.csv")
            if row["kind"] == "media"
        }
        self.assertEqual(
            fates, {SITE + "talk.mp3": "failed", "https://far.example/v.mp4": "moved"}
        )
        self.assertIn(
            'rel="enclosure" type="" length="0" href="https://far.example/v.mp4"',
            (self.folder / "m/new/lanternlog-import.atom").read_text(),
        )

    def test_a_file_beside_the_feed_is_the_enclosure(self) -> None:
        text = rss(
            item("A", "/a/", "x", '<enclosure url="/files/talk.mp3" type="audio/mpeg"/>'),
            attributes=SPACES,
        )
        with zipfile.ZipFile(self.folder / "e.zip", "w") as archive:
            archive.writestr("feed.xml", text)
            archive.writestr("files/talk.mp3", b"sound")
        self.run_ok("move", "e.zip", "--to", "lanternlog", "--out", "m")
        feed = (self.folder / "m/new/lanternlog-import.atom").read_text()
        self.assertRegex(
            feed,
            r'rel="enclosure" type="audio/mpeg" length="\d+" href="https://mistlebank.example/shown/talk-[0-9a-f]{10}.mp3"',
        )

    def test_feeds_of_comments_lead_to_the_new_feed(self) -> None:
        self.feed(item("A", "/a/", "x", "<wfw:commentRss>/a/feed/</wfw:commentRss>"))
        self.run_ok("move", "feed.xml", "--to", "lanternlog", "--out", "m")
        answers = {
            row["old"]: row["new"] for row in rows(self.folder / "m/redirects/addresses.csv")
        }
        self.assertEqual(answers[SITE + "a/feed/"], SITE + "leaves.atom")

    def test_comments_that_are_items(self) -> None:
        self.feed(
            item("Re: A", "/r1", "one", f'<guid isPermaLink="false">r1</guid><thr:in-reply-to ref="{SITE}a/"/><author>Ann</author>'),
            item("A", "/a/", "x", "<guid isPermaLink='false'>g</guid><thr:total>3</thr:total>"),
            item("Re: Re: A", "/r2", "two", '<guid isPermaLink="false">r2</guid><thr:in-reply-to ref="r1"/>'),
        )  # fmt: skip
        found = self.shown("g")
        self.assertEqual(
            [
                (c["key"], c.get("parent", ""), c.get("author_name", ""))
                for c in found["comments"]
            ],
            [("r1", "", "Ann"), ("r2", "r1", "")],
        )
        self.assertEqual(
            found["comments"][0]["extra"], {"title": ["Re: A"], "permalink": [SITE + "r1"]}
        )

    def test_what_a_dialect_says_of_them(self) -> None:
        self.write("d.toml", DIALECT)
        self.feed(
            item("A", "/a/", "x\n\ny", '<o:id>7</o:id><o:form>lines</o:form><pubDate>31.12.2020</pubDate><o:picture>/p.png</o:picture>'
                 '<o:detail name="seen">["wren", ["owl"]]</o:detail>'),
            item("", "", "well", "<o:id>8</o:id><o:kind>reply</o:kind><o:to>7</o:to><o:by>Bo</o:by>"),
            item("", "", "well", "<o:id>9</o:id><o:kind>reply</o:kind><o:to>/a/</o:to>"),
        )  # fmt: skip
        found = self.shown("7", "--dialect", "d.toml")
        record = found["record"]
        self.assertEqual(
            (record["published"], record["body"]["markup"]),
            ("2020-12-31T00:00:00+09:00", "html-lines"),
        )
        self.assertEqual(
            (record["fields"], record["lead_picture"]), ({"seen": "wren\nowl"}, "/p.png")
        )
        self.assertEqual(
            [
                (c["key"], c["body"].get("markup"), c.get("author_name", ""))
                for c in found["comments"]
            ],
            [("8", None, "Bo"), ("9", None, "")],
        )

    def test_links_are_seen_from_xml_base(self) -> None:
        body = '<content:encoded xml:base="/deep/er/"><![CDATA[<a href="../a/">a</a>]]></content:encoded>'
        self.feed(item("A", "/deep/a/", "x"), item("B", "/b/", "", body))
        self.assertEqual(self.shown("B")["record"]["body"]["base"], SITE + "deep/er/")
        self.run_ok("move", "feed.xml", "--to", "lanternlog", "--out", "m")
        self.assertIn(
            "https://mistlebank.example/leaves/a",
            (self.folder / "m/new/lanternlog-import.atom").read_text(),
        )
