"""What a dialect can say of a feed or of plain records, each in one short export."""

from newburrow.formats.exports import detection, export_records
from newburrow.model import Author, Comment, Entry, Term
from newburrow.model.reading import Mention
from newburrow.store import fill
from newburrow.store.content_store import Store
from tests.helpers import SITE, FolderCase, item, rss

URI = "urn:orchard"


class DialectCase(FolderCase):
    def stored(self, export: str, dialect: str, name: str = "a.xml") -> Store:
        """The content store of an export in a dialect."""
        self.setUp()
        self.write(name, export)
        self.write("mine.toml", dialect)
        found = detection.examine(self.folder / name, str(self.folder / "mine.toml"))
        store = fill.fill(self.folder / "s.sqlite", [export_records.records(found)], dict)
        self.addCleanup(store.__exit__)
        return store

    def feed(self, *items: str, of_feed: str = "", **tables: str) -> Store:
        head = f'name = "mine"\nformat = "rss"\n{tables.pop("top", "")}\n[namespaces]\no = "{URI}"\n'
        dialect = head + "".join(f"[{name}]\n{text}\n" for name, text in tables.items())
        return self.stored(rss(*items, head=of_feed, attributes=f'xmlns:o="{URI}"'), dialect)

    def entry(self, extra: str, of_feed: str = "", **tables: str) -> Entry:
        store = self.feed(
            item("Title", SITE + "1/", "<p>Body</p>", extra), of_feed=of_feed, **tables
        )
        return next(iter(store.all(Entry)))


class OfFeeds(DialectCase):
    def test_title_summary_body_and_permalink_from_anywhere(self) -> None:
        found = self.entry(
            '<o:head text="Own"/><o:short>Short</o:short><o:text>One <em>two</em> &amp; three</o:text><o:page>/p/</o:page>',
            entry='title = "o:head/@text"\nsummary = "o:short"\nbody = "o:text"\npermalink = "o:page"',
        )
        self.assertEqual(
            (found.title, found.summary, found.permalink), ("Own", "Short", SITE + "p/")
        )
        self.assertEqual(found.body.text, "One <em>two</em> &amp; three")
        self.assertEqual(
            self.entry("", entry='title = "o:head"\nbody = "o:text"').body.text, "<p>Body</p>"
        )

    def test_repeated_fields_give_all_values(self) -> None:
        fields = "".join(
            f'<o:field name="{name}">{value}</o:field>'
            for name, value in (("soil", "clay"), ("soil", "sand"), ("sun", "full"))
        )
        found = self.entry(fields, **{"[entry.fields]": 'element = "o:field"'})
        self.assertEqual(found.fields, {"soil": "clay\nsand", "sun": "full"})

    def test_slugs_are_decoded(self) -> None:
        for written, slug in (
            ("%E3%82%8A%E3%82%93", "りん"),
            ("100%", "100%"),
            ("%FF", "%FF"),
            ("a-b", "a-b"),
        ):
            self.assertEqual(
                self.entry(f"<o:slug>{written}</o:slug>", entry='slug = "o:slug"').slug, slug
            )

    def test_kinds_that_are_no_content(self) -> None:
        items = [
            item(str(n), f"{SITE}{n}/", extra=f"<o:kind>{kind}</o:kind>")
            for n, kind in enumerate(("text", "setting", "setting"))
        ]
        store = self.feed(
            *items, entry='kind = "o:kind"', **{"values.kind": 'text = "post"\nsetting = "-"'}
        )
        self.assertEqual([entry.title for entry in store.all(Entry)], ["0"])
        self.assertEqual([problem.code for problem in store.problems()], ["not-content"] * 2)

    def test_schemes_that_are_kinds_or_nothing(self) -> None:
        categories = '<category domain="urn:kind">sheet</category><category domain="urn:internal">x</category><category>Bees</category>'
        tables = {
            "values.kind": 'sheet = "page"',
            "values.vocabulary": '"urn:kind" = "-"\n"urn:internal" = "-"',
        }
        found = self.entry(
            categories, entry="kind = \"category[@domain='urn:kind']\"", **tables
        )
        self.assertEqual((found.kind, found.terms), ("page", ("tag/Bees",)))

    def test_several_sorts_of_declared_terms(self) -> None:
        declared = '<o:word sort="tag"><o:name>Bees</o:name></o:word><o:word sort="menu"><o:name>Top</o:name></o:word><o:shelf><o:name>Trees</o:name></o:shelf>'
        term = 'element = "o:word[@sort=\'tag\'] | o:shelf"\nname = "o:name"\nvocabulary = "local-name()"'
        store = self.feed(
            item("a", SITE),
            of_feed=declared,
            term=term,
            **{"values.vocabulary": 'word = "tag"\nshelf = "category"'},
        )
        self.assertEqual(
            {(one.vocabulary, one.name) for one in store.all(Term)},
            {("tag", "Bees"), ("category", "Trees")},
        )
        self.assertIn("Top", str(store.extras()))

    def test_an_element_that_cannot_be_recognised_is_refused(self) -> None:
        self.write("a.xml", rss(item("a", SITE)))
        for element, words in (
            ("o:a/o:b", "can be the name of an element"),
            ("x:a", "prefix 'x' is not declared"),
            ("o:a[", "can be the name"),
            ("o:a[@b=]", "not a predicate"),
        ):
            self.write(
                "mine.toml",
                f'name = "mine"\nformat = "rss"\n[namespaces]\no = "{URI}"\n[term]\nelement = "{element}"\n',
            )
            self.assertIn(words, self.refused("survey", "a.xml", "--dialect", "mine.toml"))

    def test_a_zone_for_each_date(self) -> None:
        extra = "<o:made>2023-07-01 12:00</o:made><o:changed>2023-07-01 12:00</o:changed><o:said><o:at>2023-07-01 12:00</o:at></o:said>"
        store = self.feed(
            item("a", SITE, extra=extra), entry='published = "o:made"\nupdated = "o:changed"', comment='element = "o:said"\npublished = "o:at"',
            dates='zone = "Europe/London"', **{"dates.zones": 'updated = "UTC"\ncomment = "Asia/Tokyo"'},
        )  # fmt: skip
        entry, comment = next(iter(store.all(Entry))), next(iter(store.all(Comment)))
        offsets = [
            moment.utcoffset().total_seconds() / 3600
            for moment in (entry.published, entry.updated, comment.published)
        ]  # type: ignore[union-attr]
        self.assertEqual(offsets, [1, 0, 9])

    def test_words_that_stand_for_others(self) -> None:
        found = self.entry(
            "<o:page>%%BASE%%p/</o:page>",
            entry='permalink = "o:page"',
            replace=f'"%%BASE%%" = "{SITE}"',
        )
        self.assertEqual(found.permalink, SITE + "p/")

    def test_commas_in_one_category(self) -> None:
        found = self.entry(
            "<category>Bees, Owls,</category><category>Soil</category>", term='split = ","'
        )
        self.assertEqual(found.terms, ("tag/Bees", "tag/Owls", "tag/Soil"))

    def test_the_author_of_a_comment_by_reference(self) -> None:
        people = '<o:person id="7"><o:name>Nell</o:name><o:mail>n@a.example</o:mail></o:person>'
        said = '<o:said by="7"><o:text>x</o:text></o:said><o:said by="9"><o:text>y</o:text></o:said>'
        store = self.feed(
            item("a", SITE, extra=said), of_feed=people, author='element = "o:person"\nlogin = "@id"\nname = "o:name"\nemail = "o:mail"',
            comment='element = "o:said"\nauthor = "@by"\nbody = "o:text"',
        )  # fmt: skip
        self.assertEqual(
            [(one.author_name, one.email) for one in store.all(Comment)],
            [("Nell", "n@a.example"), ("9", "")],
        )

    def test_a_state_from_two_fields(self) -> None:
        extra = "<o:state>live</o:state><o:seen>members</o:seen>"
        found = self.entry(
            extra,
            entry='status = ["o:state", "o:seen"]',
            **{"entry.join": 'status = "/"', "values.status": '"live/members" = "private"'},
        )
        self.assertEqual(found.status, "private")

    def test_what_an_expression_reads_is_not_listed_as_unread(self) -> None:
        extra = '<o:meta key="a">1</o:meta><o:meta key="b">2</o:meta>'
        found = self.entry(extra, entry="slug = \"o:meta[@key='a']\"")
        self.assertEqual(found.slug, "1")
        self.assertEqual(list(found.extra), [f"{{{URI}}}meta"])
        self.assertIn("2", found.extra[f"{{{URI}}}meta"][0])
        self.assertEqual(len(found.extra[f"{{{URI}}}meta"]), 1)


class OfAtom(DialectCase):
    def test_comments_as_the_dialect_says(self) -> None:
        head = f'<feed xmlns="http://www.w3.org/2005/Atom" xmlns:thr="http://purl.org/syndication/thread/1.0" xmlns:o="{URI}"><title>T</title><link href="{SITE}"/>'
        entry = f'<entry><id>urn:1</id><title>A</title><link href="{SITE}a/"/></entry>'
        replies = "".join(
            f'<entry><id>urn:c{n}</id><thr:in-reply-to ref="urn:1"/><content>x</content><o:state>{state}</o:state><o:by>W{n}</o:by><o:to>{parent}</o:to></entry>'
            for n, state, parent in ((1, "bad", "0"), (2, "ok", "urn:c1"), (3, "odd", ""))
        )
        dialect = f'''name = "mine"\nformat = "atom"\n[namespaces]\no = "{URI}"\n[comment]\nstatus = "o:state"\nauthor_name = "o:by"\nparent = "o:to"
[values.comment_status]\nbad = "spam"\nok = "approved"\n'''
        store = self.stored(head + entry + replies + "</feed>", dialect)
        found = [(one.status, one.author_name, one.parent) for one in store.all(Comment)]
        self.assertEqual(
            found, [("spam", "W1", ""), ("approved", "W2", "urn:c1"), ("pending", "W3", "")]
        )


class OfRecords(DialectCase):
    def test_maps_keep_their_keys(self) -> None:
        export = '{"posts": {"7": {"title": "A", "more": {"soil": "clay", "sun": "full"}, "said": {"c1": {"text": "x"}}}}}'
        dialect = """name = "mine"\nformat = "json"\n[[records]]\nof = "entry"\neach = "$.posts.*"\ntake.id = "(key)"\ntake.title = "title"
[[records.pairs]]\nelement = "$.more.*"\nname = "(key)"\nvalue = "$"\n[[records.inner]]\nof = "comment"\neach = "$.said.*"\ntake.id = "(key)"\ntake.body = "text"\n"""
        store = self.stored(export, dialect, "a.json")
        (entry,) = store.all(Entry)
        self.assertEqual((entry.key, entry.fields), ("7", {"soil": "clay", "sun": "full"}))
        self.assertEqual([one.key for one in store.all(Comment)], ["c1"])

    def test_several_selectors_of_a_fact_that_can_have_several_values(self) -> None:
        export = (
            '{"id": 1, "tags": "a,b", "words": ["c"], "was": "/old/", "formerly": ["/older/"]}\n'
            * 2
        )
        dialect = """name = "mine"\nformat = "jsonlines"\n[[records]]\nof = "entry"\ntake.id = "id"\ntake.terms = ["tags", "words"]\nsplit.terms = ","
take.other_addresses = ["was", "formerly"]\n"""
        entry = next(iter(self.stored(export, dialect, "a.jsonl").all(Entry)))
        self.assertEqual(entry.terms, ("tag/a", "tag/b", "tag/c"))
        self.assertEqual(
            [address.rpartition("example")[2] for address in entry.addresses],
            ["/old/", "/older/"],
        )

    def test_inline_markup_of_a_body_in_xml(self) -> None:
        export = '<site><post id="1"><text>One <em>two</em> &lt;3</text><title>A <b>b</b></title></post></site>'
        dialect = 'name = "mine"\nformat = "xml"\n[[records]]\nof = "entry"\neach = "/site/post"\ntake.id = "@id"\ntake.body = "text"\ntake.title = "title"\n'
        entry = next(iter(self.stored(export, dialect).all(Entry)))
        self.assertEqual((entry.body.text, entry.title), ("One <em>two</em> &lt;3", "A b"))

    def test_states_joined_and_writers_of_comments(self) -> None:
        export = '{"people": [{"id": 7, "name": "Nell"}], "posts": [{"id": 1, "state": "live", "seen": "all"}], "said": [{"id": 2, "post": 1, "by": 7}]}'
        dialect = """name = "mine"\nformat = "json"\n[values.status]\n"live+all" = "published"
[[records]]\nof = "author"\neach = "$.people[*]"\ntake = { id = "id", name = "name" }
[[records]]\nof = "entry"\neach = "$.posts[*]"\ntake = { id = "id", status = ["state", "seen"] }\njoin.status = "+"
[[records]]\nof = "comment"\neach = "$.said[*]"\ntake = { id = "id", entry = "post", author = "by" }\n"""
        store = self.stored(export, dialect, "a.json")
        self.assertEqual([entry.status for entry in store.all(Entry)], ["published"])
        self.assertEqual([one.author_name for one in store.all(Comment)], ["Nell"])


class Extends(FolderCase):
    def test_a_few_lines_added_to_another(self) -> None:
        self.write(
            "mine.toml",
            'name = "mine"\nextends = "reedpost"\n[values.kind]\nrecipe = "page"\n[[macros]]\nname = "map"\n',
        )
        self.write(
            "again.toml",
            'name = "again"\nextends = "mine.toml"\n[values.kind]\nrecipe = "document"\n',
        )
        from newburrow.dialects import loader

        base = loader.load("reedpost")
        mine = loader.load(str(self.folder / "mine.toml"))
        self.assertEqual(mine.values["kind"], base.values["kind"] | {"recipe": "page"})
        self.assertEqual(
            [macro.name for macro in mine.macros],
            [*(macro.name for macro in base.macros), "map"],
        )
        self.assertEqual((mine.entry, mine.format), (base.entry, base.format))
        again = loader.load(str(self.folder / "again.toml"))
        self.assertEqual(again.values["kind"]["recipe"], "document")
        self.assertEqual(again.macros, mine.macros)

    def test_mistakes(self) -> None:
        self.write("a.xml", rss(item("a", SITE)))
        for text, words in (
            ('name = "m"\nextends = "reedpots"\n', "Did you mean 'reedpost'"),
            ('name = "m"\nextends = "m.toml"\n', "extends itself"),
            ('name = "m"\nextends = "none.toml"\n', "none.toml"),
            ('name = "m"\nextends = "reedpost"\n[entry]\nkindd = "o:x"\n', "m.toml, line 4"),
            (
                'name = "m"\nextends = "reedpost"\n[dates.zones]\nupdated = "Europe/Nowhere"\n',
                "no time zone named",
            ),
            (
                'name = "m"\nextends = "reedpost"\n[dates.zones]\nupdate = "UTC"\n',
                "Did you mean 'updated'",
            ),
            (
                'name = "m"\nextends = "reedpost"\n[replace]\n"x" = "a&b"\n',
                "cannot be replaced",
            ),
        ):
            self.write("m.toml", text)
            self.assertIn(words, self.refused("survey", "a.xml", "--dialect", "m.toml"))


class Guids(FolderCase):
    def test_addresses_by_number_that_only_guids_show(self) -> None:
        def guid(text: str, link: str = "false") -> str:
            return f'<guid isPermaLink="{link}">{text}</guid>'

        self.write("a.xml", rss(
            item("One", SITE + "one/", extra=guid(SITE + "?no=7")), item("Two", SITE + "two/", extra=guid("https://other.example/?no=8")),
            item("Three", SITE + "three/", extra=guid(SITE)), item("Four", SITE + "four/", extra=guid(SITE + "#9")),
        ))  # fmt: skip
        found = export_records.records(detection.examine(self.folder / "a.xml"))
        entries = {one.title: one.addresses for one in found if isinstance(one, Entry)}
        self.assertEqual(
            entries, {"One": (SITE + "?no=7",), "Two": (), "Three": (), "Four": ()}
        )

    def test_mentions_are_not_needed(self) -> None:
        self.write("a.xml", rss(item("One", SITE + "one/", extra="<author>x</author>")))
        found = list(export_records.records(detection.examine(self.folder / "a.xml")))
        self.assertTrue(
            any(isinstance(one, Mention) and isinstance(one.record, Author) for one in found)
        )
