"""Rules that convert to lowercase, on the servers that can; on the others each address is listed."""

import json
import random
from pathlib import Path

from newburrow.redirects.servers.apache import SERVER as APACHE
from newburrow.redirects.servers.base import Server
from newburrow.redirects.servers.caddy import SERVER as CADDY
from newburrow.redirects.servers.haproxy import SERVER as HAPROXY
from newburrow.redirects.servers.json_file import SERVER as JSON
from newburrow.redirects.servers.lighttpd import SERVER as LIGHTTPD
from newburrow.redirects.servers.nginx import SERVER as NGINX
from newburrow.redirects.servers.snippet import SERVER as SNIPPET
from newburrow.store.journal.rows import GONE, REDIRECTED, OldAddress
from tests.helpers import SITE, FolderCase
from tests.redirects.server import Balancer, CaddyServer, Httpd, LighttpdServer, Nginx, map_of
from tests.redirects.servers.test_nginx import target_of
from tests.redirects.servers.test_snippet import seen, site

NEW = "https://new.example/"
TREES = ["Apple", "Pear", "Quince", "Medlar", "Cob", "Plum", "Damson", "Gage", "Cherry", "Sloe", "Crab"]  # fmt: skip
# Nobody listed these.
UNLISTED = {
    "/Wiki/Late_Russet": "articles/late-russet/",
    "/Wiki/late_russet": "articles/late-russet/",
    "/w/LateRusset77.html": "trees/laterusset77",
}
NONE = ("/wiki/Late_Russet", "/Wiki/Late Russet", "/Wiki/Late_Russet/x", "/w/LateRusset.htm")


def rows(new: str = NEW) -> list[OldAddress]:
    """A wiki whose names get small letters, with exceptions."""
    chance = random.Random("wiki")
    found = {}
    for number in range(60):
        first, second = chance.choice(TREES), chance.choice(TREES)
        found[f"Wiki/{first}_{second}"] = f"articles/{first}-{second}/".lower()
        found[f"w/{first}{number}.html"] = f"trees/{first}{number}".lower()
    found |= {"Wiki/Odd_One": "elsewhere", "Wiki/Odd One": "odder"}
    answers = [OldAddress.of(SITE + old, new + to, REDIRECTED, "") for old, to in found.items()]
    return [*answers, OldAddress.of(SITE + "Wiki/Gone_Now", "", GONE, "")]


class OnHaproxy(FolderCase):
    server: Server = HAPROXY
    real: type[Nginx] = Balancer
    can_lower = True

    def serving(self, out: Path) -> Nginx:
        return self.real(self.folder, out)

    def test_listed_and_unlisted_addresses(self) -> None:
        out = self.folder / "redirects"
        out.mkdir()
        listed = rows()
        self.server.write(map_of(listed), lambda name: (out / name).open("wb"))
        server = self.serving(out)
        self.assertEqual(server.check(), "")
        asked = [target_of(row.old) for row in listed]
        with server:
            self.assertEqual(server.ask(*asked), [(row.status, row.new) for row in listed])
            unlisted = server.ask(*UNLISTED)
            none = server.ask(*(address.replace(" ", "%20") for address in NONE))
            with_query = server.ask("/Wiki/Late_Russet?from=mail") if self.can_lower else []
        self.assertTrue(all(answer in ((200, ""), (404, "")) for answer in none), none)
        if self.can_lower:
            self.assertEqual(unlisted, [(301, NEW + to) for to in UNLISTED.values()])
            self.assertEqual(with_query, [(301, f"{NEW}articles/late-russet/?from=mail")])
        else:
            self.assertTrue(
                all(answer in ((200, ""), (404, "")) for answer in unlisted), unlisted
            )


class OnApache(OnHaproxy):
    server = APACHE
    real = Httpd


class InAFolderOfApache(OnApache):
    can_lower = False

    def serving(self, out: Path) -> Nginx:
        return Httpd(self.folder, out, how="folder")


class OnNginx(OnHaproxy):
    server, real, can_lower = NGINX, Nginx, False


class OnCaddy(OnHaproxy):
    server, real, can_lower = CADDY, CaddyServer, False


class OnLighttpd(OnHaproxy):
    server, real, can_lower = LIGHTTPD, LighttpdServer, False


class Elsewhere(FolderCase):
    def written(self, server: Server, name: str, answers: list[OldAddress]) -> str:
        server.write(map_of(answers), lambda file: (self.folder / file).open("wb"))
        return (self.folder / name).read_text("utf-8")

    def test_the_snippet_in_a_browser(self) -> None:
        with site(lambda path: f"<body>new {path}</body>") as new:
            snippet = self.written(SNIPPET, "snippet.html", rows(new))
            self.assertLess(len(snippet), 3000)
            with site(lambda path: f"<!doctype html><body>{snippet}old {path}</body>") as old:
                for path, wanted in (
                    ("Wiki/Late_Russet", "new /articles/late-russet/"),
                    ("Wiki/Odd_One", "new /elsewhere"),
                    ("wiki/Late_Russet", "old /wiki"),
                ):
                    self.assertIn(wanted, seen(old + path), path)

    def test_json_says_which_rules_do_it(self) -> None:
        made = json.loads(self.written(JSON, "redirects.json", rows()))
        self.assertEqual([rule["lowers"] for rule in made["rules"]], [True, True])
        self.assertIn("capitals become lowercase", made["rules"][0]["what"])
        self.assertEqual(len(made["before_the_rules"]), 3)

    def test_a_page_of_the_new_site_is_not_sent_to_itself(self) -> None:
        """On one domain the rule would match the new address too."""
        answers = [
            OldAddress.of(
                f"{SITE}wiki/{tree}{n}", f"{SITE}wiki/{tree.lower()}{n}", REDIRECTED, ""
            )
            for tree in TREES
            for n in range(9)
        ]
        made = json.loads(self.written(JSON, "redirects.json", answers))
        self.assertFalse(any(rule["lowers"] for rule in made["rules"]))
        self.assertGreater(
            len(made["rules"]), 5
        )  # one for each name, which says how it is spelled
