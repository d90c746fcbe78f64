"""A real Apache httpd with what is written for it, by its map and by a folder's own file."""

import random
from pathlib import Path

from newburrow.core import url
from newburrow.redirects import table
from newburrow.redirects.servers.apache import SERVER
from newburrow.redirects.servers.nginx import SERVER as NGINX
from newburrow.store.journal.rows import GONE, REDIRECTED, UNCHANGED, OldAddress
from tests.helpers import SITE, FolderCase, demo_export
from tests.redirects.server import Httpd, Nginx, map_of
from tests.redirects.servers.test_nginx import NASTY, target_of


def alike(at: str) -> str:
    """An address as servers write it that encode a dollar sign or a second question mark."""
    return at.replace("%24", "$").replace("%3F", "?")


class Written(FolderCase):
    def answers(self, how: str, rows: list[OldAddress], *targets: str) -> list[tuple[int, str]]:
        out = self.folder / "redirects"
        out.mkdir()
        SERVER.write(map_of(rows), lambda name: (out / name).open("wb"))
        server = Httpd(self.folder, out, how=how)
        self.assertEqual(server.check(), "")
        with server:
            return server.ask(*(targets or (target_of(row.old) for row in rows)))

    def both(self, rows: list[OldAddress], *targets: str) -> list[tuple[int, str]]:
        found = self.answers("map", rows, *targets)
        self.setUp()
        by_folder = self.answers("folder", rows, *targets)
        self.assertEqual(
            [status for status, _at in by_folder], [status for status, _at in found]
        )
        return [*found, *by_folder]

    def test_each_status_and_rules_with_exceptions(self) -> None:
        rows = [
            OldAddress.of(
                f"{SITE}2023/05/{n:02}/post-{n}/",
                f"https://new.example/2023/05/post-{n}.html",
                REDIRECTED,
                "",
            )
            for n in range(1, 9)
        ]
        rows += [
            OldAddress.of(SITE + "2023/05/09/odd/", "https://new.example/even.html", REDIRECTED, ""),
            OldAddress.of(SITE + "2023/05/10/old/", "", GONE, ""), OldAddress.of(SITE + "2023/05/11/stay/", SITE + "2023/05/11/stay/", UNCHANGED, ""),
            OldAddress.of(SITE + "?entry=5", "https://new.example/d.html", REDIRECTED, ""), OldAddress.of(SITE + "?entry=6", "", GONE, ""),
        ]  # fmt: skip
        self.assertEqual(len(map_of(rows).rules), 1)
        asked = ("/2023/05/03/post-3/", "/2023/05/03/post-3", "/2023/05/09/odd/", "/2023/05/10/old/", "/2023/05/11/stay/", "/?entry=5",
                 "/?x=1&entry=5&y", "/?entry=6", "/?entry=55", "/none", "/2023/05/03/post-3/?from=mail")  # fmt: skip
        self.assertEqual(self.both(rows, *asked), 2 * [
            (301, "https://new.example/2023/05/post-3.html"), (301, "https://new.example/2023/05/post-3.html"),
            (301, "https://new.example/even.html"), (410, ""), (404, ""), (301, "https://new.example/d.html"),
            (301, "https://new.example/d.html"), (410, ""), (404, ""), (404, ""),
            (301, "https://new.example/2023/05/post-3.html?from=mail"),
        ])  # fmt: skip

    def test_two_thousand_addresses_that_hold_anything_are_answered_alike_by_all(self) -> None:
        chance = random.Random("nasty")
        rows: dict[str, OldAddress] = {}
        for number in range(3500):
            path = "/".join(
                "".join(chance.choices(NASTY, k=chance.randint(1, 3)))
                for _ in range(chance.randint(1, 3))
            )
            path = path.replace("?", "%3F").replace("#", "%23")
            old, new = (
                f"{SITE}{number}/{path}",
                f'https://new.example/{number}?a=%{{HOST}}$1\\1{chance.choice(NASTY)}"x',
            )
            if "%2F" not in old and "%00" not in old and max(len(old), len(new)) < 3000:
                rows.setdefault(url.key(old), OldAddress.of(old, new, REDIRECTED, ""))
        self.assertGreater(len(rows), 2000)
        wanted = [(301, alike(url.safe(row.new))) for row in rows.values()]
        found = self.both(list(rows.values()))
        self.setUp()
        out = self.folder / "redirects"
        out.mkdir()
        NGINX.write(
            map_of(list(rows.values())),
            lambda name: (out / name).open("wb"),
        )
        with Nginx(self.folder, out) as server:
            found += server.ask(*(target_of(row.old) for row in rows.values()))
        for row, right, answer in zip([*rows.values()] * 3, wanted * 3, found, strict=True):
            self.assertEqual((answer[0], alike(answer[1])), right, row.old)

    def test_what_httpd_cannot_be_told_is_said(self) -> None:
        rows = [
            OldAddress.of(SITE + old, f"{SITE}x{n}", REDIRECTED, "")
            for n, old in enumerate(("a%00\nevil", "a%2Fb", "a" * 5000))
        ]
        out: dict[str, Path] = {}

        def open_file(name: str):  # type: ignore[no-untyped-def]
            out[name] = self.folder / name
            return out[name].open("wb")

        written = SERVER.write(map_of(rows), open_file)
        self.assertEqual(written.skipped, 3)
        self.assertEqual(out["htaccess"].read_text().count("# Not written"), 3)
        self.assertNotIn("\nevil", out["htaccess"].read_text())


class OfTheDemo(FolderCase):
    def test_both_servers_answer_as_the_map_says(self) -> None:
        self.write("export.zip", demo_export())
        self.run_ok("move", "export.zip", "--to", "lanternlog", "--out", "m")
        folder = self.folder / "m/redirects"
        rows = list(table.read(folder / "addresses.csv"))
        wanted = [
            (
                row.status if row.status != UNCHANGED else 404,
                row.new if row.status == REDIRECTED else "",
            )
            for row in rows
        ]
        targets = [target_of(row.old) for row in rows]
        for how in ("map", "folder"):
            with Httpd(self.folder, folder / "apache", how=how) as server:
                self.assertEqual(server.ask(*targets), wanted)
            (self.folder / "nginx").rename(self.folder / how)
        with Nginx(self.folder, folder / "nginx") as nginx:
            self.assertEqual(
                [(404 if status == 200 else status, at) for status, at in nginx.ask(*targets)],
                wanted,
            )
