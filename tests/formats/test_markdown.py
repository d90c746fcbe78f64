import json
import re
from urllib.parse import quote

from newburrow.formats.texts.front_matter import BrokenFrontMatter, split
from tests.helpers import FolderCase, demo_export, rows

YAML = """---
title: "Budding: how & why"
date: 2021-05-01 09:30:00 +0100
tags: [bees, no, 007]
categories:
  - Trees
draft: false
author: {name: Ada, mail: a@mistlebank.example}
lead_picture: pics/bud.png
mood: ~
season: spring
formerly: [/old/budding/]
---

Text with *stars* and ![](pics/bud.png).
"""


class MarkdownFolder(FolderCase):
    def shown(self, word: str) -> dict:  # type: ignore[type-arg]
        return json.loads(self.run_ok("show", "site", word, "--json"))  # type: ignore[no-any-return]

    def test_a_heading_with_more_brackets_than_any_text_has(self) -> None:
        for ending, sign, many in (("md", "#", "[ " * 9000), ("creole", "=", "{{{" * 9000)):
            title = f"Pears *{many.strip()}"
            self.write(f"{ending}/pears.{ending}", f"{sign} {title}\n\nRipe.\n")
            self.write(f"{ending}/plums.{ending}", f"{sign} Plums\n\nStones.\n")
            shown = json.loads(self.run_ok("show", ending, "pears", "--json"))["record"]
            self.assertEqual(shown["title"], title)
            self.assertIn("Ripe.", shown["body"]["text"])

    def test_a_folder(self) -> None:
        self.write("site/news/2021/budding.md", YAML)
        self.write(
            "site/about/index.md",
            '+++\ntitle = "About"\ndate = 2020-01-02\nposition = 3\nkind = "page"\n+++\nWho we are.\n',
        )
        self.write(
            "site/2019-03-04-frost.md",
            '{\n "status": "private",\n "tags": ["x"]\n}\n\n# Late frost #\n\nCold.\n',
        )
        self.write("site/plain.markdown", "No front matter.\r\n")
        self.write("site/news/2021/pics/bud.png", b"\x89PNG")
        found = self.survey("site")
        self.assertEqual(
            found["counts"],
            {
                "post": 3,
                "page": 1,
                "author": 1,
                "tag": 4,
                "category": 1,
                "section": 2,
                "media": 1,
            },
        )
        one = self.shown("Budding")
        record = one["record"]
        self.assertEqual(
            (record["slug"], record["published"], record.get("status", "published")),
            ("budding", "2021-05-01T09:30:00+01:00", "published"),
        )
        self.assertEqual(
            sorted(term["name"] for term in one["terms"]),
            ["007", "2021", "Trees", "bees", "no"],
        )
        section = next(term for term in one["terms"] if term["vocabulary"] == "section")
        self.assertEqual(section["parent"], "section/news")
        self.assertEqual(
            record["extra"], {"author.mail": ["a@mistlebank.example"], "season": ["spring"]}
        )
        self.assertEqual(
            record["body"],
            {
                "text": "Text with *stars* and ![](pics/bud.png).\n",
                "markup": "markdown",
                "base": "https://old-site.example/news/2021/budding.md",
            },
        )
        page = self.shown("About")["record"]
        self.assertEqual(
            (page["kind"], page["position"], page["published"], page["permalink"]),
            ("page", 3, "2020-01-02T00:00:00Z", "https://old-site.example/about/"),
        )
        frost = self.shown("Late frost")["record"]
        self.assertEqual(
            (frost["status"], frost["published"], frost["slug"], frost["body"]["text"]),
            ("private", "2019-03-04T00:00:00Z", "frost", "Cold.\n"),
        )
        self.assertEqual(self.shown("plain")["record"]["body"]["text"], "No front matter.\n")

    def test_titles_are_words(self) -> None:
        """A heading becomes a title without its markup; it stays in the text where something in it leads on."""
        for markup, heading, title, stays in (
            ("md", "# Hello **bold** `code` &amp; <em>it</em>", "Hello bold code & it", False),
            ("md", "# 1. snake_case and C#", "1. snake_case and C#", False),
            ("md", "# See [pears](pears.md)", "See pears", True),
            ("creole", "= Plain //it// ~* C# =", "Plain it * C#", False),
            ("creole", "= [[Pears|see]] them =", "see them", True),
        ):
            self.write(f"s/a.{markup}", f"{heading}\n\nText\n")
            shown = self.run_ok("show", "s", f"a.{markup}")
            self.assertRegex(shown, rf"(?m)^title: +{re.escape(title)}$")
            self.assertEqual(heading in shown, stays, heading)
            (self.folder / f"s/a.{markup}").unlink()

    def test_it_moves_with_its_pictures(self) -> None:
        self.write("site/news/budding.md", YAML)
        self.write("site/news/pics/bud.png", b"\x89PNG")
        self.write(
            "site/news/frost.md",
            "# Frost\n\nSee [budding](budding.md#end), [gone](../none.md).\n",
        )
        self.run_ok("move", "site", "--to", "lanternlog", "--out", "m")
        feed = (self.folder / "m/new/lanternlog-import.atom").read_text()
        self.assertIn("&lt;em&gt;stars&lt;/em&gt;", feed)
        self.assertRegex(feed, r"img src=\"https://new-site.example/shown/bud-[0-9a-f]{10}.png")
        self.assertIn("leaves/2021/budding#end", feed)
        self.assertEqual(
            [
                row["kind"]
                for row in rows(self.folder / "m/follow-ups.csv")
                if row["severity"] != "note"
            ],
            ["dead-link", "site-address-unknown", "undated"],
        )
        self.assertNotIn("failed", {row["fate"] for row in rows(self.folder / "m/ledger.csv")})

    def test_names_with_signs_of_addresses(self) -> None:
        """Links lead to files as addresses name them: percent-encoded, with and without their ending."""
        names = ("C#", "What is it?", "50% off", "%41pple", "a+b", "notes #1/who?/x: y")
        links = [quote(name) + ending for name in names for ending in (".md", "", ".html")]
        text = "\n\n".join(f"[to {link}](/{link})" for link in links)
        for name in names:
            self.write(f"site/{name}.md", f"# About {name}\n\n{text}\n")
        self.run_ok("move", "site", "--to", "reedpost", "--out", "m")
        kinds = {row["kind"] for row in rows(self.folder / "m/follow-ups.csv")}
        self.assertNotIn("dead-link", kinds)
        old = {row["old"] for row in rows(self.folder / "m/redirects/addresses.csv")}
        self.assertIn("https://old-site.example/notes%20%231/who%3F/x%3A%20y/", old)

    def test_front_matter_that_cannot_be_read(self) -> None:
        self.write("site/a.md", "---\ntitle: [x\n---\nText\n")
        self.write("site/b.md", b"---\ntitle: Caf\xe9\n---\nText\n")
        codes = {one["code"]: one["count"] for one in self.survey("site")["findings"]}
        self.assertEqual((codes["front-matter"], codes["encoding-guessed"]), (1, 1))
        self.assertIn("title: [x", self.shown("a.md")["record"]["body"]["text"])
        self.assertEqual(self.shown("b.md")["record"]["title"], "Café")

    def test_what_is_no_front_matter(self) -> None:
        for text, what in (
            ("---\na: 1\n", "not closed"), ("---\n- a\n---\n", "no names"), ("+++\na = \n+++\n", "Invalid value"),
            ('{\n"a": }\n', "not closed"), ("---\na: &x 1\nb: *x\n---\n", "aliases"), ("---\n" + "[" * 5000 + "\n---\n", "nested too deep"),
            ("---\n" + "a: {" * 3000 + "\n---\n", "nested too deep"), ("---\na: 1\n--- b\n---\n", "more than one document"),
        ):  # fmt: skip
            with self.assertRaises(BrokenFrontMatter, msg=text[:20]) as caught:
                split(text)
            self.assertIn(what, str(caught.exception))
        self.assertEqual(split("--- x\ny"), ({}, "--- x\ny", 1))

    def test_yaml_that_only_one_of_two_parsers_takes(self) -> None:
        for text, facts in (
            ("title:\tPears\nrow: 1", {"title": "Pears", "row": "1"}),
            ("tags: {pear:, plum: ~}", {"tags": {"pear": "", "plum": None}}),
            ("a: [!x, 'null', []]\na: {}", {"a": {}, "a (1)": ["", None, []]}),
            ("", {}),
        ):
            self.assertEqual(
                split(f"---\n{text}\n---\nb"), (facts, "b", 4 + text.count("\n")), text
            )


class Writing(FolderCase):
    def test_the_demo_there_and_back(self) -> None:
        self.write("export.zip", demo_export())
        self.run_ok("move", "export.zip", "--to", "plainleaf", "--out", "m")
        before, after = self.survey("export.zip"), self.survey("m/new")
        left_out = {"post": 2, "page": 1, "comment": 5, "media": 1}
        for kind, number in before["counts"].items():
            self.assertEqual(after["counts"][kind], number - left_out.get(kind, 0), kind)
        self.assertEqual(after["sources"][0]["dialect"], "plainleaf")
        self.assertEqual(
            {author["name"] for author in before["authors"]},
            {author["name"] for author in after["authors"]},
        )
        self.assertNotIn(
            "missing-picture",
            {f["code"] for f in after["findings"]} - {f["code"] for f in before["findings"]},
        )
        one = json.loads(self.run_ok("show", "m/new", "Forty scions", "--json"))
        self.assertEqual([term["vocabulary"] for term in one["terms"]], ["tag", "category"])

    def test_facts_of_every_kind(self) -> None:
        record = {
            "id": "5", "title": "no", "body": "x", "published": "2021-01-01", "status": "private", "summary": "<b>s</b>",
            "position": "7", "language": "cy", "colour": "a: b\n- c", "parent": "6", "lead_picture": "a.png", "author": "Ann",
        }  # fmt: skip
        take = ", ".join(f'{name} = "{name}"' for name in record if name != "colour")
        self.write(
            "e/r.jsonl",
            json.dumps(record)
            + "\n"
            + json.dumps({"id": "6", "title": "../up", "body": "y"})
            + "\n",
        )
        self.write("e/a.png", b"png")
        self.write(
            "d.toml",
            f'name = "d"\nformat = "jsonlines"\n[[records]]\nof = "entry"\ntake = {{ {take} }}\nfields = {{ colour = "colour" }}\n',
        )
        self.run_ok("move", "e", "--to", "plainleaf", "--dialect", "d.toml", "--out", "m")
        one = json.loads(self.run_ok("show", "m/new", "5", "--json"))
        found = one["record"]
        for name, value in {
            "title": "no",
            "status": "private",
            "summary": "<b>s</b>",
            "position": 7,
            "language": "cy",
            "parent": "6",
        }.items():
            self.assertEqual(found[name], value, name)
        self.assertEqual(
            (found["fields"], one["authors"][0]["name"]), ({"colour": "a: b\n- c"}, "Ann")
        )
        self.assertTrue((self.folder / "m/new/texts/notes/up.md").is_file())
