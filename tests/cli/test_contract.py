"""The command line as its users meet it: help, wrong usage, bad input."""

import json
import os
import subprocess
import unittest
from pathlib import Path

from newburrow.cli import main
from tests.helpers import PROGRAM, SITE, FolderCase, demo_export, item, newburrow, rss, zipped

README = Path(__file__).parents[2] / "README.md"
COMMANDS_PAGE = Path(__file__).parents[2] / "docs" / "commands.md"


class Help(FolderCase):
    def test_alone_it_says_what_to_do_next(self) -> None:
        done = newburrow(folder=self.folder)
        self.assertEqual(done.returncode, 2)
        for words in ("newburrow survey export.zip", "newburrow demo", "--help"):
            self.assertIn(words, done.stdout)
        self.assertEqual(self.run_ok("--help"), done.stdout)

    def test_every_command_explains_itself_and_its_options(self) -> None:
        page = COMMANDS_PAGE.read_text("utf-8")
        for command in main.COMMANDS:
            text = self.run_ok(command, "--help")
            self.assertIn("For example:", text)
            self.assertIn(f"newburrow {command}", page)
            options = {
                word.strip("[],") for word in text.split() if word.strip("[],").startswith("--")
            }
            for option in options - {"--help", "--"}:
                self.assertIn(
                    f"`{option}", page, f"{option} of {command} is not in docs/commands.md"
                )

    def test_typing_errors_are_answered_with_the_nearest_right_word(self) -> None:
        self.assertEqual(self.run_ok("help", "survey"), self.run_ok("survey", "--help"))
        for words, near in (
            (["--vresion"], "'--version'"), (["--quiet"], "the command is missing"),
            (["moev", "x"], "'move'"), (["demmo"], "'demo'"), (["move", "x", "--too", "y"], "--to"),
            (["survey", "x", "--jsno"], "--json"), (["draft", "x"], "missing: --out"), (["redirects", "x", "--fro", "y"], "--for"),
        ):  # fmt: skip
            message = self.refused(*words)
            self.assertIn(near, message)
            self.assertIn("--help", message)

    def test_options_of_all_commands(self) -> None:
        self.write("feed.xml", rss(item("A", SITE + "a")))
        self.run_ok("--quiet", "--log", "log.txt", "--log-level", "debug", "survey", "feed.xml")
        self.assertTrue((self.folder / "log.txt").exists())
        self.assertIn("newburrow 0", self.run_ok("--version"))


class BadInput(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.write("feed.xml", rss(item("A", SITE + "a")))

    def each(self, path: str, *parts: str) -> None:
        """Survey, draft and move all refuse this export with a message that holds these parts."""
        for words in (("survey", path), ("draft", path, "--to", "lanternlog", "--out", "m"),
                      ("move", path, "--to", "lanternlog", "--out", "a/b/m")):  # fmt: skip
            message = self.refused(*words)
            for part in parts:
                self.assertIn(part, message)

    def test_no_such_file(self) -> None:
        self.each("fed.xml", "There is no file or folder 'fed.xml'", "Did you mean 'feed.xml'?")
        self.each("nowhere/feed.xml", "There is no folder 'nowhere'")

    def test_an_empty_file(self) -> None:
        self.write("empty.xml", "")
        self.each("empty.xml", "The file is empty", "empty.xml")

    def test_no_export_in_it(self) -> None:
        zipped(self.folder / "e.zip", photo_png=b"png", notes_txt=b"hello")
        self.each(
            "e.zip",
            "None of its 2 files is an export that New Burrow can read (Atom 1.0 (RFC 4287) and 0.3, ",
            "JSON Feed 1.0 and 1.1",
            "RSS 0.90 to 2.0",
        )
        self.write("notes.txt", "hello")
        self.each("notes.txt", "It is not an export")
        self.write("page.xml", "<page><a/></page>")
        self.each("page.xml", "root element 'page'")
        (self.folder / "void").mkdir()
        self.each("void", "It is empty.", "Hand in the file, folder or zip")
        (self.folder / "void/page.html").symlink_to("/etc/hostname")
        self.each("void", "no file that can be read: page.html is a link")

    def test_xml_that_is_not_well_formed(self) -> None:
        self.write(
            "bad.xml", rss(item("A", SITE + "a"), "<item><title>Fish & chips</title></item>")
        )
        self.each(
            "bad.xml",
            "the text has a bare &",
            "bad.xml, line 5, column ",
            "<title>Fish & chips</title>",
            "\n    " + " " * 19 + "^",
        )
        self.write("cut.xml", rss(item("A", SITE + "a"))[:-60])
        self.each("cut.xml", "not well-formed", "cut.xml, line 4")
        self.write("junk.xml", "\n\nnotice: low memory\n" + rss())
        self.each("junk.xml", "not well-formed", "junk.xml, line 3")

    def test_hostile_xml(self) -> None:
        bomb = "".join(f'<!ENTITY a{n} "{f"&a{n - 1};" * 10}">' for n in range(1, 10))
        self.write(
            "bomb.xml",
            f'<!DOCTYPE rss [<!ENTITY a0 "ha">{bomb}]><rss><channel><title>&a9;</title></channel></rss>',
        )
        self.each("bomb.xml", "declares an entity (a0)", "line 1")
        self.write(
            "out.xml",
            '<!DOCTYPE rss [<!ENTITY x SYSTEM "file:///etc/hostname">]><rss a="&x;"><channel/></rss>',
        )
        self.each("out.xml", "declares an entity (x)")

    def test_a_host_or_dialect_that_does_not_exist(self) -> None:
        message = self.refused("move", "feed.xml", "--to", "lantrnlog", "--out", "m")
        self.assertIn("There is no host named 'lantrnlog'", message)
        self.assertIn("Did you mean 'lanternlog'?", message)
        self.assertIn(
            "Did you mean 'reedpost'?",
            self.refused("survey", "feed.xml", "--dialect", "redpost"),
        )
        self.assertIn(
            "The hosts are: bag, chalkmere, jsonfeed, lanternlog, plainleaf, quarrydesk, reedpost, sedgewiki, slatewell, tarnwiki.",
            self.refused("hosts", "qqq"),
        )
        self.assertIn(
            "no dialect file 'x.toml'",
            self.refused("survey", "feed.xml", "--dialect", "x.toml"),
        )

    def test_a_move_toml_with_a_mistake(self) -> None:
        self.run_ok("draft", "feed.xml", "--to", "lanternlog", "--out", "m")
        path = self.folder / "m/move.toml"
        text = path.read_text()
        for old, new, parts in (
            (
                "preset_content =",
                "preset_contents =",
                ("no key 'preset_contents' in [choose]", "Did you mean 'preset_content' or"),
            ),
            ("[redirects]", "[redirect]", ("no key 'redirect'", "Did you mean 'redirects'")),
            ('"leave-out"\n', '"away"\n', ("preset_content",)),
            ('"published"]', '"publishd"]', ("'publishd'", "Did you mean 'published'?")),
            ('"nginx"', '"ngnix"', ("Did you mean 'nginx'?",)),
            (
                "{year}/{slug}",
                "{yaer}/{slug}",
                ("unknown variable {yaer}", "Did you mean 'year'"),
            ),
            (
                'address = "https://mistlebank.example/"',
                'address = "mistlebank"',
                ("'mistlebank' is not a web address",),
            ),
            ("kinds = [", "kinds = ", ("not valid TOML",)),
            ("page = ", "pages = ", ("'pages'", "Did you mean 'page'?")),
        ):
            self.assertIn(old, text)
            changed = text.replace(old, new)
            path.write_text(changed)
            line = next(number for number, (one, other) in enumerate(zip(text.splitlines(), changed.splitlines(), strict=True), 1)
                        if one != other)  # fmt: skip
            message = self.refused("move", "m")
            for part in (*parts, f"move.toml, line {line}"):
                self.assertIn(part, message, new)

    def test_a_table_with_a_mistake(self) -> None:
        self.write(
            "feed.xml",
            rss(item("A", SITE + "a", extra="<author>Ann</author><category>Bees</category>")),
        )
        self.run_ok("draft", "feed.xml", "--to", "lanternlog", "--out", "m")
        for name, old, new, part in (
            ("authors.csv", ",keep,", ",keeep,", "Did you mean 'keep'?"),
            ("authors.csv", ",keep,", ",assign,", "new_name must say to what"),
            ("terms.csv", ",keep,", ",renam,", "Did you mean 'rename'?"),
            ("terms.csv", ",keep,,,", ",merge,Beez,,", "Did you mean 'Bees'?"),
            ("terms.csv", ",action,", ",actoin,", "Did you mean 'action'?"),
        ):
            path = self.folder / "m" / name
            right = path.read_text()
            path.write_text(right.replace(old, new))
            message = self.refused("move", "m")
            self.assertIn(part, message)
            self.assertIn(f"{name}, line ", message)
            path.write_text(right)

    def test_an_export_that_is_gone_and_a_row_that_names_nobody(self) -> None:
        self.run_ok("draft", "feed.xml", "--to", "lanternlog", "--out", "m")
        with (self.folder / "m/authors.csv").open("a") as table:
            table.write("nobody,Nobody,,3,keep,,\n")
        self.run_ok("move", "m")
        self.assertIn(
            "authors.csv has a row for 'nobody'", (self.folder / "m/follow-ups.csv").read_text()
        )
        (self.folder / "feed.xml").rename(self.folder / "elsewhere.xml")
        message = self.refused("move", "m")
        self.assertIn("The export '../feed.xml' no longer exists", message)
        self.assertIn("move.toml, line 8", message)

    def test_a_folder_that_holds_something_else_is_left_alone(self) -> None:
        self.write("taken/diary.txt", "mine")
        for words in (("draft", "feed.xml", "--to", "lanternlog", "--out", "taken"),
                      ("move", "feed.xml", "--to", "lanternlog", "--out", "taken"), ("demo", "--out", "taken")):  # fmt: skip
            self.assertIn("holds something else", self.refused(*words))
        self.assertIn(
            "is a file",
            self.refused("move", "feed.xml", "--to", "lanternlog", "--out", "feed.xml"),
        )
        self.assertEqual((self.folder / "taken/diary.txt").read_text(), "mine")

    def test_a_file_of_somebody_else_in_a_move_folder_is_left_alone(self) -> None:
        self.run_ok("draft", "feed.xml", "--to", "lanternlog", "--out", "m")
        self.write("m/report.html", "mine")
        done = newburrow("move", "m", folder=self.folder)
        self.assertEqual(done.returncode, 2)
        self.assertIn("was not written by New Burrow", done.stderr)
        self.assertEqual((self.folder / "m/report.html").read_text(), "mine")

    def test_another_move_is_not_mixed_in(self) -> None:
        self.run_ok("draft", "feed.xml", "--to", "lanternlog", "--out", "m")
        self.write("other.xml", rss(item("B", SITE + "b")))
        self.assertIn(
            "holds a move of",
            self.refused("move", "other.xml", "--to", "lanternlog", "--out", "m"),
        )
        self.write(
            "host.toml", 'name = "h"\nformat = "atom"\n[kinds.post]\naddress = "/{slug}"\n'
        )
        self.assertIn(
            "holds a move to lanternlog",
            self.refused("draft", "feed.xml", "--to", "host.toml", "--out", "m"),
        )

    def test_commands_on_what_is_no_move_folder(self) -> None:
        self.assertIn("no move folder", self.refused("redirects", "m", "--for", "nginx"))
        (self.folder / "void").mkdir()
        self.assertIn(
            "is not a move folder", self.refused("redirects", "void", "--for", "nginx")
        )
        self.run_ok("draft", "feed.xml", "--to", "lanternlog", "--out", "m")
        self.assertIn("newburrow move m", self.refused("redirects", "m", "--for", "nginx"))
        self.assertIn("Did you mean 'nginx'?", self.refused("redirects", "m", "--for", "ngnx"))
        self.assertIn(
            "move folder says itself", self.refused("move", "m", "--to", "lanternlog")
        )
        self.assertIn("--to is needed", self.refused("move", "feed.xml"))
        self.assertIn(
            "--out is missing", self.refused("move", "feed.xml", "--to", "lanternlog")
        )


class Streams(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.write("export.zip", demo_export())

    def test_json_is_one_object(self) -> None:
        found = self.survey("export.zip")
        self.assertEqual(found["sources"], [{"path": "export.zip", "format": "rss", "dialect": "reedpost", "parts": 1,
                                             "encoding": "utf-8", "generator": "Reedpost 7.2", "written": None, "newest": False}])  # fmt: skip
        self.assertEqual(found["counts"]["post"], 63)
        codes = {finding["code"]: finding for finding in found["findings"]}
        self.assertEqual(
            codes["preset-content"]["examples"], ["Your first article", "About this site"]
        )
        self.assertEqual(os.listdir(self.folder), ["export.zip"])

    def test_no_colour_and_no_progress_where_there_is_no_terminal(self) -> None:
        done = newburrow(
            "move", "export.zip", "--to", "lanternlog", "--out", "m", folder=self.folder
        )
        self.assertNotIn("\x1b", done.stdout)
        self.assertEqual(done.stderr, "")

    def on_a_terminal(self, **env: str) -> str:
        command = f"{PROGRAM} move export.zip --to lanternlog --rehearse"
        done = subprocess.run(["script", "-qec", command, "/dev/null"], cwd=self.folder, capture_output=True, text=True,
                              env={**os.environ, "TERM": "xterm", **env}, stdin=subprocess.DEVNULL)  # fmt: skip
        return done.stdout

    def test_a_terminal_shows_progress_and_no_color_takes_it_away(self) -> None:
        self.assertIn("\x1b[", self.on_a_terminal())
        self.assertNotIn("\x1b[", self.on_a_terminal(NO_COLOR="1"))

    def test_control_characters_of_an_export_do_not_reach_the_terminal(self) -> None:
        self.write(
            "feed.xml",
            rss(item("A\u009b31m[bold]", SITE + "a", extra="<category>\u0085x</category>")),
        )
        printed = self.run_ok("survey", "feed.xml")
        self.assertNotIn("\u009b", printed)
        self.assertNotIn("\u0085", printed)

    def test_a_reader_that_goes_away_is_no_fault(self) -> None:
        done = subprocess.run(
            f"{PROGRAM} survey export.zip --json | head -1",
            shell=True,
            cwd=self.folder,
            capture_output=True,
            text=True,
        )
        self.assertEqual(done.stderr, "")
        self.assertEqual(done.stdout, "{\n")

    def test_listings(self) -> None:
        self.assertIn("lanternlog", self.run_ok("hosts"))
        self.assertIn("reedpost", self.run_ok("dialects"))
        for command, name in (("hosts", "lanternlog"), ("dialects", "reedpost")):
            self.write(f"{name}.toml", self.run_ok(command, name))
            self.assertIn(f'name = "{name}"', self.run_ok(command, f"{name}.toml"))

    def test_the_demo_says_in_ten_lines_what_came_of_it(self) -> None:
        printed = self.run_ok("demo", "--out", "demo")
        self.assertEqual(len(printed.splitlines()), 10)
        self.assertEqual(self.run_ok("demo", "--out", "demo"), printed)
        found = json.loads(self.run_ok("move", "demo/move", "--json"))
        self.assertEqual(sum(account["failed"] for account in found["counts"].values()), 0)


class Readme(unittest.TestCase):
    def test_its_first_two_commands(self) -> None:
        lines = README.read_text("utf-8").split("```")[1].splitlines()
        self.assertEqual(
            [line.split("#")[0].strip() for line in lines if line.startswith("make")],
            ["make demo", "make test"],
        )

    def test_every_picture_is_there(self) -> None:
        text = README.read_text("utf-8")
        for part in text.split("](docs/")[1:]:
            self.assertTrue(
                (README.parent / "docs" / part.partition(")")[0]).exists(), part[:40]
            )
