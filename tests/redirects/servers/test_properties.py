"""Whatever stands in an address, each real server takes what is written for it, and answers as the map says or not at all."""

from __future__ import annotations

import re
import shutil
from pathlib import Path

from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import strategies as st

from newburrow.core import url
from newburrow.redirects.servers.apache import SERVER as APACHE
from newburrow.redirects.servers.base import Server
from newburrow.redirects.servers.caddy import SERVER as CADDY
from newburrow.redirects.servers.haproxy import SERVER as HAPROXY
from newburrow.redirects.servers.lighttpd import SERVER as LIGHTTPD
from newburrow.redirects.servers.nginx import SERVER as NGINX
from newburrow.store.journal.rows import GONE, REDIRECTED, OldAddress
from tests.helpers import SITE, FolderCase
from tests.redirects.server import Balancer, CaddyServer, Httpd, LighttpdServer, Nginx, map_of
from tests.redirects.servers.test_nginx import target_of

HOSTS = ("https://new.example", "https://elsewhere.example")
SIGNS = "\"'{}[]()<>;:,.$%&*+?^|~#@!=\\` \t\n\r\0\x7fAaZz09-_é日\u202e\u0301/"
WORDS = (
    "%2F",
    "%00",
    "%22",
    "%0A",
    "${host}",
    "$uri",
    "%{HOST}",
    "\\1",
    "..",
    "//evil.example",
    "~^",
    "default",
    "a.html",
)
pieces = st.lists(
    st.one_of(st.text(SIGNS, max_size=6), st.sampled_from(WORDS), st.text(max_size=3)),
    max_size=4,
)
paths = pieces.map("".join).map(lambda text: text.replace("\ud800", "").lstrip("/"))
answers = st.builds(
    lambda path, query, host, new, gone: OldAddress.of(
        f"{SITE}{path}{query}", "" if gone else f"{host}/{new}", GONE if gone else REDIRECTED, ""
    ),
    paths, st.sampled_from(("", "", "", "?entry=5", "?a=1&b=2")), st.sampled_from(HOSTS), paths, st.booleans(),
)  # fmt: skip
moves = st.lists(answers, min_size=1, max_size=25)


class OfNginx(FolderCase):
    server: Server = NGINX
    real: type[Nginx] = Nginx

    def serving(self, out: Path) -> Nginx:
        return self.real(self.folder, out)

    @settings(
        max_examples=12,
        phases=(Phase.generate,),
        suppress_health_check=[HealthCheck.differing_executors],
    )
    @given(moves, st.lists(paths, max_size=10))
    def test_the_answer_is_that_of_the_map_or_none(
        self, move: list[OldAddress], others: list[str]
    ) -> None:
        known = {
            key: row
            for row in move
            if (key := url.key(row.old)) and (row.status == GONE or url.key(row.new))
        }
        rows = list(known.values())
        shutil.rmtree(self.folder)
        out = self.folder / "redirects"
        out.mkdir(parents=True)
        self.server.write(map_of(rows), lambda name: (out / name).open("wb"))
        asked = [
            url.safe(target_of(one))
            for one in (*(row.old for row in rows), *(SITE + one for one in others))
        ]
        server = self.serving(out)
        self.assertEqual(server.check(), "")
        with server:
            found = server.ask(*asked)
        for number, (status, location) in enumerate(found):
            if location:  # never to a place that no answer names
                self.assertEqual(status, 301)
                self.assertIn(
                    location.split("/")[2], {row.new.split("/")[2] for row in rows if row.new}
                )
            # An encoded or doubled slash is one slash to some, and so the address another one.
            if number < len(rows) and not re.search(
                r"%2F|.//", rows[number].old.partition("://")[2], re.IGNORECASE
            ):
                self.assertIn(
                    (status, location.replace("%24", "$")),
                    self.right(rows[number], known),
                    rows[number].old,
                )

    def right(self, row: OldAddress, known: dict[str, OldAddress]) -> list[tuple[int, str]]:
        """The answer of the map, or none; and for what has a query that no server looks up, that of its path."""
        target = url.safe(row.new).replace("%24", "$")
        answers = [(200, ""), (400, ""), (404, ""), (row.status, target if row.new else "")]
        path, mark, query = url.key(row.old).partition("?")
        alone = (
            known.get(path) if mark and not re.fullmatch(r"\w+=\w+(&\w+=\w+)*", query) else None
        )
        if alone:
            rest = url.split(row.old).query  # type: ignore[union-attr]
            carried = url.safe(f"{alone.new}?{rest}").replace("%24", "$")
            answers += [
                (alone.status, ""),
                (alone.status, url.safe(alone.new)),
                (alone.status, carried),
            ]
        return answers


class OfApache(OfNginx):
    server = APACHE
    real = Httpd

    def right(self, row: OldAddress, known: dict[str, OldAddress]) -> list[tuple[int, str]]:
        """httpd would cut a target at the last question mark: a second one is written as %3F."""
        answers = super().right(row, known)
        for status, target in list(answers):
            at, mark, query = target.partition("?")
            answers.append((status, at + mark + query.replace("?", "%3F")))
        return answers


class OfApacheInAFolder(OfApache):
    def serving(self, out: Path) -> Nginx:
        return Httpd(self.folder, out, how="folder")


class OfHaproxy(OfNginx):
    server = HAPROXY
    real = Balancer


class OfCaddy(OfNginx):
    server = CADDY
    real = CaddyServer


class OfLighttpd(OfNginx):
    server = LIGHTTPD
    real = LighttpdServer
