"""Lists of entries by date, their further pages and feeds, index files, and links to single comments."""

from datetime import UTC, datetime

from msgspec.structs import replace

from newburrow.decide.decisions import Selection
from newburrow.dialects.schema import Addresses, AuthorMap
from newburrow.model import Author, Body, Comment, Entry, Term
from tests.convert.cases import DIALECT, HOST, MoveCase
from tests.helpers import SITE

ADDRESSES = Addresses(
    dates=["/{year}/", "/{year}/{month}/{day}/"], further="{+list}page/{page}/", per_page=2, feed="{+list}feed/",
    index=["index.html"], comment="reply-{id}",
)  # fmt: skip


def post(n: int, day: int, body: str = "", **more: object) -> Entry:
    return Entry(
        key=str(n), title=f"Post {n}", slug=f"post-{n}", permalink=f"{SITE}2023/05/{day:02}/post-{n}/",
        published=datetime(2023, 5, day, 12, tzinfo=UTC), body=Body(body), **more,
    )  # type: ignore[arg-type]  # fmt: skip


class Lists(MoveCase):
    dialect = replace(
        DIALECT, addresses=ADDRESSES, author=AuthorMap(archive="/writers/{login}/")
    )
    host_toml = HOST.replace(
        "[kinds.post]",
        'site = { feed = "/new.xml", dates = ["/{year}/", "/{year}/{month}/"] }\n[kinds.post]',
    )

    def test_lists_by_date_go_to_those_of_the_new_host(self) -> None:
        self.converted(post(1, 3), post(2, 4), choose=Selection(leave=[]))
        told = self.answers()
        self.assertEqual(told["/2023/"], (200, "/2023/"))
        self.assertEqual(told["/2023/05/03/"], (301, "/2023/05/"))
        self.assertEqual(told["/2023/index.html"], (301, "/2023/"))
        self.assertEqual(told["/2023/05/03/post-1/index.html"], (301, "/2023/05/post-1.html"))

    def test_a_date_of_which_nothing_moves_is_gone(self) -> None:
        self.converted(post(1, 3), post(2, 4), post(3, 9, status="draft"), rules=[])
        told = self.answers()
        self.assertNotIn("/2023/05/09/", told)
        self.host_toml = self.host_toml.replace(
            ', dates = ["/{year}/", "/{year}/{month}/"]', ""
        )
        self.folder = self.folder / "again"
        self.folder.mkdir()
        self.converted(post(1, 3), post(2, 4))
        self.assertEqual(self.answers()["/2023/"], (410, ""))

    def test_further_pages_and_feeds(self) -> None:
        term, above = (
            Term(key="t", slug="pear", name="Pear", vocabulary="category", parent="u"),
            Term(key="u", slug="fruit", name="Fruit", vocabulary="category"),
        )
        posts = [post(n, n, terms=("t",), authors=("a",)) for n in range(1, 6)]
        made = self.converted(
            Author(key="a", name="Ada Row", login="ada"), term, above, *posts,
            post(9, 9, f'<a href="{SITE}in/fruit/pear/page/77/">older</a> <a href="{SITE}in/fruit/pear/feed/">news</a>'),
        )  # fmt: skip
        told = self.answers()
        self.assertEqual([told[f"/page/{n}/"][0] for n in (2, 3)], [301, 301])
        self.assertNotIn("/page/4/", told)
        self.assertEqual(told["/in/fruit/pear/page/3/"], (301, "/labels/pear/"))
        # nothing is filed under it alone
        self.assertEqual(told["/in/fruit/page/3/"], (410, ""))
        self.assertEqual(told["/in/fruit/pear/feed/"], (301, "/new.xml"))
        self.assertEqual(told["/writers/ada/page/2/"], (301, "/by/ada-row/"))
        # More than the list ever had, which an old link may say all the same.
        self.assertIn(f'href="{SITE}labels/pear/"', made["9"].entry.body.text)
        self.assertIn(f'href="{SITE}new.xml"', made["9"].entry.body.text)
        self.assertNotIn("dead-link", self.codes())


class Spellings(MoveCase):
    def test_a_link_that_is_written_otherwise(self) -> None:
        self.dialect = replace(DIALECT, addresses=Addresses())
        there = f"{SITE}2023/05/post-1.html"
        one = replace(post(1, 3), addresses=(f"{SITE}?entry=1",))
        links = ("2023/05/03/post-1", "2023/05/03/POST-1/", "2023/05/03/post-1/index.html#top", "2023/05/03/post-1?lang=de",
                 "index.php?entry=1", "index.php?entry=9")  # fmt: skip
        text = self.converted(
            one, post(2, 4, " ".join(f'<a href="/{link}">x</a>' for link in links))
        )["2"].entry.body.text
        wanted = (
            there,
            there,
            f"{there}#top",
            f"{there}?lang=de",
            there,
            f"{SITE}index.php?entry=9",
        )
        self.assertEqual(
            [part.partition('"')[0] for part in text.split('href="')[1:]], list(wanted)
        )
        self.assertEqual(self.codes().count("dead-link"), 1)
        self.assertEqual(self.answers()["/2023/05/03/post-1"], (301, "/2023/05/post-1.html"))


class Comments(MoveCase):
    dialect = replace(DIALECT, addresses=ADDRESSES)
    host_toml = HOST + '[comments]\nfragment = "c{id}"\n'

    def said(self, body: str) -> str:
        comments = [
            Comment(key="7", entry="1", body=Body("Fine."), status="approved"),
            Comment(key="8", entry="1", body=Body("Junk."), status="spam"),
        ]
        return self.converted(post(1, 3), post(2, 4, body), *comments)["2"].entry.body.text

    def test_a_link_to_a_comment_names_it_as_the_new_host_does(self) -> None:
        text = self.said(
            f'<a href="{SITE}2023/05/03/post-1/#reply-7">a</a> <a href="/2023/05/03/post-1/#reply-8">b</a>'
            '<a href="/2023/05/03/post-1/#top">c</a> <a href="#reply-7">d</a> <a href="#reply-99">e</a>'
        )
        there = f"{SITE}2023/05/post-1.html"
        for href in (f"{there}#c7", there, f"{there}#top", "#c7", "#reply-99"):
            self.assertIn(f'href="{href}"', text)
        self.assertIn("comment-links", self.codes())

    def test_nothing_is_said_where_both_hosts_name_them_alike(self) -> None:
        self.host_toml = HOST + '[comments]\nfragment = "reply-{id}"\n'
        self.assertIn("#reply-7", self.said('<a href="/2023/05/03/post-1/#reply-7">a</a>'))
        self.assertNotIn("comment-links", self.codes())
