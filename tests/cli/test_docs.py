"""The documentation names every command, option, key, code, host and form, and its links lead somewhere."""

import json
import os
import re
import runpy
import subprocess
import unittest
from pathlib import Path
from typing import Any, get_args, get_type_hints
from unittest.mock import patch

import msgspec

from newburrow.cli.main import COMMANDS
from newburrow.cli.whole_parser import SHELLS, completion, parsers_in, whole_parser
from newburrow.commands import dialects, hosts
from newburrow.core import plugins
from newburrow.core.problem import CODES
from newburrow.decide.decisions import Decisions
from newburrow.decide.move_folder import AUTHOR_COLUMNS, TERM_COLUMNS
from newburrow.dialects.schema import Dialect
from newburrow.hosts.profile import Profile
from tests.helpers import FolderCase, newburrow, rows

TOP = Path(__file__).parents[2]
DOCS = TOP / "docs"
EVERYTHING = [TOP / "README.md", *DOCS.glob("*.md"), *(DOCS / "commands").glob("*.md")]


def keys(shape: Any, seen: set[type]) -> set[str]:
    """The names of all keys that a file of this shape can have."""
    found = set[str]()
    if isinstance(shape, type) and issubclass(shape, msgspec.Struct) and shape not in seen:
        seen.add(shape)
        found |= set(shape.__struct_encode_fields__)
        for hint in get_type_hints(shape).values():
            found |= keys(hint, seen)
    for inner in get_args(shape):
        found |= keys(inner, seen)
    return found


def named(words: set[str], text: str) -> set[str]:
    """Those of the words that a text names."""
    return {word for word in words if re.search(rf"(?<![\w-]){re.escape(word)}(?![\w-])", text)}


class Pages(unittest.TestCase):
    """What a page must name."""

    def read(self, *names: str) -> str:
        return "\n".join((TOP / name).read_text("utf-8") for name in names)

    def test_pages_of_commands_and_the_manual_are_those_of_the_parsers(self) -> None:
        self.enterContext(patch.dict(os.environ))  # the tool sets the width of a terminal
        made = runpy.run_path(str(TOP / "tools" / "command-pages"))
        parsers = parsers_in(whole_parser(COMMANDS))
        self.assertEqual({path.stem for path in (DOCS / "commands").glob("*.md")}, set(parsers))
        for name, parser in parsers.items():
            with self.subTest(name, advice="run tools/command-pages"):
                page = (DOCS / "commands" / f"{name}.md").read_text("utf-8")
                self.assertEqual(page, made["page"](name, parser))
        self.assertEqual((DOCS / "newburrow.1").read_text("utf-8"), made["manual"]())

    def test_every_key_of_a_file_of_settings_is_explained(self) -> None:
        for shape, pages in (
            (Dialect, ("docs/dialects.md",)),
            (Profile, ("docs/hosts.md",)),
            (Decisions, ("docs/commands.md", "src/newburrow/decide/move.toml.j2")),
        ):
            with self.subTest(shape.__name__):
                wanted = keys(shape, set())
                self.assertEqual(wanted - named(wanted, self.read(*pages)), set())

    def test_every_code_host_dialect_server_and_column_is_named(self) -> None:
        everything = "\n".join(path.read_text("utf-8") for path in EVERYTHING)
        for what, words in (
            ("codes", set(CODES)),
            ("hosts", {host.name for host in hosts.hosts()}),
            ("dialects", {dialect.name for dialect in dialects.dialects()}),
            ("servers", set(plugins.names(plugins.SERVERS))),
            ("columns", {*AUTHOR_COLUMNS, *TERM_COLUMNS}),
        ):
            with self.subTest(what):
                self.assertEqual(words - named(words, everything), set())

    def test_links_within_the_documentation_lead_somewhere(self) -> None:
        for path in EVERYTHING:
            text = path.read_text("utf-8")
            for target in re.findall(
                r"\]\(([^)\s]+)\)", re.sub(r"`[^`\n]*`|```.*?```", "", text, flags=re.DOTALL)
            ):
                if "://" not in target:
                    file, _mark, anchor = target.partition("#")
                    to = (path.parent / file).resolve() if file else path
                    with self.subTest(path.name, target=target):
                        self.assertTrue(to.exists())
                        if anchor:
                            self.assertIn(anchor, anchors(to.read_text("utf-8")))


def anchors(text: str) -> set[str]:
    """The anchors that headings get."""
    heads = re.findall(r"^#+ (.+)$", text, re.MULTILINE)
    return {re.sub(r"[^\w\- ]", "", head.lower()).replace(" ", "-") for head in heads}


class Guide(FolderCase):
    """The commands of the guide, run as they stand there."""

    def test_its_commands_are_right(self) -> None:
        text = (DOCS / "guide.md").read_text("utf-8")
        lines = [
            line.partition("  #")[0].split()
            for block in re.findall(r"```\n(.*?)```", text, re.DOTALL)
            for line in block.splitlines()
            if line.startswith("newburrow ")
        ]
        parsers = parsers_in(whole_parser(COMMANDS))
        self.assertGreater(len(lines), 15)
        for _program, command, *words in lines:
            with self.subTest(command, words=words):
                parsers[command].parse(
                    [word for word in words if word not in (">", "mine.toml")]
                )


class WorkedExamples(FolderCase):
    """The files and commands of the worked examples, as they stand there."""

    def test_they_work(self) -> None:
        text = (DOCS / "worked-examples.md").read_text("utf-8")
        files = re.findall(r"```\w+ file=(\S+)\n(.*?)```", text, re.DOTALL)
        self.assertEqual(len(files), 5)
        for name, content in files:
            self.write(name, content)
        for line in re.findall(r"^newburrow (.*)$", text, re.MULTILINE):
            said = self.run_ok(*line.split())
            self.assertNotIn("unread-element", said)
        papers = json.loads(
            (self.folder / "shed-move/new/papers/paper.json").read_text("utf-8")
        )
        self.assertEqual([paper["weather"] for paper in papers], ["dry", ""])
        kinds = {row["kind"] for row in rows(self.folder / "shed-move/follow-ups.csv")}
        self.assertEqual(kinds, {"state-changed", "title-cut"})
        self.assertIn("Hob", (self.folder / "shed-move/new/comments.jsonl").read_text("utf-8"))

    def test_without_a_dialect_for_the_result_verify_says_what_is_missing(self) -> None:
        text = (DOCS / "worked-examples.md").read_text("utf-8")
        for name, content in re.findall(r"```\w+ file=(\S+)\n(.*?)```", text, re.DOTALL):
            self.write(
                name,
                re.sub(r"dialect = .*\n", "", content) if name == "parish.toml" else content,
            )
        self.run_ok(
            "move", "shed.xml", "--dialect", "shed.toml", "--to", "parish.toml", "--out", "m"
        )
        said = self.refused("verify", "m")
        self.assertIn("name that in the host profile", said)
        self.write(
            "parish.toml",
            'dialect = "nothing.toml"\n'
            + dict(re.findall(r"```\w+ file=(\S+)\n(.*?)```", text, re.DOTALL))[
                "parish.toml"
            ].replace("dialect = ", "# "),
        )
        self.assertIn(
            "no dialect file 'nothing.toml' beside this profile", self.refused("verify", "m")
        )


class Completion(FolderCase):
    """The scripts that complete words in a shell."""

    def test_bash_completes_commands_options_and_names(self) -> None:
        script = self.write(
            "complete.bash", newburrow("--completion", "bash", folder=self.folder).stdout
        )
        for words, expected in (
            (("newburrow", "sur"), "survey"),
            (("newburrow", "move", "--reh"), "--rehearse"),
            (("newburrow", "redirects", "--for", "ngi"), "nginx"),
            (("newburrow", "draft", "--to", "lantern"), "lanternlog"),
        ):
            with self.subTest(words):
                asked = (
                    f"source {script}; COMP_WORDS=({' '.join(words)}); COMP_CWORD={len(words) - 1}; "
                    "_shtab_newburrow; printf '%s\\n' \"${COMPREPLY[@]}\""
                )
                done = subprocess.run(["bash", "-c", asked], capture_output=True, text=True)
                self.assertIn(expected, done.stdout.split(), done.stderr)

    def test_every_shell_has_one_and_another_is_refused(self) -> None:
        for shell in SHELLS:
            self.assertIn("newburrow", completion(shell, COMMANDS))
        self.assertIn("bash, zsh, tcsh, fish", self.refused("--completion", "cmd"))
