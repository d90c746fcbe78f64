"""A real HAProxy, a real Caddy and a real lighttpd with what is written for them."""

import random

from newburrow.core import url
from newburrow.decide.decisions import Redirects
from newburrow.redirects import table
from newburrow.redirects.servers.caddy import SERVER as CADDY
from newburrow.redirects.servers.haproxy import SERVER
from newburrow.redirects.servers.lighttpd import SERVER as LIGHTTPD
from newburrow.store.journal.rows import GONE, REDIRECTED, UNCHANGED, OldAddress
from tests.helpers import SITE, FolderCase, demo_export
from tests.redirects.server import Balancer, CaddyServer, LighttpdServer, Nginx, map_of
from tests.redirects.servers.test_nginx import NASTY, target_of


class ForHaproxy(FolderCase):
    name, server, file = "haproxy", SERVER, "newburrow.map"
    real: type[Nginx] = Balancer
    check_with = "haproxy -c"
    status = 301

    def answers(self, rows: list[OldAddress], *targets: str) -> list[tuple[int, str]]:
        out = self.folder / "redirects"
        out.mkdir()
        self.written = self.server.write(
            map_of(rows, Redirects(status=self.status)),
            lambda name: (out / name).open("wb"),
        )
        self.map = (out / self.file).read_text()
        server = self.real(self.folder, out)
        self.assertEqual(server.check(), "")
        with server:
            return server.ask(*(targets or (target_of(row.old) for row in rows)))

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
        asked = ("/2023/05/03/post-3/", "/2023/05/03/post-3", "/2023/05/09/odd/", "/2023/05/10/old/", "/2023/05/11/stay/", "/?entry=5",
                 "/?x=1&entry=5&y", "/?entry=6", "/?entry=55", "/none")  # fmt: skip
        self.assertEqual(self.answers(rows, *asked), [
            (301, "https://new.example/2023/05/post-3.html"), (301, "https://new.example/2023/05/post-3.html"),
            (301, "https://new.example/even.html"), (410, ""), (200, ""), (301, "https://new.example/d.html"),
            (301, "https://new.example/d.html"), (410, ""), (200, ""), (200, ""),
        ])  # fmt: skip

    def test_a_parameter_says_more_than_the_path(self) -> None:
        rows = [
            OldAddress.of(SITE, "", GONE, ""), OldAddress.of(SITE + "?entry=5", "https://new.example/5", REDIRECTED, ""),
            OldAddress.of(SITE + "x", "https://new.example/x", REDIRECTED, ""), OldAddress.of(SITE + "x?entry=6", "", GONE, ""),
        ]  # fmt: skip
        asked = ("/", "/?entry=5", "/?from=mail", "/x", "/x?entry=6")
        self.assertEqual(self.answers(rows, *asked), [
            (410, ""), (301, "https://new.example/5"), (410, ""), (301, "https://new.example/x"), (410, ""),
        ])  # fmt: skip

    def test_several_parameters(self) -> None:
        rows = [
            OldAddress.of(
                SITE + f"index.php?id={n}&view=x", f"https://new.example/{n}", REDIRECTED, ""
            )
            for n in (35, 36)
        ]
        rows.append(OldAddress.of(SITE + "index.php?id=36&view=y", "", GONE, ""))
        asked = ("/index.php?id=35&view=x", "/index.php?from=mail&view=x&id=35", "/index.php?id=36&view=y", "/index.php?id=36&view=x",
                 "/index.php")  # fmt: skip
        self.assertEqual(self.answers(rows, *asked), [
            *[(301, "https://new.example/35")] * 2, (410, ""), (301, "https://new.example/36"), (200, ""),
        ])  # fmt: skip
        self.assertEqual(self.written.skipped, 0)

    def test_letters_composed_in_either_way(self) -> None:
        rows = [
            OldAddress.of(SITE + "fr\u00fch/", "https://new.example/1", REDIRECTED, ""),
            OldAddress.of(
                SITE + "files/ru%CC%88be.png", "https://new.example/2", REDIRECTED, ""
            ),
        ]
        asked = (
            "/fr%C3%BCh/",
            "/fru%CC%88h",
            "/files/ru%CC%88be.png",
            "/files/r%C3%BCbe.png",
            "/files/rube.png",
        )
        self.assertEqual(self.answers(rows, *asked), [
            *[(301, "https://new.example/1")] * 2, *[(301, "https://new.example/2")] * 2, (200, ""),
        ])  # fmt: skip

    def test_a_slash_at_the_end_or_none(self) -> None:
        rows = [
            OldAddress.of(SITE + "visit/", "https://new.example/p/visit.html", REDIRECTED, ""), OldAddress.of(SITE + "rota", "", GONE, ""),
            OldAddress.of(SITE + "map/", "https://new.example/1", REDIRECTED, ""), OldAddress.of(SITE + "map", "https://new.example/2", REDIRECTED, ""),
            OldAddress.of(SITE + "a.html", "https://new.example/a", REDIRECTED, ""),
        ]  # fmt: skip
        self.status = 308
        asked = ("/visit/", "/visit", "/rota", "/rota/", "/map/", "/map", "/a.html", "/a.html/")
        self.assertEqual(self.answers(rows, *asked), [
            (308, "https://new.example/p/visit.html"), (308, "https://new.example/p/visit.html"), (410, ""), (410, ""),
            (308, "https://new.example/1"), (308, "https://new.example/2"), (308, "https://new.example/a"), (200, ""),
        ])  # fmt: skip

    def test_addresses_that_hold_anything(self) -> None:
        chance = random.Random("nasty")
        rows: dict[str, OldAddress] = {}
        for number in range(600):
            path = "/".join(
                "".join(chance.choices(NASTY, k=chance.randint(1, 3)))
                for _ in range(chance.randint(1, 3))
            )
            path = path.replace("?", "%3F").replace("#", "%23")
            old, new = (
                f"{SITE}{number}/{path}",
                f'https://new.example/{number}?a=%[src]${{host}}{chance.choice(NASTY)}"x',
            )
            rows.setdefault(url.key(old), OldAddress.of(old, new, REDIRECTED, ""))
        found = self.answers(list(rows.values()))
        told = 0
        for row, answer in zip(rows.values(), found, strict=True):
            if answer[0] == 301:
                told += 1
                self.assertEqual(
                    answer[1].replace("%24", "$"),
                    url.safe(row.new).replace("%24", "$"),
                    row.old,
                )
        self.assertEqual(told, len(rows) - self.written.skipped)
        self.assertEqual(self.map.count("# Not written"), self.written.skipped)

    def test_every_old_address_is_answered_as_the_map_says(self) -> None:
        self.write("export.zip", demo_export())
        self.run_ok("move", "export.zip", "--to", "lanternlog", "--out", "m")
        printed = self.run_ok("redirects", "m", "--for", self.name)
        self.assertIn(self.check_with, printed)
        rows = list(table.read(self.folder / "m/redirects/addresses.csv"))
        with self.real(self.folder, self.folder / "m/redirects" / self.name) as server:
            found = server.ask(*(target_of(row.old) for row in rows))
        for row, answer in zip(rows, found, strict=True):
            self.assertEqual(
                answer, (row.status, row.new if row.status == REDIRECTED else ""), row.old
            )


class ForCaddy(ForHaproxy):
    name, server, file = "caddy", CADDY, "newburrow.caddy"  # type: ignore[assignment]
    real = CaddyServer
    check_with = "caddy validate"


class ForLighttpd(ForHaproxy):
    name, server, file = "lighttpd", LIGHTTPD, "newburrow-redirects.conf"  # type: ignore[assignment]
    real = LighttpdServer
    check_with = "lighttpd -tt"
