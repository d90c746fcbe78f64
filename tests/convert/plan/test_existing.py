"""What the new host holds already, the ids that are free there, its limits, and which files go along."""

import re
from datetime import UTC, datetime

from newburrow.convert.plan import ids
from newburrow.core import url
from newburrow.decide.decisions import AuthorChoice, MediaChoice, NewChoice
from newburrow.model import Author, Body, Comment, Entry, Media, Site
from newburrow.store.journal.existing_keys import comment_key
from newburrow.store.journal.journal import Journal
from newburrow.store.journal.rows import ExistingItem
from tests.convert.cases import HOST, MoveCase
from tests.helpers import SITE, FolderCase, item, rows, rss

AT = datetime(2023, 5, 6, 8, tzinfo=UTC)


def post(key: str, slug: str, **more: object) -> Entry:
    facts: dict[str, object] = {
        "slug": slug,
        "permalink": f"{SITE}{slug}/",
        "published": AT,
        "title": slug.title(),
    }
    return Entry(key=key, **(facts | more))  # type: ignore[arg-type]


class Known(MoveCase):
    def test_one_that_is_there_is_not_made_again(self) -> None:
        known = Comment(
            key="x", author_name="Ann", published=AT, body=Body("Fine, that", "text")
        )

        def held(journal: Journal) -> None:
            journal.existing.add(
                "guid", "urn:owl", ExistingItem("Owl box", "", SITE + "there/owl.html", "77")
            )
            journal.existing.add(
                "comment", comment_key(known, SITE + "there/owl.html"), ExistingItem("", "", "")
            )
            journal.existing.add("author", "Nell", ExistingItem("Nell", "", ""))

        records = [
            Author(key="n", name="Nell"), Author(key="h", name="Hob"), post("1", "owls", guid="urn:owl", authors=("n",)),
            Comment(key="a", entry="1", author_name="ann", published=AT, body=Body("<p>Fine; that</p>")),
            Comment(key="b", entry="1", author_name="Ben", body=Body("New")), post("2", "pears", authors=("h",),
            body=Body('<a href="/owls/">owls</a>')),
        ]  # fmt: skip
        made = self.converted(*records, held=held)
        self.assertEqual(list(made), ["2"])
        self.assertEqual(self.fate("1"), ("merged", "is on the new host already"))
        self.assertEqual(
            (self.fate("a", "comment")[0], self.fate("b", "comment")[0]), ("merged", "left-out")
        )
        self.assertEqual(
            (self.fate("n", "author")[0], self.fate("h", "author")[0]), ("merged", "moved")
        )
        self.assertEqual(self.answers()["/owls/"], (301, "/there/owl.html"))
        self.assertIn(SITE + "there/owl.html", made["2"].entry.body.text)
        self.assertIn("comments-skipped", self.codes())

    def test_updated_under_the_id_that_it_has_there(self) -> None:
        def held(journal: Journal) -> None:
            there = ExistingItem("Owls", "", SITE + "there/", "77")
            for kind, key in (
                ("old", url.key(SITE + "owls/")),
                ("id entry", "77"),
                ("id entry", "2"),
            ):
                journal.existing.add(kind, key, there)

        new = NewChoice("newhost", SITE, already_there="update")
        made = self.converted(post("1", "owls"), post("2", "pears"), held=held, new=new)
        self.assertEqual(
            {key: one.new_address for key, one in made.items()},
            {"77": SITE + "there/", "3": f"{SITE}2023/05/pears.html"},
        )
        self.assertEqual(
            sorted(row[2:] for row in ids.changed(self.context)), [("1", "77"), ("2", "3")]
        )

    def test_another_of_the_same_address_or_slug_gives_way(self) -> None:
        def held(journal: Journal) -> None:
            there = ExistingItem("Other owls", "", f"{SITE}2023/05/owls.html")
            journal.existing.add("entry", "mistlebank.example/2023/05/owls.html", there)
            journal.existing.add("slug", "pears", there)
            journal.existing.add("title", "plums", there)

        made = self.converted(
            post("1", "owls"), post("2", "pears"), post("3", "plums"), held=held
        )
        self.assertEqual(
            [one.new_address.rpartition("/")[2] for one in made.values()],
            ["owls-2.html", "pears-2.html", "plums.html"],
        )
        self.assertEqual(
            [code for code in self.codes() if code != "no-author"],
            ["address-held", "address-held", "same-title"],
        )

    def test_files_of_one_name(self) -> None:
        def held(journal: Journal) -> None:
            journal.existing.add("media", "a-aaaaaaaaaa.png", ExistingItem("a" * 64, "", ""))
            journal.existing.add(
                "media", "b-bbbbbbbbbb.png", ExistingItem("b" * 10 + "c" * 54, "", "")
            )

        files = [
            Media(key=one, path=f"{one}.png", digest=one * 64, address=f"{SITE}{one}.png")
            for one in "ab"
        ]
        self.converted(*files, held=held)
        self.assertEqual(self.copied, [f"media/b-{'b' * 64}.png"])
        self.assertEqual(self.fate("a", "media"), ("merged", "is on the new host already"))


class Ids(MoveCase):
    def test_of_two_sites_none_is_given_twice(self) -> None:
        other = Site(key="export-2:site", address="https://other.example/")
        records = [
            other,
            post("7", "a"),
            post("export-2:7", "b", parent="export-2:8", kind="page"),
            post("export-2:8", "c", kind="page"),
        ]
        self.host_toml = HOST.replace('"/p/{slug}.html"', '"/p/{slug}-{id}"\nparents = true')
        made = self.converted(
            *records, Comment(key="1", entry="7"), Comment(key="export-2:1", entry="export-2:7")
        )
        self.assertEqual(sorted(made), ["1", "7", "8"])
        self.assertEqual(
            (made["1"].entry.parent, made["1"].new_address, made["1"].comments[0].entry),
            ("8", f"{SITE}p/b-1", "1"),
        )
        self.assertEqual(len({made["7"].comments[0].key, made["1"].comments[0].key}), 2)

    def test_numbers_alone_or_all_anew(self) -> None:
        records = [
            post("tag:x", "a"),
            post("35", "b"),
            post("1", "c"),
            Media(key="m", path="p.png", digest="d" * 64, entry="tag:x"),
        ]
        self.host_toml = HOST + '[ids]\nkeep = "numbers"\n'
        self.assertEqual(sorted(self.converted(*records)), ["1", "2", "35"])
        self.assertEqual((self.writer.files[0].key, self.writer.files[0].entry), ("1", "2"))
        self.setUp()
        self.host_toml = HOST + '[ids]\nkeep = "none"\n'
        self.assertEqual(list(self.converted(*records)), ["1", "2", "3"])


class Limits(MoveCase):
    def test_titles_slugs_types_and_sizes(self) -> None:
        self.host_toml = HOST.replace(
            "[authors]", '[media]\ntypes = ["image/*"]\nfile_bytes = 100\n[authors]'
        ) + (
            '[slugs]\nlongest = 12\nreserved = ["search"]\nforbidden = ["page-*"]\n[limits]\ntitle = 12\n'
        )
        files = [
            Media(key="big", path="big.png", size=101, digest="a" * 64), Media(key="pdf", path="x.pdf", digest="b" * 64, size=3),
            Media(key="ok", path="ok.png", size=100, digest="c" * 64),
        ]  # fmt: skip
        made = self.converted(*files, post("1", "search", title="A long, long title"), post("2", "page-2"), post("3", "a-very-long-slug"),
                              post("4", "a-very-long", published=AT), post("5", "a-very-long"))  # fmt: skip
        self.assertEqual(made["1"].entry.title, "A long,…")
        slugs = [
            one.new_address.rpartition("/")[2].removesuffix(".html") for one in made.values()
        ]
        self.assertEqual(
            slugs, ["search-1", "entry-page-2", "a-very-long", "a-very-lon-2", "a-very-lon-3"]
        )
        self.assertEqual(
            [self.fate(key, "media")[0] for key in ("big", "pdf", "ok")],
            ["failed", "failed", "moved"],
        )
        self.assertLessEqual({"title-cut", "file-not-taken", "new-slug"}, set(self.codes()))

    def test_bytes_in_all(self) -> None:
        self.host_toml = HOST + "[limits]\ntotal_bytes = 2000\n"
        files = [
            Media(
                key=f"m{n}",
                path=f"{n}.png",
                address=f"{SITE}{n}.png",
                size=n * 100,
                digest=str(n) * 64,
            )
            for n in (1, 9, 5, 7)
        ]
        self.converted(*files, post("1", "a"))
        self.assertEqual(
            [self.fate(f"m{n}", "media")[0] for n in (1, 5, 7, 9)],
            ["moved", "moved", "moved", "failed"],
        )
        self.assertEqual(self.answers()["/9.png"][0], 410)
        self.assertIn("host-limit", self.codes())


class Files(MoveCase):
    def test_only_what_is_shown(self) -> None:
        files = [
            Media(key=one, path=f"{one}.png", address=f"{SITE}{one}.png", digest=one * 64)
            for one in "abcde"
        ]
        body = '<img src="/a.png" srcset="/b.png 2x, /a.png 1x"><a href="/c.png?size=9#x">c</a>'
        made = self.converted(
            *files,
            post("1", "x", body=Body(body), lead_picture="d"),
            media=MediaChoice("shown"),
        )
        self.assertEqual([path[6] for path in self.copied], ["a", "b", "c", "d"])
        self.assertEqual(self.fate("e", "media")[0], "left-out")
        self.assertEqual(self.answers()["/e.png"][0], 410)
        # what asks for a size asks for the file
        self.assertIn('c-cccccccccc.png#x"', made["1"].entry.body.text)

    def test_a_lead_picture_that_the_host_shows_stands_once(self) -> None:
        self.host_toml = HOST.replace(
            "[authors]", "[media]\nlead_picture = true\nlead_shown = true\n[authors]"
        )
        picture = Media(
            key="a", path="a.png", address=f"{SITE}a.png", digest="a" * 64, caption="Owl"
        )
        shown = '<figure><a href="/a.png"><img src="/a.png"></a><figcaption>Owl</figcaption></figure>'
        for body, kept in (
            (shown + "<p>x</p>", "<p>x</p>"), ("<p><img src='/a.png'></p>x", "x"), ("<p>x</p>" + shown, None),
            ("<p><img src='/a.png'> by Nell</p>", "<p> by Nell</p>"),
        ):  # fmt: skip
            made = self.converted(picture, post("1", "x", body=Body(body), lead_picture="a"))
            text = made["1"].entry.body.text
            self.assertEqual(text, kept) if kept is not None else self.assertIn("<img", text)
            self.assertIsNotNone(made["1"].lead_picture)
            self.setUp()


class OnTheRealProgram(FolderCase):
    def feed(self) -> str:
        return rss(
            *(item(f"T{n}", f"{SITE}2023/05/t{n}/", f"<p>Text {n}</p>") for n in range(5))
        )

    def test_a_second_run_adds_nothing_twice(self) -> None:
        for host in ("lanternlog", "reedpost", "plainleaf", "quarrydesk", "jsonfeed", "bag"):
            self.write("feed.xml", self.feed())
            self.run_ok("move", "feed.xml", "--to", host, "--out", f"{host}-1")
            self.run_ok(
                "move",
                "feed.xml",
                "--to",
                host,
                "--out",
                f"{host}-2",
                "--holds",
                f"{host}-1/new",
            )
            ledger = rows(self.folder / f"{host}-2/ledger.csv")
            self.assertEqual(
                {row["fate"] for row in ledger if row["kind"] == "post"}, {"merged"}, host
            )

    def test_lists_of_addresses_and_wrong_ones(self) -> None:
        self.write("feed.xml", self.feed())
        self.write(
            "known.csv",
            f"address,title\n{SITE}about/x,X\n{SITE}leaves/t0,Another\n{SITE}leaves/t1,T1\n",
        )
        self.write("known.txt", f"{SITE}leaves/t2\n\n")
        self.run_ok(
            "move",
            "feed.xml",
            "--to",
            "lanternlog",
            "--out",
            "m",
            "--holds",
            "known.csv",
            "--holds",
            "known.txt",
        )
        fates = {
            row["title"]: (row["fate"], row["new_address"].rpartition("/")[2])
            for row in rows(self.folder / "m/ledger.csv")
        }
        self.assertEqual([fates[f"T{n}"] for n in range(4)],
                         [("moved", "t0-2"), ("merged", "t1"), ("merged", "t2"), ("moved", "t3")])  # fmt: skip
        kinds = {row["kind"] for row in rows(self.folder / "m/follow-ups.csv")}
        self.assertLessEqual({"held-by-address", "address-held"}, kinds)
        self.write("bad.txt", f"{SITE}leaves/t2\nno address\n")
        done = self.refused_in("m", "bad.txt")
        self.assertIn("bad.txt, line 2", done)
        self.assertIn("none.txt", self.refused_in("m", "none.txt"))

    def refused_in(self, folder: str, holds: str) -> str:
        path = self.folder / folder / "move.toml"
        changed = re.sub(r"(?m)^holds = .*$", f'holds = ["../{holds}"]', path.read_text())
        path.write_text(changed)
        return self.refused("move", folder)

    def test_an_author_that_is_there_cannot_be_created(self) -> None:
        self.write(
            "feed.xml",
            rss(item("T", SITE + "t/", "x", "<author>nell@mistlebank.example (Nell)</author>")),
        )
        self.run_ok("move", "feed.xml", "--to", "lanternlog", "--out", "one")
        self.run_ok(
            "draft", "feed.xml", "--to", "lanternlog", "--out", "m", "--holds", "one/new"
        )
        table = self.folder / "m/authors.csv"
        table.write_text(table.read_text().replace(",keep,", ",create,"))
        self.assertIn("has an author Nell already", self.refused("move", "m"))
        self.assertEqual(AuthorChoice().action, "keep")
