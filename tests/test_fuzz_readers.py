"""Broken exports in every format that is read, drafted from and mended: a plain message or a right result."""

import contextlib
import io
import json
import random
import time
import unittest
from pathlib import Path

from newburrow.cli import main
from newburrow.core import plugins
from newburrow.markup.base import Unreadable
from tests.assess.dialect_draft.test_record_draft import JSON, TABLES, XML
from tests.helpers import ROUNDS, SITE, FolderCase, demo_export, item, rss
from tests.test_fuzz import ODD, broken

DEEP = 100_000
FEED = json.dumps({"version": "https://jsonfeed.org/version/1.1", "title": "O", "home_page_url": SITE, "items": [
    {"id": str(n), "url": f"{SITE}{n}/", "title": f"É {n}", "content_html": "<p>a</p>", "tags": ["x"], "date_published": "2021-03-01T10:00:00Z",
     "attachments": [{"url": f"{SITE}a.mp3", "mime_type": "audio/mpeg"}], "_own": {"a": [1]}} for n in range(9)]})  # fmt: skip
MARKDOWN = """---
title: Grafting
date: 2021-03-01
tags: [pears, "owls"]
---
# Cut

1. *bind* it [on](more.md)

| a | b |
|---|---|
| 1 | 2 |
"""


class Readers(FolderCase):
    def run_main(self, *words: object) -> tuple[int, str]:
        out, err = io.StringIO(), io.StringIO()
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
            status = main.main([str(word) for word in words])
        return status, err.getvalue()

    def check(
        self, name: str, data: bytes, *more: object, rounds: int = 60, command: str = "survey"
    ) -> None:
        chance = random.Random(name)
        statuses = set()
        for number in range(rounds * ROUNDS):
            path = self.write(name, broken(data, chance))
            status, message = self.run_main(command, path, *more)
            self.assertNotIn("fault", message, f"{name} {number}")
            self.assertIn(
                (status, bool(message)), ((0, False), (2, True)), f"{name} {number}: {message}"
            )
            statuses.add(status)
        self.assertIn(0, statuses)

    def moved(self, host: str) -> Path:
        """The demo as an export of another host."""
        self.write("export.zip", demo_export())
        self.assertEqual(
            self.run_main(
                "move", self.folder / "export.zip", "--to", host, "--out", self.folder / host
            )[0],
            0,
        )
        return self.folder / host / "new"

    def test_atom(self) -> None:
        self.check("a.atom", (self.moved("lanternlog") / "lanternlog-import.atom").read_bytes())

    def test_json_feed(self) -> None:
        self.check("feed.json", FEED.encode())

    def test_markdown(self) -> None:
        self.check("a.md", MARKDOWN.encode())
        self.check_folder(self.moved("plainleaf"), 40)

    def test_a_bag(self) -> None:
        self.check_folder(self.moved("bag"), 40)

    def check_folder(self, folder: Path, rounds: int) -> None:
        """Break one file at a time."""
        chance = random.Random(folder.parent.name)
        files = sorted(
            path for path in folder.rglob("*") if path.is_file() and path.stat().st_size
        )
        for number in range(rounds * ROUNDS):
            path = chance.choice(files)
            before = path.read_bytes()
            path.write_bytes(broken(before, chance))
            status, message = self.run_main("survey", folder)
            self.assertNotIn("fault", message, f"{path} {number}")
            self.assertIn(
                (status, bool(message)), ((0, False), (2, True)), f"{path} {number}: {message}"
            )
            path.write_bytes(before)

    def test_plain_records(self) -> None:
        for name, text in (("all.json", JSON), ("all.xml", XML), ("articles.csv", TABLES["articles.csv"]),
                           ("e.jsonl", '{"id": 1, "title": "Pears", "body": "a"}\n' * 9)):  # fmt: skip
            path = self.write(name, text)
            out = io.StringIO()
            with contextlib.redirect_stdout(out):
                self.assertEqual(main.main(["dialects", "--draft-from", str(path)]), 0)
            dialect = self.write("mine.toml", out.getvalue())
            self.check(name, text.encode(), "--dialect", dialect)
            chance = random.Random(name)
            for number in range(40 * ROUNDS):
                status, message = self.run_main(
                    "dialects", "--draft-from", self.write(name, broken(text.encode(), chance))
                )
                self.assertNotIn("fault", message, f"{name} {number}")
                self.assertIn(status, (0, 2))

    def test_odd_values_in_records(self) -> None:
        chance = random.Random("odd")
        self.write("posts.csv", TABLES["articles.csv"])
        dialect = self.write("mine.toml", """name = "mine"
format = "csv"
[[records]]
of = "entry"
take.id = "id"
take.title = "title"
take.slug = "slug"
take.permalink = "url"
take.published = "at"
take.position = "n"
take.parent = "up"
take.kind = "kind"
take.status = "state"
take.lead_picture = "pic"
take.language = "lang"
take.other_addresses = "old"
take.author = "by"
terms.tag = "tags"
address = "/{year}/{slug}/"
""")  # fmt: skip
        names = [
            "id",
            "title",
            "slug",
            "url",
            "at",
            "n",
            "up",
            "kind",
            "state",
            "pic",
            "lang",
            "old",
            "by",
            "tags",
        ]
        for number in range(12):
            lines = [",".join(names)]
            for row in range(20):
                cells = [str(row) if name == "id" else chance.choice(ODD) for name in names]
                lines.append(",".join('"' + cell.replace('"', '""') + '"' for cell in cells))
            path = self.write("posts.csv", "\n".join(lines))
            status, message = self.run_main(
                "move",
                path,
                "--dialect",
                dialect,
                "--to",
                "plainleaf",
                "--out",
                self.folder / str(number),
            )
            self.assertIn(status, (0, 1), message)
            self.assertNotIn(
                "\nfault,",
                (self.folder / str(number) / "follow-ups.csv").read_text("utf-8"),
                number,
            )

    def test_mending_whatever_it_is(self) -> None:
        chance = random.Random("mend")
        for name, text in (("feed.json", FEED), ("all.json", JSON), ("all.xml", XML), ("f.xml", rss(*(item(str(n), SITE) for n in range(9)))),
                           ("e.jsonl", '{"id": 1, "title": "Pears"}\n' * 9)):  # fmt: skip
            for number in range(60 * ROUNDS):
                path, out = (
                    self.write(name, broken(text.encode(), chance)),
                    self.folder / f"out-{name}",
                )
                out.unlink(missing_ok=True)
                status, message = self.run_main("mend", path, "-o", out)
                self.assertNotIn("fault", message, f"{name} {number}")
                self.assertIn(status, (0, 1, 2), f"{name} {number}")
                if status != 2:
                    self.assertEqual(
                        self.run_main("mend", out, "-o", self.folder / f"again-{name}")[0],
                        0,
                        f"{name} {number}",
                    )
                    self.assertEqual(
                        (self.folder / f"again-{name}").read_bytes(), out.read_bytes()
                    )
                    (self.folder / f"again-{name}").unlink()

    def test_nesting_beyond_reason(self) -> None:
        dialect = self.write(
            "j.toml",
            'name = "j"\nformat = "json"\n[[records]]\nof = "entry"\neach = "$[*]"\ntake.id = "id"\n',
        )
        for name, text, more in (
            ("a.json", "[" * DEEP + "]" * DEEP, ("--dialect", dialect)),
            ("b.json", '[{"id": 1, "a": ' + "[" * DEEP + "]" * DEEP + "}]", ("--dialect", dialect)),
            ("feed.json", FEED.replace('"a": [1]', '"a": ' + "[" * DEEP + "]" * DEEP, 1), ()),
            ("c.xml", rss("<item>" + "<a>" * DEEP + "</a>" * DEEP + "</item>"), ()),
            ("d.xml", rss(item("A", SITE + "a", "<b><i>" * DEEP)), ()),
            ("e.md", "---\ntitle: a\n---\n" + "> " * DEEP + "x\n", ()),
            ("f.md", "---\na: " + "[" * DEEP + "\n---\nx\n", ()),
            ("g.md", "---\ntitle: a\n---\n" + "- " * 3000 + "x\n" + "[" * DEEP + "*" * DEEP, ()),
        ):  # fmt: skip
            path = self.write(name, text)
            before = time.monotonic()
            status, message = self.run_main("survey", path, *more)
            self.assertNotIn("fault", message, name)
            self.assertIn(
                (status, bool(message)), ((0, False), (2, True)), f"{name}: {message[:300]}"
            )
            self.assertLess(time.monotonic() - before, 60, f"{name} hangs")
            if name.endswith((".json", ".xml")):
                self.assertIn(
                    self.run_main("mend", path, "-o", self.folder / f"{name}.out")[0],
                    (0, 1, 2),
                    name,
                )


class Markups(unittest.TestCase):
    def test_no_text_takes_for_ever(self) -> None:
        for name in plugins.names(plugins.MARKUPS):
            markup = plugins.get(plugins.MARKUPS, name)
            for unit in ("*", "_", "[", "](", "<", "<b>", "\"", "h1. ", "| a ", "{{", "//", "=", "> ", "* ", "\n\n* a", "`", "!a", "@", "^",
                         "[1] ", "a\\\\", "&", "'''"):  # fmt: skip
                text = unit * (20_000 // len(unit))
                before = time.monotonic()
                with contextlib.suppress(Unreadable):
                    markup.to_html(text)
                self.assertLess(time.monotonic() - before, 20, f"{name} {unit!r}")
