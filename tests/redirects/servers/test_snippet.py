"""The snippet for a page template, in a real browser."""

import io
import re
import shutil
import subprocess
import tempfile
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer

from hypothesis import given, settings
from hypothesis import strategies as st

from newburrow.redirects.servers.snippet import SERVER
from newburrow.store.journal.rows import GONE, REDIRECTED, UNCHANGED, OldAddress
from tests.helpers import SITE, FolderCase
from tests.redirects.server import map_of
from tests.redirects.servers.test_nginx import NASTY
from tests.redirects.test_files import written

CHROMIUM = shutil.which("chromium") or "chromium"


@contextmanager
def site(page: Callable[[str], str], policy: str = "") -> Iterator[str]:
    """A site that answers every address with a page; `policy` is its Content-Security-Policy."""

    class Handler(BaseHTTPRequestHandler):
        def do_GET(self) -> None:
            self.send_response(200)
            self.send_header("Content-Type", "text/html; charset=utf-8")
            if policy:
                self.send_header("Content-Security-Policy", policy)
            self.end_headers()
            self.wfile.write(page(self.path).encode())

        def log_message(self, *_words: object) -> None:
            pass

    with ThreadingHTTPServer(("127.0.0.1", 0), Handler) as server:
        threading.Thread(target=server.serve_forever, daemon=True).start()
        yield f"http://127.0.0.1:{server.server_address[1]}/"
        server.shutdown()


def seen(url: str) -> str:
    """What stands in the browser's window in the end."""
    with tempfile.TemporaryDirectory() as profile:
        words = [CHROMIUM, "--headless", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-sync",
                 "--disable-background-networking", "--disable-component-update", f"--user-data-dir={profile}",
                 "--virtual-time-budget=4000", "--dump-dom", url]  # fmt: skip
        return subprocess.run(words, capture_output=True, text=True, timeout=60).stdout


class InTheBrowser(FolderCase):
    def test_it_goes_to_the_new_address(self) -> None:
        with site(lambda path: f"<body>new {path}</body>") as new:
            rows = [
                OldAddress.of(
                    f"{SITE}2023/05/{n:02}/p-{n}/", f"{new}2023/p-{n}.html", REDIRECTED, ""
                )
                for n in range(1, 9)
            ]
            rows += [OldAddress.of(SITE + "2023/05/09/odd/", new + "even", REDIRECTED, ""), OldAddress.of(SITE + "gone/", "", GONE, ""),
                     OldAddress.of(SITE + "2023/05/10/stay/", SITE + "2023/05/10/stay/", UNCHANGED, ""),
                     OldAddress.of(SITE + "?entry=5", new + "five?a=1", REDIRECTED, ""),
                     OldAddress.of(SITE + "index.php?id=7&view=x", new + "seven", REDIRECTED, "")]  # fmt: skip
            snippet = written(SERVER, *rows)[0]["snippet.html"]
            self.assertLess(len(snippet), 2500)
            with site(
                lambda path: (
                    f"<!doctype html><html><head><title>old</title></head><body>{snippet}old {path}</body></html>"
                )
            ) as old:
                for path, wanted in (
                    ("2023/05/03/p-3/#top", "new /2023/p-3.html"), ("?x=1&entry=5", "new /five?a=1"), ("gone/", "What stood here is gone."),
                    ("2023/05/09/odd", "new /even"), ("gone", "What stood here is gone."), ("index.php?view=x&id=7", "new /seven"),
                    ("2023/05/10/stay/", "</script>\nold /2023"),
                ):  # fmt: skip
                    self.assertIn(wanted, seen(old + path), path)
            with site(
                lambda path: f"<html><body>{snippet}</body></html>", "script-src 'none'"
            ) as old:
                self.assertIn(
                    f'<a href="{new}">This site has moved.</a>', seen(old + "2023/05/03/p-3/")
                )


class Safe(FolderCase):
    @given(
        st.lists(
            st.lists(
                st.sampled_from([*NASTY, "</script>", "<!--", "&quot;"]), min_size=1, max_size=4
            ).map("".join),
            max_size=6,
        )
    )
    @settings(max_examples=60)
    def test_nothing_breaks_out_of_the_script(self, words: list[str]) -> None:
        rows = [
            OldAddress.of(f"{SITE}{n}/{word}", f"https://new.example/{word}", REDIRECTED, "")
            for n, word in enumerate(words)
        ]
        made = io.BytesIO()
        made.close = lambda: None  # type: ignore[method-assign]
        SERVER.write(
            map_of(rows),
            lambda name: made if name == "snippet.html" else io.BytesIO(),
        )
        text = made.getvalue().decode()
        self.assertEqual(
            [one.lower() for one in re.findall(r"</?(?:script|style)[^>]*>?", text)],
            ["<script>", "</script>"],
        )
        self.assertNotIn("javascript:", text)

    def test_it_stays_small(self) -> None:
        rows = [
            OldAddress.of(f"{SITE}{n * n}-x", f"https://new.example/{n * 7}-y", REDIRECTED, "")
            for n in range(5000)
        ]
        files, skipped = written(SERVER, *rows)
        self.assertLess(len(files["snippet.html"]), 20_000)
        self.assertEqual(files["not-written.txt"].count("\n"), skipped)
        self.assertGreater(skipped, 3000)
