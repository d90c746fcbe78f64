"""Every reader times every writer over the demo: the accounts balance, and words, links and comments arrive."""

import contextlib
import io
import json
import re
import shutil
from pathlib import Path

from newburrow.cli import main
from newburrow.hosts import loader as hosts
from tests.helpers import FolderCase, demo_export, unpack_zips

# A sentence of a body, of a comment and of a page, each written plainly in every markup.
WORDS = (
    "A tree planted in a hurry is a tree planted twice",
    "whatever the weather",
    "dogs on a lead",
)
_LINK = re.compile(r"https://mistlebank\.example/[^\s\"'<>()\\]*")


class AnyToAny(FolderCase):
    def run_main(self, *words: object) -> dict:  # type: ignore[type-arg]
        out = io.StringIO()
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(io.StringIO()):
            status = main.main([*map(str, words), "--json"])
        self.assertIn(status, (0, 1), words)
        return json.loads(out.getvalue())  # type: ignore[no-any-return]

    def check(self, source: Path, host: str, out: Path, comments: int) -> None:
        moved = self.run_main("move", source, "--to", host, "--out", out)
        what = f"{source.parent.name or source.name} to {host}"
        for kind, account in moved["counts"].items():
            self.assertEqual(
                account["found"], sum(account.values()) - account["found"], f"{what}: {kind}"
            )
            self.assertEqual(account["failed"], 0, f"{what}: {kind}")
        if comments:
            self.assertEqual(moved["counts"]["comment"]["moved"], comments, what)
        self.assertEqual(
            moved["follow_ups"].get("error", 0) <= 3, True, f"{what}: {moved['follow_ups']}"
        )
        verified = self.run_main("verify", out)
        self.assertEqual(verified["unexplained"], [], f"{what}: {verified['first']}")
        shutil.copytree(out / "new", out / "unpacked")
        unpack_zips(out / "unpacked")
        texts = "".join(
            path.read_text("utf-8")
            for path in out.glob("unpacked/**/*")
            if path.suffix in (".xml", ".atom", ".json", ".jsonl", ".md", ".html", ".creole")
        )
        for words in WORDS:
            self.assertIn(words, texts, what)
        answers = (out / "redirects/addresses.csv").read_text("utf-8").splitlines()
        gone = {line.partition(",")[0] for line in answers if ",410," in line}
        said = (out / "follow-ups.csv").read_text("utf-8")
        left = {
            link
            for link in _LINK.findall(texts)
            if link in gone and "?entry=" not in link and link not in said
        }
        self.assertEqual(left, set(), what)
        found = self.run_main("survey", out / "new")
        kinds = ("post", "page", "wiki-page", "lesson")
        modules = moved["counts"].get("module", {"moved": 0})["moved"]
        if hosts.load(host).kind_for("module") in kinds or host == "bag":
            kinds = (*kinds, "module")
        else:
            modules = 0
        self.assertEqual(
            sum(found["counts"].get(kind, 0) for kind in kinds), 68 + modules, what
        )
        left_there = comments if hosts.load(host).comments.taken else 0
        self.assertEqual(found["counts"].get("comment", 0), left_there, what)

    def test_every_reader_with_every_writer(self) -> None:
        self.write("export.zip", demo_export())
        names = hosts.PROFILES.names()
        self.assertGreaterEqual(len(names), 6)
        sources = {}
        for host in names:
            self.check(self.folder / "export.zip", host, self.folder / host, 142)
            sources[host] = self.folder / host / "new"
        # Each source goes to every third host, so that each host gets what every third one has written.
        for number, (old, source) in enumerate(sources.items()):
            comments = 142 if hosts.load(old).comments.taken else 0
            for host in names[number % 3 :: 3]:
                self.check(source, host, self.folder / f"{old}-{host}", comments)
