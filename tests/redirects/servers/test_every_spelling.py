"""Every spelling, every parameter and every host: all servers give the same answer, or none, as their lists say."""

from __future__ import annotations

import shutil
from functools import partial
from pathlib import Path
from typing import Any, BinaryIO

from newburrow.decide.decisions import Redirects
from newburrow.redirects import server_files
from newburrow.redirects.redirect_map import RedirectMaps
from newburrow.redirects.servers.apache import SERVER as APACHE
from newburrow.redirects.servers.base import Server
from newburrow.redirects.servers.caddy import SERVER as CADDY
from newburrow.redirects.servers.haproxy import SERVER as HAPROXY
from newburrow.redirects.servers.lighttpd import SERVER as LIGHTTPD
from newburrow.redirects.servers.nginx import SERVER as NGINX
from newburrow.store.journal.rows import GONE, REDIRECTED, UNCHANGED, OldAddress
from tests.helpers import SITE, FolderCase
from tests.redirects.server import Balancer, CaddyServer, Httpd, LighttpdServer, Nginx

NEW, OTHER = "https://new.example/", "https://other.example/"
ANSWERS = (
    ("a/", "a", REDIRECTED),
    ("?print", "printed", REDIRECTED),
    ("?101", "onehundred", REDIRECTED),
    ("index.php?id=3&lang=de", "drei", REDIRECTED),
    ("index.php?id=3&lang=en", "three", REDIRECTED),
    ("index.php?id=4", "four", REDIRECTED),
    ("f?name=caf%C3%A9+x", "cafe", REDIRECTED),
    ("caf%C3%A9/", "coffee", REDIRECTED),
    ("g/", "g#part", REDIRECTED),
    ("h/", "h?x=1#part", REDIRECTED),
    ("old/", "", GONE),
    ("old/?keep=1", "kept", REDIRECTED),
    ("stay/?q=1", "", UNCHANGED),
    ("stay/", "stay", REDIRECTED),
    ("b?Odd-Name[]=1", "odd", REDIRECTED),
    ("sp ace/x", "space", REDIRECTED),
    ("Mixed/", "mixed", REDIRECTED),
    ("mixed/", "small", REDIRECTED),
)
# What is asked for -> where it leads, GONE, or nothing.
ASKED: dict[str, str | int] = {
    "/a/": "a", "/a": "a", "/a/?utm=1": "a?utm=1", "/": "", "/?x=1": "", "/?print": "printed", "/?print=": "printed",
    "/?x=1&print": "printed", "/?101": "onehundred", "/index.php?id=3&lang=de": "drei", "/index.php?lang=de&id=3": "drei",
    "/index.php?lang=en&x=1&id=3": "three", "/index.php?id=3&lang=fr": "", "/index.php?id=3": "", "/index.php?id=33&lang=de": "",
    "/index.php?id=4&a=b": "four", "/index.php?xid=4": "", "/index.php": "", "/f?name=caf%C3%A9+x": "cafe",
    "/f?name=caf%c3%a9%20x": "cafe", "/caf%c3%a9/": "coffee", "/caf%C3%A9/": "coffee", "/cafe%CC%81/": "coffee", "/g/?u=1": "g?u=1#part",
    "/g/": "g#part", "/h/?u=1": "h?x=1&u=1#part", "/h/": "h?x=1#part", "/old/": GONE, "/old/?keep=1": "kept", "/old/?keep=2": GONE,
    "/stay/?q=1": "", "/stay/": "stay", "/b?Odd-Name[]=1": "odd", "/b?Odd-Name%5B%5D=1": "odd", "/sp%20ace/x": "space", "/Mixed/": "mixed",
    "/mixed/": "small", "/2014/05/01/x/": "",
}  # fmt: skip
# A site whose server merges slashes would be sent to itself for ever.
MERGED = OldAddress.of(f"{SITE}/2014/05/01/x/", f"{SITE}2014/05/01/x/", REDIRECTED, "")


def answers() -> list[OldAddress]:
    return [
        OldAddress.of(SITE + old, SITE + old if status == UNCHANGED else NEW + new if new else "", status, "")
        for old, new, status in ANSWERS
    ]  # fmt: skip


class OnNginx(FolderCase):
    server: Server = NGINX
    real: Any = Nginx

    def written(self, rows: list[OldAddress], choice: Redirects) -> list[Path]:
        """The folders of the sites of these answers, in their order."""
        maps = RedirectMaps.learnt(lambda: iter(rows), choice).maps
        folders = [self.folder / "r" / (each.site if each.mark else "") for each in maps]
        for each, folder in zip(maps, folders, strict=True):
            folder.mkdir(parents=True)
            self.server.write(each, lambda name, folder=folder: (folder / name).open("wb"))  # type: ignore[misc]
        return folders

    def check(self, choice: Redirects) -> None:
        server = self.real(self.folder, *self.written([*answers(), MERGED], choice))
        self.assertEqual(server.check(), "")
        with server:
            found = server.ask(*ASKED)
        for (asked, wanted), (status, location) in zip(ASKED.items(), found, strict=True):
            if wanted == GONE:
                self.assertEqual(status, GONE, asked)
                continue
            target = f"{NEW}{wanted}" if wanted else ""
            if choice.queries == "drop":
                target = target.replace("?utm=1", "").replace("?u=1", "").replace("&u=1", "")
            self.assertEqual(location, target, asked)
            if wanted:
                self.assertEqual(status, choice.status, asked)

    def test_the_query_of_a_visitor_goes_along(self) -> None:
        self.check(Redirects())

    def test_the_query_of_a_visitor_is_dropped(self) -> None:
        self.check(Redirects(queries="drop", status=302))

    def test_two_old_hosts_in_one_server(self) -> None:
        rows = [
            OldAddress.of(f"{SITE}{n}/", f"{NEW}a/{n}", REDIRECTED, "") for n in ("p", "q", "r")
        ]
        rows += [
            OldAddress.of(f"{OTHER}{n}/", f"{NEW}b/{n}", REDIRECTED, "") for n in ("p", "q")
        ]
        rows += [OldAddress.of(f"{OTHER}index.php?id=1", f"{NEW}one", REDIRECTED, "")]
        server = self.real(self.folder, *self.written(rows, Redirects()))
        self.assertEqual(server.check(), "")
        with server:
            for host, found in (
                ("mistlebank.example", ["a/p", "a/r", ""]),
                ("www.mistlebank.example:8080", ["a/p", "a/r", ""]),
                ("other.example", ["b/p", "", "one"]),
                ("WWW.other.example", ["b/p", "", "one"]),
                ("third.example", ["", "", ""]),
                ("127.0.0.1:8080", ["a/p", "a/r", ""]),  # the first one, tried out
            ):
                told = server.ask("/p/", "/r/", "/index.php?id=1", host=host)
                wanted = [NEW + new if new else "" for new in found]
                self.assertEqual([location for _status, location in told], wanted, host)

    def test_a_whole_domain_sent_on_and_what_arrives(self) -> None:
        rows = [
            OldAddress.of(f"{SITE}{n}/", f"{NEW}a/{n}", REDIRECTED, "") for n in ("p", "q", "r")
        ]
        rows += [
            OldAddress.of(f"{SITE}a/q", f"{NEW}x", REDIRECTED, ""),
            OldAddress.of(f"{SITE}z/", "", GONE, ""),
        ]
        choice = Redirects(places=("new-server", "whole-domain"))
        maps = RedirectMaps.learnt(lambda: iter(rows), choice)

        def open_file(name: str) -> BinaryIO:
            path = self.folder / name
            path.parent.mkdir(parents=True, exist_ok=True)
            return path.open("wb")

        written = server_files.write_all(maps, self.server.name, open_file, NEW)
        base = self.folder / "redirects" / self.server.name
        self.assertIn("new-server/", written.guidance)
        folder = self.folder / "new.example"  # of its name, as the guidance says
        shutil.copytree(base / "new-server", folder)
        server = self.real(self.folder, folder)
        self.assertEqual(server.check(), "")
        asked = ("/p/", "/p", "/a/q", "/z/", "/none")
        with server:
            found = server.ask(*asked, host="new.example")
            elsewhere = server.ask("/p/")
        self.assertEqual(
            [new or (status if status == GONE else "") for status, new in found],
            [f"{NEW}a/p", f"{NEW}a/p", "", GONE, ""],
        )
        self.assertEqual(elsewhere[0][1], "")
        (line,) = [path.read_text() for path in (base / "whole-domain").iterdir()]
        self.assertIn("https://new.example", line)


class OnApache(OnNginx):
    server = APACHE
    real = Httpd


class OnApacheInAFolder(OnNginx):
    server = APACHE
    real = partial(Httpd, how="folder")


class OnHaproxy(OnNginx):
    server = HAPROXY
    real = Balancer


class OnCaddy(OnNginx):
    server = CADDY
    real = CaddyServer


class OnLighttpd(OnNginx):
    server = LIGHTTPD
    real = LighttpdServer
