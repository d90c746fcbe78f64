"""Redirects told in words and followed on real servers."""

import html
import json
import threading
from collections import Counter
from collections.abc import Iterator
from contextlib import contextmanager
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer

from newburrow.core import url
from newburrow.redirects.server_check import shown
from tests.helpers import FolderCase, demo_export, newburrow, rows
from tests.redirects.server import Httpd, Nginx

NEW = "https://new.mistlebank.example/"


@contextmanager
def pages(titles: dict[str, str]) -> Iterator[str]:
    """A new site on loopback: a page for each path, which holds its title; one titled like the site is sent on to it."""

    class Handler(BaseHTTPRequestHandler):
        protocol_version = "HTTP/1.1"

        def do_GET(self) -> None:
            title = titles.get(url.path_key(self.path))
            body = f"<h1>{title}</h1>".encode()
            self.send_response(404 if title is None else 302 if title == NEW else 200)
            if title == NEW:
                self.send_header("Location", NEW)
            self.send_header("Content-Type", "text/html; charset=utf-8")
            self.send_header("Content-Length", str(len(body)))
            self.end_headers()
            self.wfile.write(body)

        def log_message(self, *_words: object) -> None:
            pass

    with ThreadingHTTPServer(("127.0.0.1", 0), Handler) as server:
        threading.Thread(target=server.serve_forever, daemon=True).start()
        yield f"http://127.0.0.1:{server.server_address[1]}"
        server.shutdown()


class Followed(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.write("export.zip", demo_export())
        self.run_ok("draft", "export.zip", "--to", "lanternlog", "--out", "m")
        path = self.folder / "m/move.toml"
        path.write_text(
            path.read_text().replace(
                'address = "https://mistlebank.example/"', f'address = "{NEW}"'
            )
        )
        self.run_ok("move", "m")
        self.titles = {
            url.path_key(url.split(row["new"]).path): ""
            for row in rows(self.folder / "m/redirects/addresses.csv")
            if row["new"]
        }  # type: ignore[union-attr]
        for row in rows(self.folder / "m/ledger.csv"):
            if row["new_address"].startswith(NEW) and row["kind"] in ("post", "page"):
                self.titles[url.path_key(url.split(row["new_address"]).path)] = (
                    f"<i>{html.escape(row['title'])}</i>"  # type: ignore[union-attr]
                )

    def followed(self, server: Nginx, new: str, status: int) -> str:
        return self.run_ok(
            "redirects",
            "m",
            "--follow",
            f"http://127.0.0.1:{server.port}",
            "--new-at",
            new,
            status=status,
        )

    def test_all_is_well_on_nginx_and_httpd(self) -> None:
        redirects = self.folder / "m/redirects"
        with pages(self.titles) as new:
            with Nginx(self.folder, redirects / "nginx") as server:
                self.assertIn(
                    "Every old address is answered as the map says",
                    self.followed(server, new, 0),
                )
            (self.folder / "nginx").rename(self.folder / "done")
            with Httpd(self.folder, redirects / "apache") as server:
                self.assertIn("Every old address", self.followed(server, new, 0))

    def test_what_is_wrong_is_listed(self) -> None:
        maps = self.folder / "m/redirects/nginx/newburrow-maps.conf"
        text = maps.read_text()
        self.assertIn(f'"/news.rss" "{NEW}leaves.atom"', text)
        maps.write_text(
            text.replace(f'"/news.rss" "{NEW}leaves.atom"', f'"/news.rss" "{NEW}none"', 1)
        )
        public = {url.path_key(url.split(row["new"]).path) for row in rows(self.folder / "m/redirects/addresses.csv") if row["new"]}  # type: ignore[union-attr]  # fmt: skip
        paths = sorted(path for path, title in self.titles.items() if title and path in public)
        self.titles[paths[0]] = "something else"
        self.titles[paths[2]] = NEW
        del self.titles[paths[1]]
        with pages(self.titles) as new, Nginx(self.folder, maps.parent) as server:
            told = " ".join(self.followed(server, new, 1).split())
        self.assertIn("goes to", told)
        self.assertIn("the page there does not contain", told)
        self.assertIn("the page there answers 404", told)
        self.assertIn("the new host itself sends", told)
        outcomes = Counter(
            row["outcome"] for row in rows(self.folder / "m/redirects/followed.csv")
        )
        self.assertEqual(outcomes["wrong-target"], 1)
        self.assertGreater(outcomes["right"], 390)

    def test_a_new_site_that_is_not_up_yet(self) -> None:
        redirects = self.folder / "m/redirects/nginx"
        with Nginx(self.folder, redirects) as server:
            base = f"http://127.0.0.1:{server.port}"
            words = ("--follow", base, "--new-at", "http://127.0.0.1:9", "--json")
            found = json.loads(self.run_ok("redirects", "m", *words))
        counts = {outcome: facts["count"] for outcome, facts in found["outcomes"].items()}
        self.assertGreater(counts.pop("page-not-up"), 390)
        self.assertEqual(counts.pop("right"), 5)  # what is gone
        self.assertEqual(set(counts.values()), {0})

    def test_nobody_there_and_wrong_words(self) -> None:
        for base, words in (
            ("http://127.0.0.1:9", "Nobody answers at http://127.0.0.1:9"),
            ("nowhere", "is not the address of a server"),
        ):
            done = newburrow("redirects", "m", "--follow", base, folder=self.folder)
            self.assertEqual(done.returncode, 2)
            self.assertIn(words, done.stderr)

    def test_told_in_words(self) -> None:
        told = " ".join(self.run_ok("redirects", "m").split())
        for words in ("391 are redirected, 5 are gone", "make mistlebank.example and www.mistlebank.example answer them, by http and https", "because its entry is left out", "the month and the day are dropped from",
                      "“marks” becomes “topics”", "--follow"):  # fmt: skip
            self.assertIn(words, told)

    def test_an_address_with_two_answers_is_refused(self) -> None:
        path = self.folder / "m/redirects/addresses.csv"
        lines = path.read_text().splitlines()
        path.write_text(
            "\n".join(
                [*lines, "http://www.mistlebank.example/visit,https://new.example/,301,mine"]
            )
            + "\n"
        )
        for words in (["redirects", "m"], ["redirects", "m", "--for", "nginx"]):
            told = self.refused(*words)
            self.assertIn(f"addresses.csv, line {len(lines) + 1}", told)
            self.assertIn("has two answers, in line", told)

    def test_the_words_of_a_page(self) -> None:
        self.assertEqual(shown("<h1>Owls &amp;\n <b>Pears</b></h1>"), "owls & pears")
