"""Several exports become one move: driven through the program."""

import json
import shutil
import unittest
from datetime import UTC, datetime

from hypothesis import given
from hypothesis import strategies as st

from newburrow.formats.exports.several import scoped
from newburrow.model import Author, Body, Comment, Entry, Media, Term
from newburrow.model.keys import bare, scope_of
from newburrow.model.reading import Relation
from newburrow.store.content_store import Store
from newburrow.store.merge.likeness import likeness, same_author, same_text, visible
from newburrow.store.merge.merged_record import united
from tests.helpers import SITE, FolderCase, item, rows, rss, zipped

MAY = datetime(2023, 5, 6, 8, tzinfo=UTC)
LONG = "<p>We grafted forty scions of the old pear, and the fridge in the shed held all of them until May.</p>"
DATE = "<pubDate>Sat, 06 May 2023 08:00:00 +0000</pubDate>"
ATOM = """<feed xmlns="http://www.w3.org/2005/Atom"><title>Orchard</title><id>tag:mistlebank.example,2023:feed</id>
<link rel="alternate" href="{site}"/><updated>2023-06-01T00:00:00Z</updated>{entries}</feed>"""


def atom(*entries: str, site: str = SITE) -> str:
    return ATOM.format(site=site, entries="".join(entries))


def entry(number: int, title: str, body: str, link: str = "", more: str = "") -> str:
    shown = f'<link rel="alternate" href="{link}"/>' if link else ""
    return (
        f"<entry><id>tag:mistlebank.example,2023:{number}</id><title>{title}</title>{shown}"
        f"<published>2023-05-06T08:00:00Z</published><updated>2023-05-06T08:00:00Z</updated>"
        f'<author><name>Nell Birch</name></author><content type="html"><![CDATA[{body}]]></content>{more}</entry>'
    )


class TwoExports(FolderCase):
    def move(self, *paths: str) -> list[dict[str, str]]:
        self.run_ok("move", *paths, "--to", "bag", "--out", "m")
        return rows(self.folder / "m/ledger.csv")

    def fates(self, *paths: str) -> dict[str, tuple[str, str]]:
        return {
            row["title"]: (row["fate"], row["reason"])
            for row in self.move(*paths)
            if row["kind"] == "post"
        }

    def test_the_same_entry_by_address_is_one_and_the_fuller_wins(self) -> None:
        self.write(
            "a.xml", rss(item("Grafting", SITE + "graft/", "We grafted forty scions", DATE))
        )
        self.write(
            "b.xml",
            atom(
                entry(
                    1,
                    "Grafting",
                    LONG,
                    "http://www.mistlebank.example/graft/",
                    "<category term='Pears'/>",
                )
            ),
        )
        self.move("a.xml", "b.xml")
        ledger = rows(self.folder / "m/ledger.csv")
        self.assertEqual(
            sorted(row["fate"] for row in ledger if row["kind"] == "post"), ["merged", "moved"]
        )
        # what entries are filed under is counted for the one
        with Store(self.folder / "m/content.sqlite") as store:
            self.assertEqual(store.uses(), {"author Nell Birch": 1, "term tag/Pears": 1})
        reason = next(
            row["reason"] for row in ledger if row["fate"] == "merged" and row["kind"] == "post"
        )
        self.assertIn("by its address", reason)
        shown = json.loads(self.run_ok("show", "a.xml", "b.xml", "graft", "--json"))
        self.assertEqual(
            (shown["record"]["body"]["text"], len(shown["terms"]), shown["authors"][0]["name"]),
            (LONG, 1, "Nell Birch"),
        )
        lacked = [
            row["what"]
            for row in rows(self.folder / "m/follow-ups.csv")
            if row["kind"] == "lacked"
        ]
        self.assertTrue(any("a.xml lacked the terms" in one for one in lacked), lacked)

    def test_by_title_date_and_text_where_nothing_else_is_shared(self) -> None:
        self.write(
            "a.xml",
            rss(
                item("Grafting", SITE + "graft/", LONG, DATE),
                item("News", SITE + "news/", "Apples.", DATE),
            ),
        )
        self.write("b.xml", atom(entry(1, "Grafting", LONG.replace("forty", "40"), "https://old.example/1"),
                                 entry(2, "News", "The press is broken and no juice will be made.", "https://old.example/2"),
                                 site="https://old.example/"))  # fmt: skip
        found = [
            (row["title"], row["fate"])
            for row in self.move("a.xml", "b.xml")
            if row["kind"] == "post"
        ]
        self.assertEqual(
            sorted(found),
            [
                ("Grafting", "merged"),
                ("Grafting", "moved"),
                ("News", "moved"),
                ("News", "moved"),
            ],
        )
        answers = {
            row["old"]: row["new"] for row in rows(self.folder / "m/redirects/addresses.csv")
        }
        self.assertEqual(answers["https://old.example/1"], answers[SITE + "graft/"])

    def test_one_id_in_two_exports_is_not_one_object(self) -> None:
        one, two = (
            '{"id": 7, "title": "Pears", "terms": [3]}',
            '{"id": 7, "title": "Owls", "terms": [3]}',
        )
        dialect = """name = "mine"
format = "jsonlines"
[[records]]
of = "entry"
file = "e.jsonl"
take.id = "id"
take.title = "title"
terms.tag = "$.terms[*]"
[[records]]
of = "term"
file = "t.jsonl"
take.id = "id"
take.name = "name"
"""
        self.write("mine.toml", dialect)
        for name, record, term in (("a", one, "Fruit"), ("b", two, "Birds")):
            terms = f'{{"id": 3, "name": "{term}"}}'
            zipped(
                self.folder / f"{name}.zip",
                **{"e.jsonl": record.encode(), "t.jsonl": terms.encode()},
            )
        words = ("survey", "a.zip", "b.zip", "--dialect", "mine.toml", "--json")
        found = json.loads(self.run_ok(*words))
        self.assertEqual(found["counts"], {"post": 2, "tag": 2})
        self.assertEqual(
            sorted((one["name"], one["entries"]) for one in found["terms"]),
            [("Birds", 1), ("Fruit", 1)],
        )

    def test_comments_of_both_are_on_the_one_entry_once(self) -> None:
        def said(number: int, text: str) -> str:
            reply = '<thr:in-reply-to xmlns:thr="http://purl.org/syndication/thread/1.0" ref="tag:mistlebank.example,2023:1"/>'
            return entry(number, "", text, "", reply)

        self.write(
            "a.xml",
            atom(
                entry(1, "Grafting", LONG, SITE + "graft/"),
                said(5, "Well done"),
                said(6, "Pears!"),
            ),
        )
        self.write(
            "b.xml",
            atom(
                entry(1, "Grafting", LONG, SITE + "graft/"),
                said(9, "Well  done"),
                said(8, "And owls?"),
            ),
        )
        ledger = [
            (row["fate"]) for row in self.move("a.xml", "b.xml") if row["kind"] == "comment"
        ]
        self.assertEqual(sorted(ledger), ["merged", "moved", "moved", "moved"])

    def test_two_files_of_one_name_are_two(self) -> None:
        for name, title in (("one", "Pears"), ("two", "Owls")):
            self.write(
                f"{name}/about.md", f"---\ntitle: {title}\ndate: 2023-05-06\n---\nOf {title}.\n"
            )
            self.write(
                f"{name}.xml",
                rss(item(title, "", "Text", "<guid isPermaLink='false'>7</guid>")).replace(
                    SITE, ""
                ),
            )
        for paths in (("one/about.md", "two/about.md"), ("one.xml", "two.xml")):
            found = self.fates(*paths)
            self.assertEqual(
                {title: fate for title, (fate, _why) in found.items()},
                {"Pears": "moved", "Owls": "moved"},
                paths,
            )
            shutil.rmtree(self.folder / "m")

    def test_two_sites_are_kept_in_one_bag(self) -> None:
        self.write("a.xml", rss(item("Grafting", SITE + "graft/", LONG, DATE)))
        self.write(
            "b.xml",
            atom(
                entry(1, "News", "Apples.", "https://old.example/1"),
                site="https://old.example/",
            ),
        )
        self.run_ok("keep", "a.xml", "b.xml", "--out", "bag")
        self.run_ok("move", "bag", "--to", "plainleaf", "--out", "m")
        answers = {
            row["old"]: row["status"] for row in rows(self.folder / "m/redirects/addresses.csv")
        }
        for old in ("https://old.example/", "https://old.example/1", SITE, SITE + "graft/"):
            self.assertIn(answers[old], ("200", "301"), old)

    def test_files_in_a_zip_of_their_own(self) -> None:
        self.write(
            "a.xml",
            rss(item("Grafting", SITE + "graft/", '<img src="/uploads/2023/pear.png">', DATE)),
        )
        zipped(self.folder / "files.zip", **{"site/uploads/2023/pear.png": b"picture"})
        self.run_ok("move", "a.xml", "files.zip", "--to", "bag", "--out", "m")
        self.assertEqual(
            [
                row["fate"]
                for row in rows(self.folder / "m/ledger.csv")
                if row["kind"] == "media"
            ],
            ["moved"],
        )
        self.assertEqual(
            [one["format"] for one in self.survey("a.xml", "files.zip")["sources"]],
            ["rss", "files"],
        )
        self.assertIn(
            "files.zip: no content of its own", self.run_ok("survey", "a.xml", "files.zip")
        )
        self.assertFalse(
            [
                row
                for row in rows(self.folder / "m/follow-ups.csv")
                if row["severity"] == "error"
            ]
        )

    def test_two_folders_without_a_site_have_each_their_own(self) -> None:
        for name, title in (("one", "Pears"), ("two", "Owls")):
            self.write(
                f"{name}/about.md",
                f"---\ntitle: {title}\ndate: 2023-05-06\n---\nForty scions of {title}. [next](more.md)\n",
            )
            self.write(
                f"{name}/more.md",
                f"---\ntitle: More {title}\ndate: 2023-05-07\n---\nOf {title}.\n",
            )
        ledger = [row for row in self.move("one", "two") if row["kind"] == "post"]
        self.assertEqual({row["fate"] for row in ledger}, {"moved"})
        self.assertEqual(len({row["new_address"] for row in ledger}), 4)
        bodies = (self.folder / "m/new/data/content-model/entry.jsonl").read_text()
        for row in ledger:
            if row["title"].startswith("More"):
                self.assertIn(row["new_address"] + '\\">next', bodies)


class Records(unittest.TestCase):
    @given(
        st.from_regex(r"[a-z0-9/#-]{1,12}", fullmatch=True),
        st.sampled_from(["", "export-2:", "export-13:"]),
    )
    def test_a_key_marked_is_bare_again(self, key: str, mark: str) -> None:
        (found,) = scoped([Entry(key=key, parent=key, terms=(key,))], mark, "")
        self.assertEqual(
            (scope_of(found.key), bare(found.key), found.terms[0]), (mark, key, found.parent)
        )  # type: ignore[union-attr]

    def test_what_is_one_everywhere_is_not_marked(self) -> None:
        items = [
            Comment(key="c", entry="https://a.example/x"),
            Media(key="file:a/b", path="a/b"),
            Relation("1", "term", "3"),
        ]
        comment, media, relation = scoped(items, "export-2:", "export-2/")
        self.assertEqual((comment.key, comment.entry), ("export-2:c", "https://a.example/x"))  # type: ignore[union-attr]
        self.assertEqual((media.key, media.path), ("export-2/file:a/b", "export-2/a/b"))  # type: ignore[union-attr]
        self.assertEqual(
            (relation.entry, relation.word, relation.scope), ("export-2:1", "3", "export-2:")
        )  # type: ignore[union-attr]

    def test_authors(self) -> None:
        one = Author(key="1", name="Nell Birch", email="nell@mistlebank.example")
        for other, same in (
            (Author(key="2", name="N.", email="NELL@mistlebank.example"), True), (Author(key="2", name="nell birch"), True),
            (Author(key="2", name="Nell Birch", email="other@mistlebank.example"), False), (Author(key="2"), False),
        ):  # fmt: skip
            self.assertEqual(same_author(one, other), same, other)

    def test_texts(self) -> None:
        def of(text: str, day: int = 6) -> Entry:
            return Entry(key="e", body=Body(text), published=MAY.replace(day=day))

        self.assertTrue(
            same_text(of(LONG), of("We grafted forty scions of the old pear, and …"))
        )
        self.assertFalse(same_text(of(LONG), of(LONG, 9)))
        self.assertFalse(same_text(of(LONG), of("The press is broken.")))
        self.assertEqual(visible("<p>a &amp;  b<!-- c --></p>"), "a & b")
        self.assertEqual(likeness("", ""), 100)

    def test_a_file_that_only_the_second_has_is_as_it_is_there(self) -> None:
        said = Media(key="1", address=SITE + "a.mp3", size=7)
        there = Media(
            key="2",
            address=SITE + "a.mp3",
            path="export-2/a.mp3",
            size=9,
            digest="d",
            media_type="audio/mpeg",
        )
        found = united(said, there).record
        self.assertEqual(
            (found.key, found.path, found.size, found.digest), ("1", "export-2/a.mp3", 9, "d")
        )

    def test_union(self) -> None:
        one = Entry(
            key="1",
            permalink=SITE + "a",
            body=Body("short"),
            fields={"colour": "red"},
            authors=("x",),
        )
        two = Entry(
            key="2",
            permalink=SITE + "b",
            body=Body(LONG),
            summary="s",
            lead_picture="p",
            authors=("y",),
            position=3,
        )
        found = united(one, two)
        self.assertEqual(found.record, Entry(key="1", permalink=SITE + "b", addresses=(SITE + "a",), body=Body(LONG), summary="s",
                                             lead_picture="p", fields={"colour": "red"}, authors=("y", "x"), position=3))  # fmt: skip
        self.assertIn("lead picture", found.first_lacked)
        self.assertIn("field colour", found.second_lacked)
        self.assertEqual(found.differ, ["body"])
        self.assertEqual(
            united(
                Term(key="1", name="A"), Term(key="2", name="A", description="d")
            ).record.description,
            "d",
        )
