"""Menus, the front page, and embeds."""

import json

from newburrow.convert.body.embeds import Embeds
from newburrow.convert.plan import menus
from newburrow.convert.step import bodies
from newburrow.dialects.schema import Embed
from newburrow.markup.html import Fragment
from newburrow.model import Body, Entry, MenuItem
from tests.convert.cases import HOST, MoveCase
from tests.helpers import SITE, FolderCase, item, newburrow, rows, rss

FILM = Embed(
    page="https://video.example/films/{film}", frame="https://video.example/embed/{film}"
)


def line(key: str, target: str, parent: str = "", **more: object) -> MenuItem:
    return MenuItem(
        key=key, menu="main", label=key.upper(), target=target, parent=parent, **more
    )


class Menus(MoveCase):
    LINES = (
        line("a", "1"), line("b", "/gone/", "a"), line("c", "https://other.example/x"), line("d", "2"), line("e", "/", "f"),
        line("f", "1", "e"), line("g", "9"),
    )  # fmt: skip

    def planned(self) -> tuple[MenuItem, ...]:
        pages = [Entry(key="1", kind="page", slug="x", permalink=SITE + "x/"),
                 Entry(key="2", kind="page", slug="y", permalink=SITE + "y/", status="removed")]  # fmt: skip
        self.converted(*pages, *self.LINES)
        return menus.plan(self.context)

    def test_written_where_the_import_has_a_place(self) -> None:
        self.host_toml = HOST + "[site]\nmenus = true\n"
        made = self.planned()
        self.assertEqual([(one.key, one.parent, one.target.removeprefix(SITE)) for one in made],
                         [("a", "", "p/x.html"), ("b", "a", ""), ("c", "", "https://other.example/x"), ("d", "", ""), ("g", "", ""),
                          ("e", "", ""), ("f", "e", "p/x.html")])  # fmt: skip
        self.assertEqual(self.codes().count("menu-target"), 3)
        self.assertEqual(self.fate("a", "menuitem")[0], "moved")

    def test_told_line_by_line_where_it_has_none(self) -> None:
        self.assertEqual(self.planned(), ())
        told = next(row[5] for row in self.journal.follow_ups.rows() if row[0] == "menu")
        self.assertIn(
            "1 A → https://mistlebank.example/p/x.html; 1.1 B → (nothing); 2 C → https://other.example/x;",
            told,
        )
        self.assertEqual(self.fate("a", "menuitem")[0], "left-out")

    def test_the_front_page(self) -> None:
        page = Entry(key="1", kind="page", slug="x", title="Welcome", permalink=SITE + "x/")
        self.converted(page, site_facts={"front_page": "1"})
        self.assertEqual(menus.of_site(self.context).front_page, "")
        self.assertIn("front-page", self.codes())
        self.setUp()
        self.host_toml = HOST + "[site]\nfront_page = true\n"
        self.converted(page, site_facts={"front_page": "1"})
        self.assertEqual(menus.of_site(self.context).front_page, "1")


class OnTheRealProgram(FolderCase):
    def test_menus_and_the_front_page_there_and_back(self) -> None:
        space = 'xmlns:rp="https://reedpost.example/ns/archive/2"'
        head = ('<rp:front>7</rp:front><rp:signpost board="main" words="Home" to="7"><rp:signpost board="main" words="Out" '
                'to="https://other.example/"></rp:signpost></rp:signpost>')  # fmt: skip
        own = "<rp:id>7</rp:id><rp:sort>sheet</rp:sort><rp:state>live</rp:state><rp:slug>home</rp:slug>"
        self.write(
            "feed.xml", rss(item("Home", SITE + "home/", "x", own), head=head, attributes=space)
        )
        before = "feed.xml"
        for host in ("reedpost", "plainleaf", "quarrydesk", "jsonfeed", "bag"):
            self.run_ok("move", before, "--to", host, "--out", host)
            before = f"{host}/new"
        self.run_ok("move", before, "--to", "lanternlog", "--out", "last")
        told = {row["kind"]: row["what"] for row in rows(self.folder / "last/follow-ups.csv")}
        self.assertIn(
            "1 Home → https://mistlebank.example/about/home; 1.1 Out → https://other.example/",
            told["menu"],
        )
        self.assertIn(
            "was “Home”, which is now at https://mistlebank.example/about/home",
            told["front-page"],
        )

    def test_a_format_without_a_place_for_menus_says_so(self) -> None:
        text = newburrow("hosts", "lanternlog", folder=self.folder).stdout
        self.write("mine.toml", text.replace("[site]\n", "[site]\nmenus = true\n"))
        self.write("feed.xml", rss(item("T", SITE + "t/")))
        self.assertIn(
            "no place for menus",
            self.refused("move", "feed.xml", "--to", "mine.toml", "--out", "m"),
        )


class Forms(MoveCase):
    def shown(self, body: str, form: str, elements: str = "") -> str:
        self.host_toml = (
            HOST.split("[markup]", maxsplit=1)[0]
            + f"[markup]\nembed = {json.dumps(form)}\n{elements}"
        )
        self.converted(Entry(key="1", slug="x", permalink=SITE + "x/"))
        self.context.embeds = Embeds([FILM], form)
        self.said: list[str] = []
        made = bodies.to_host_html(
            Body(body), SITE, self.context, lambda code, **_facts: self.said.append(code)
        )
        self.setUp()
        return made.text

    def test_frames_and_addresses_in_the_hosts_form(self) -> None:
        frame = '<p>a</p><iframe src="https://video.example/embed/owl" title="Owl"></iframe>'
        alone = "<p>a</p><p><a href='https://video.example/films/owl'>https://video.example/films/owl</a></p>"
        page = "https://video.example/films/owl"
        for body in (frame, alone):
            self.assertEqual(self.shown(body, "address"), f"<p>a</p><p>{page}</p>")
            self.assertEqual(
                self.shown(body, "[film at={address}]"), f"<p>a</p>[film at={page}]"
            )
            self.assertIn(
                '<iframe src="https://video.example/embed/owl"', self.shown(body, "frame")
            )
            self.assertIn("<iframe", self.shown(body, ""))
            self.assertEqual(self.said, [])
            self.assertIn(f'href="{page}"', self.shown(body, "", 'elements = ["p", "a"]'))
            self.assertEqual(self.said, ["embed"])
        self.assertEqual(
            self.shown("<p>see https://video.example/films/owl</p>", "address"),
            "<p>see https://video.example/films/owl</p>",
        )

    def test_only_an_address_alone_is_an_embed(self) -> None:
        known = Embeds([FILM], "frame")
        for text, wanted in (
            ("<p>https://video.example/films/owl</p>", 1), ("<p>https://video.example/films/owl <img src='x'></p>", 0),
            ("<p>https://elsewhere.example/films/owl</p>", 0), ("<p><b>https://video.example/films/owl</b></p>", 0), ("<p></p>", 0),
        ):  # fmt: skip
            self.assertEqual(len(known.alone(Fragment(text), text)), wanted, text)
