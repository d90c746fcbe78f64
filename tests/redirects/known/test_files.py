"""Old addresses known from elsewhere: read, answered, and named where nothing is known of them."""

from newburrow.core.problem import BurrowError, Problem
from newburrow.redirects.known import files
from newburrow.redirects.known.found import KnownUrl
from tests.helpers import SITE, FolderCase, item, rows, rss

LOG = (
    '10.0.0.1 - - [06/May/2023:08:00:00 +0000] "GET {} HTTP/1.1" {} 512\n'
    '10.0.0.2 - jo [06/May/2023:08:00:01 +0000] "GET {} HTTP/1.1" {} 99 "https://a.example/" "Some \\"browser\\" 1.0"\n'
)
NGINX = r"""
# location = /no { return 301 /comment; }
server {
  location = /old.html { return 301 /2023/a/; }
  location = "/sp ace" { return 308 https://mistlebank.example/2023/b/; }
  rewrite ^/x\.php$ /old.html permanent;
  rewrite ^/many/(.*)$ /more/$1 permanent;
}
map $uri $new { default ""; /m1 /2023/a/; "/m2" "/2023/b/"; }
"""
APACHE = """RewriteEngine On
Redirect 301 /r1 /2023/a/
RedirectPermanent "/r2" https://mistlebank.example/2023/b/
RewriteRule ^r3\\.html$ /2023/a/ [R=301,L]
RedirectMatch 301 ^/all/(.*)$ /new/$1
Redirect 302 /temporary /2023/a/
"""


class Reading(FolderCase):
    def read(self, text: str) -> tuple[list[tuple[str, str, int]], list[str]]:
        found = list(files.read(self.write("f", text)))
        known = [
            (one.address, one.target, one.visits) for one in found if isinstance(one, KnownUrl)
        ]
        return known, [one.code for one in found if isinstance(one, Problem)]

    def test_each_form(self) -> None:
        for text, wanted, said in (
            (LOG.format("/a/", 200, "/b?x=1", 301) + "broken\n" + LOG.format("/none", 404, "/a/", 200),
             [("/a/", "", 1), ("/b?x=1", "", 1), ("/a/", "", 1)], ["known-skipped"]),
            (NGINX, [("/old.html", "/2023/a/", 0), ("/sp ace", SITE + "2023/b/", 0), ("/x.php", "/old.html", 0), ("/m1", "/2023/a/", 0), ("/m2", "/2023/b/", 0)], ["old-rule"]),
            (APACHE, [("/r1", "/2023/a/", 0), ("/r2", SITE + "2023/b/", 0), ("/r3.html", "/2023/a/", 0), ("/temporary", "/2023/a/", 0)], ["old-rule"]),
            ("from,to\n/a,/b\n", [("/a", "/b", 0)], []), ('"Page","Views"\n/a,"1,234"\n/b,x\n', [("/a", "", 1234), ("/b", "", 0)], ["known-file"]),
            ("# mine\n/a\nhttps://mistlebank.example/b\n", [("/a", "", 0), (SITE + "b", "", 0)], []),
            ('<?xml version="1.0"?><urlset xmlns="http://www.sitemaps.org/schemas/sitemap/0.9"><url><loc> /a </loc></url></urlset>', [("/a", "", 0)], []),
            ("<urlset><url><loc>/a</loc></url><broken", [("/a", "", 0)], ["known-file"]),
        ):  # fmt: skip
            self.assertEqual(self.read(text), (wanted, said), text[:60])

    def test_what_is_none_of_these(self) -> None:
        for text in ("", "hello there, you\n", "\0\1\2", "<html></html>"):
            with self.assertRaises(BurrowError):
                self.read(text)


class OnTheRealProgram(FolderCase):
    body = "x"

    def moved(self, **files: str) -> dict[str, tuple[str, str]]:
        """Old address from the site on -> status and new address, with these files known."""
        own = "<rp:id>{}</rp:id>"
        self.write("feed.xml", rss(*(item(n.upper(), f"{SITE}2023/{n}/", self.body, own.format(n)) for n in "ab"), head=f"<link>{SITE}</link>",
                                   attributes='xmlns:rp="https://reedpost.example/ns/archive/2"'))  # fmt: skip
        self.run_ok("draft", "feed.xml", "--to", "lanternlog", "--out", "m")
        names = [f'"../{self.write(name, text).name}"' for name, text in files.items()]
        path = self.folder / "m/move.toml"
        path.write_text(path.read_text().replace("known = []", f"known = [{', '.join(names)}]"))
        self.run_ok("move", "m")
        return {
            row["old"].removeprefix(SITE.rstrip("/")): (
                row["status"],
                row["new"].removeprefix(SITE),
            )
            for row in rows(self.folder / "m/redirects/addresses.csv")
        }

    def test_redirects_of_the_old_site_live_on_in_one_step(self) -> None:
        found = self.moved(nginx=NGINX, apache=APACHE + "Redirect 301 /l1 /l2\nRedirect 301 /l2 /l1\nRedirect 301 /r1 /2023/b/\n",
                           table="from,to\n/out,https://elsewhere.example/x\nhttps://other.example/z,/2023/a/\n/lost,/nowhere\n")  # fmt: skip
        for old, new in (
            ("/old.html", "leaves/a"),
            ("/x.php", "leaves/a"),
            ("/m2", "leaves/b"),
            ("/r1", "leaves/a"),
            ("/r3.html", "leaves/a"),
        ):
            self.assertEqual(found[old], ("301", new), old)
        self.assertEqual(found["/out"], ("301", "https://elsewhere.example/x"))
        kinds = [row["kind"] for row in rows(self.folder / "m/follow-ups.csv")]
        self.assertEqual(
            [
                kinds.count(kind)
                for kind in ("redirect-loop", "address-conflict", "old-rule", "unknown-address")
            ],
            [2, 1, 2, 1],
        )
        self.assertEqual(
            [row["address"] for row in rows(self.folder / "m/redirects/unknown.csv")],
            [SITE + "lost"],
        )

    def test_visits_name_what_is_unknown_the_most_visited_first(self) -> None:
        log = LOG.format("/2023/a", 200, "/2023/B/index.html", 200) + LOG.format(
            "/2023/a/?utm=1", 200, "/never", 200
        )
        found = self.moved(
            log=log
            + 2 * LOG.format("/lost/", 200, "/lost/", 200)
            + LOG.format("/?entry=a&x=1", 301, "/2023/a/", 200)
        )
        self.assertEqual(
            (found["/2023/a"], found["/2023/B/index.html"]),
            (("301", "leaves/a"), ("301", "leaves/b")),
        )
        self.assertEqual([old for old in found if "utm" in old or "x=1" in old], [])
        unknown = [
            (row["address"].removeprefix(SITE), row["visits"])
            for row in rows(self.folder / "m/redirects/unknown.csv")
        ]
        self.assertEqual(unknown, [("lost/", "4"), ("never", "1")])
        told = [
            row["what"]
            for row in rows(self.folder / "m/follow-ups.csv")
            if row["kind"] == "unknown-address"
        ]
        self.assertIn("which was visited 4 times", told[0])

    def test_rules_of_the_old_server_answer_for_what_is_known(self) -> None:
        rules = "server {\nrewrite ^/many/(\\w+)$ /2023/$1/ permanent;\nrewrite ^/bad/(.*$ /x permanent;\n}\n"
        self.body = f'<a href="{SITE}many/b#end">b</a> <a href="{SITE}bad/b">c</a>'
        found = self.moved(
            nginx=rules, list="url,visits\n/many/a,7\n/many/none,3\n/2023/b/,9\n"
        )
        self.assertEqual(found["/many/a"], ("301", "leaves/a"))
        self.assertEqual(found["/many/b"], ("301", "leaves/b"))
        self.assertIn(
            "leaves/b#end", (self.folder / "m/new/lanternlog-import.atom").read_text()
        )
        self.assertEqual(list(found)[:2], ["/2023/b/", "/many/a"])  # the most visited first
        self.assertEqual(
            [row["address"] for row in rows(self.folder / "m/redirects/unknown.csv")],
            [SITE + "many/none"],
        )
        dead = [
            row["title"]
            for row in rows(self.folder / "m/follow-up-places.csv")
            if SITE + "bad/b" in row["what"]
        ]
        self.assertEqual(len(dead), 2)

    def test_a_file_that_is_not_there(self) -> None:
        self.moved()
        path = self.folder / "m/move.toml"
        path.write_text(path.read_text().replace("known = []", 'known = ["none.log"]'))
        self.assertIn("Correct old.known", self.refused("move", "m"))


class Advised(FolderCase):
    def test_the_best_pattern_first(self) -> None:
        self.write("feed.xml", rss(*(item(f"P{n}", f"{SITE}2023/05/{n:02}/p{n}/", "x", f"<pubDate>{n:02} May 2023 08:00:00 +0000</pubDate>")
                                     for n in range(1, 13)), head=f"<link>{SITE}</link>"))  # fmt: skip
        self.run_ok("draft", "feed.xml", "--to", "plainleaf", "--out", "m")
        lines = [
            line.split()
            for line in self.run_ok("redirects", "m", "--advise").splitlines()
            if line.startswith("post")
        ]
        self.assertEqual(
            lines[0],
            ["post", "/{year}/{month}/{day}/{slug}/", "(now)", "13", "0", "0", "0", "0"],
        )
        self.assertEqual(lines[1], ["post", "/notes/{year}/{slug}/", "1", "12", "1", "0", "0"])
        # What is visited weighs more than how many addresses there are.
        path = self.folder / "m/move.toml"
        self.write("visits.csv", "url,visits\n/2023/05/03/p3/,41\n")
        path.write_text(path.read_text().replace("known = []", 'known = ["../visits.csv"]'))
        printed = self.run_ok("redirects", "m", "--advise")
        lines = [line.split() for line in printed.splitlines() if line.startswith("post")]
        self.assertEqual([line[-4] for line in lines[:2]], ["0", "41"])
        self.assertEqual(sorted(path.name for path in (self.folder / "m").iterdir()),
                         [".written", "authors.csv", "content.sqlite", "move.toml", "terms.csv"])  # fmt: skip
