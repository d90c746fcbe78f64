import random
from pathlib import Path

from newburrow.core import url
from newburrow.redirects import table
from newburrow.redirects.servers.nginx import SERVER
from newburrow.store.journal.rows import GONE, REDIRECTED, UNCHANGED, OldAddress
from tests.helpers import SITE, FolderCase, demo_export
from tests.redirects.server import Nginx, map_of

NASTY = ['"', "'", "{", "}", ";", "$uri", "${host}", "\\", "\\n", "\n", "\r\n", "\t", " ", "~^", "*", "(.*)", "[a-z]+", "|", "#", "?", "%",
         "\u202eabc", "日本", "é", "e\u0301", "\x7f", "\x01", "a" * 8000, "default", "include x;", "..", "%2F", "%00", "<script>", "A", "a"]  # fmt: skip


def target_of(old: str) -> str:
    """The request target of an address, as a browser sends it."""
    parts = url.split(old)
    assert parts is not None
    return url.path_key(parts.path, "") + (f"?{parts.query}" if parts.query else "")


class Written(FolderCase):
    def write_rows(self, rows: list[OldAddress]) -> Path:
        out = self.folder / "redirects"
        out.mkdir()
        SERVER.write(map_of(rows), lambda name: (out / name).open("wb"))
        return out

    def answers(self, rows: list[OldAddress], *targets: str) -> list[tuple[int, str]]:
        server = Nginx(self.folder, self.write_rows(rows))
        self.assertEqual(server.check(), "")
        with server:
            return server.ask(*(targets or (target_of(row.old) for row in rows)))

    def test_each_status(self) -> None:
        rows = [
            OldAddress.of(SITE + "a/", "https://new.example/a.html", REDIRECTED, ""),
            OldAddress.of(SITE + "b/", "", GONE, ""),
            OldAddress.of(SITE + "c.html", SITE + "c.html", UNCHANGED, ""),
            OldAddress.of(SITE + "?entry=5", "https://new.example/d.html", REDIRECTED, ""),
            OldAddress.of(SITE + "index.php?entry=6", "", GONE, ""),
        ]
        found = self.answers(
            rows,
            "/a/",
            "/b/",
            "/c.html",
            "/?entry=5",
            "/index.php?entry=6",
            "/a/?from=mail",
            "/?x=1&entry=5",
            "/none",
            "/?entry=7",
        )
        self.assertEqual(found, [
            (301, "https://new.example/a.html"), (410, ""), (200, ""), (301, "https://new.example/d.html"), (410, ""),
            (301, "https://new.example/a.html?from=mail"), (301, "https://new.example/d.html"), (200, ""), (200, ""),
        ])  # fmt: skip

    def test_letter_case_decides_only_where_it_must(self) -> None:
        rows = [
            OldAddress.of(SITE + "One/", SITE + "1.html", REDIRECTED, ""),
            OldAddress.of(SITE + "two/", SITE + "2.html", REDIRECTED, ""),
            OldAddress.of(SITE + "TWO/", SITE + "3.html", REDIRECTED, ""),
            OldAddress.of(SITE + "PAGE.html", SITE + "page.html", REDIRECTED, ""),
            OldAddress.of(SITE + "Four/", SITE + "4.html", REDIRECTED, ""),
            OldAddress.of(SITE + "x/", SITE + "four/", REDIRECTED, ""),
        ]
        found = self.answers(
            rows, "/one/", "/two/", "/TWO/", "/PAGE.html", "/page.html", "/Four/", "/four/"
        )
        self.assertEqual([location.removeprefix(SITE) or status for status, location in found],
                         ["1.html", "2.html", "3.html", "page.html", 200, "4.html", 200])  # fmt: skip

    def test_several_rules_stand_behind_one_expression(self) -> None:
        rows = []
        for number in range(60):
            for old, new in (
                (f"blog/tree-{number}/", f"articles/tree-{number}/"),
                (f"cider/press{number}x.php", f"p/press{number}x.html"),
                (f"{2010 + number % 9}/{1 + number % 12:02}/a{number}-bud/", f"a{number}-bud"),
                (f"see?no={number * 3}", f"n/{number * 3}"),
                (f"see?name=owl{number}x", f"names/owl{number}x"),
            ):
                rows.append(OldAddress.of(SITE + old, SITE + new, REDIRECTED, ""))
        asked = {
            "/blog/not-listed": "articles/not-listed/",
            "/cider/not-listed.php": "p/not-listed.html",
            "/cider/not-listed.php/": 200,
            "/2011/03/not-listed/": "not-listed",
            "/2011/13/not-listed/": 200,
            "/2011/03/not-listed/x": 200,
            "/see?no=7777": "n/7777",
            "/see?name=not-listed": "names/not-listed",
            "/see": 200,
        }
        found = self.answers(rows, *asked)
        self.assertEqual(
            [location.removeprefix(SITE) or status for status, location in found],
            list(asked.values()),
        )
        maps = (self.folder / "redirects" / "newburrow-maps.conf").read_text("utf-8")
        self.assertEqual(
            maps.count("$newburrow_rule_path"), 2
        )  # where it is used, and what it is

    def test_addresses_that_hold_anything(self) -> None:
        chance = random.Random("nasty")
        rows: dict[str, OldAddress] = {}
        for number in range(400):
            path = "/".join(
                "".join(chance.choices(NASTY, k=chance.randint(1, 3)))
                for _ in range(chance.randint(1, 3))
            )
            path = path.replace("?", "%3F").replace("#", "%23")
            old, new = (
                f"{SITE}{number}/{path}",
                f'https://new.example/{number}?a=$host{chance.choice(NASTY)}"x',
            )
            rows.setdefault(url.key(old), OldAddress.of(old, new, REDIRECTED, ""))
        found = self.answers(list(rows.values()))
        for row, (status, location) in zip(rows.values(), found, strict=True):
            if "%00" in row.old:
                self.assertEqual(status, 400)
                continue
            if max(len(row.old), len(row.new)) > 4000:
                self.assertEqual(status, 200)
                continue
            self.assertEqual(
                (status, location), (301, url.safe(row.new).replace("$", "%24")), row.old
            )

    def test_what_nginx_cannot_be_told_is_said(self) -> None:
        out = self.write_rows([
            OldAddress.of(SITE + "a%00\nevil;", SITE + "y", REDIRECTED, ""),
            OldAddress.of(SITE + "a" * 5000, SITE + "y", REDIRECTED, ""),
        ])  # fmt: skip
        text = (out / "newburrow-maps.conf").read_text()
        self.assertEqual(text.count("# Not written"), 2)
        self.assertNotIn("\nevil", text)

    def test_the_bytes_are_the_same_each_time(self) -> None:
        rows = [
            OldAddress.of(f"{SITE}{n}/", f"{SITE}{n}.html", REDIRECTED, "") for n in range(50)
        ]
        first = (self.write_rows(rows) / "newburrow-maps.conf").read_bytes()
        self.folder = self.folder / "again"
        self.folder.mkdir()
        self.assertEqual((self.write_rows(rows) / "newburrow-maps.conf").read_bytes(), first)


class OfTheDemo(FolderCase):
    def test_every_old_address_is_answered_as_the_map_says(self) -> None:
        self.write("export.zip", demo_export())
        self.run_ok("move", "export.zip", "--to", "lanternlog", "--out", "m")
        rows = list(table.read(self.folder / "m/redirects/addresses.csv"))
        self.assertGreater(len(rows), 200)
        self.assertEqual({row.status for row in rows}, {UNCHANGED, REDIRECTED, GONE})
        new_pages = sorted({row.new for row in rows if row.status != GONE})
        with Nginx(self.folder, self.folder / "m/redirects/nginx") as server:
            found = server.ask(*(target_of(row.old) for row in rows))
            pages = server.ask(*(target_of(page) for page in new_pages))
        for row, answer in zip(rows, found, strict=True):
            self.assertEqual(
                answer, (row.status, row.new if row.status == REDIRECTED else ""), row.old
            )
        # What is redirected to is a page, not another redirect.
        self.assertEqual({status for status, _location in pages}, {200})

    def test_redirects_are_written_again_from_the_table(self) -> None:
        self.write("export.zip", demo_export())
        self.run_ok("move", "export.zip", "--to", "lanternlog", "--out", "m")
        maps = self.folder / "m/redirects/nginx/newburrow-maps.conf"
        first = maps.read_bytes()
        maps.unlink()
        printed = self.run_ok("redirects", "m", "--for", "nginx")
        self.assertEqual(maps.read_bytes(), first)
        self.assertIn("nginx -t", printed)
