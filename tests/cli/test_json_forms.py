"""What `--json` prints: every form holds to its schema in docs/json/, and the schemas to the code."""

import json
import re
import runpy
from collections.abc import Iterator
from contextlib import contextmanager
from functools import partial
from http.server import SimpleHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from threading import Thread
from typing import Any

from jsonschema import Draft202012Validator

from newburrow.cli.json_forms import FORMS
from tests.helpers import FolderCase, item, newburrow

TOP = Path(__file__).parents[2]
SCHEMAS = TOP / "docs" / "json"
FEED = (
    '<rss version="2.0"><channel><title>Orchard</title><link>https://mistlebank.example/</link>'
    + item("Pears", "https://mistlebank.example/pears", "Words", "<category>fruit</category><author>i@g.example (Idris)</author>")
    + item("Plums", "https://mistlebank.example/plums", '<a href="/pears">pears</a>')
    + "</channel></rss>"
)  # fmt: skip


def strict(schema: Any) -> Any:
    """The same schema, in which no object has a member that is not named."""
    if isinstance(schema, list):
        return [strict(part) for part in schema]
    if not isinstance(schema, dict):
        return schema
    made = {name: strict(part) for name, part in schema.items()}
    if isinstance(made.get("properties"), dict) and made.get("type") == "object":
        made["additionalProperties"] = False
    return made


def keys(value: Any) -> set[str]:
    """The names of all members."""
    if isinstance(value, dict):
        return set(value) | {name for part in value.values() for name in keys(part)}
    if isinstance(value, list):
        return {name for part in value for name in keys(part)}
    return set()


class Quiet(SimpleHTTPRequestHandler):
    """A server that says nothing on the screen."""

    def log_message(self, *_words: object) -> None:
        """Nothing."""


class Forms(FolderCase):
    """Printed by the built program."""

    def check(self, form: str, *words: object, status: int = 0) -> dict[str, Any]:
        found = json.loads(self.run_ok(*words, "--json", status=status))
        schema = json.loads((SCHEMAS / f"{form}.json").read_text("utf-8"))
        Draft202012Validator(strict(schema)).validate(found)
        self.assertEqual((found["form"], found["version"]), (form, 1))
        self.assertFalse([key for key in keys(found) if re.search(r"\s", key)])
        self.seen.add(form)
        return found  # type: ignore[no-any-return]

    @contextmanager
    def server(self) -> Iterator[str]:
        (self.folder / "served").mkdir()
        handler = partial(Quiet, directory=str(self.folder / "served"))
        with ThreadingHTTPServer(("127.0.0.1", 0), handler) as server:
            Thread(target=server.serve_forever, daemon=True).start()
            yield f"http://127.0.0.1:{server.server_port}"
            server.shutdown()

    def test_every_command_holds_to_its_schema(self) -> None:
        self.seen = set[str]()
        self.write("feed.xml", FEED)
        self.write("broken.xml", FEED.replace("Words", "Words & more"))
        self.check("survey", "survey", "feed.xml")
        self.check("comparison", "survey", "feed.xml", "--against", "feed.xml")
        self.assertEqual(self.check("item", "show", "feed.xml", "Pears")["object"], "entry")
        self.assertEqual(
            self.check("mend", "mend", "broken.xml", "-o", "m.xml")["first"][0]["code"],
            "bare-ampersand",
        )
        self.check("keep", "keep", "feed.xml", "--out", "bag")
        self.check("draft", "draft", "feed.xml", "--to", "plainleaf", "--out", "m", "--entries")
        self.check("move", "move", "m", "--rehearse")
        self.check("move", "move", "m")
        self.check("try", "move", "m", "--only", "Plums")
        self.check("story", "show", "m", "Plums")
        self.check("redirects", "redirects", "m")
        self.check("advice", "redirects", "m", "--advise")
        with self.server() as base:  # which has nothing
            self.check("follow", "redirects", "m", "--follow", base, status=1)
        self.check("verify", "verify", "m")
        for path in (self.folder / "m/new").rglob("plums*"):
            path.unlink()
        self.assertTrue(self.check("verify", "verify", "m", status=1)["unexplained"])
        self.check("list", "hosts")
        self.check("list", "dialects")
        self.assertEqual(self.seen, set(FORMS))

    def test_every_command_has_a_form(self) -> None:
        overview = newburrow("--help", folder=self.folder).stdout
        commands = re.findall(r"^  (\w+)  ", overview, re.MULTILINE)
        printed = " ".join(by for by, _place in FORMS.values())
        for command in commands:
            with self.subTest(command):
                self.assertIn(f"{command} ", printed)
                self.assertIn("--json", newburrow(command, "--help", folder=self.folder).stdout)

    def test_the_schemas_are_those_of_the_code(self) -> None:
        schema = runpy.run_path(str(TOP / "tools" / "json-schemas"))["schema"]
        self.assertEqual({path.stem for path in SCHEMAS.glob("*.json")}, set(FORMS))
        for form in FORMS:
            with self.subTest(form, advice="run tools/json-schemas"):
                written = json.loads((SCHEMAS / f"{form}.json").read_text("utf-8"))
                Draft202012Validator.check_schema(written)
                self.assertEqual(written, json.loads(json.dumps(schema(form))))


class OptionsTogether(FolderCase):
    """Options of which one would do nothing are refused."""

    def test_they_are_refused_by_name(self) -> None:
        for words, named in (
            (
                ("redirects", "m", "--advise", "--follow", "http://x.example"),
                "--advise and --follow",
            ),
            (("redirects", "m", "--advise", "--for", "nginx"), "--advise and --for"),
            (
                ("redirects", "m", "--new-at", "http://x.example"),
                "--new-at does nothing without --follow",
            ),
            (
                ("redirects", "m", "--any-certificate"),
                "--any-certificate does nothing without --follow",
            ),
            (("show", "m", "x", "--html", "f", "--json"), "--html and --json"),
            (("hosts", "plainleaf", "--json"), "NAME and --json"),
            (("dialects", "reedpost", "--draft-from", "x"), "NAME and --draft-from"),
            (("dialects", "--limit", "files=3"), "--limit does nothing without --draft-from"),
        ):
            with self.subTest(words):
                self.assertIn(named, self.refused(*words))
