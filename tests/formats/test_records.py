import json

from hypothesis import given
from hypothesis import strategies as st

from newburrow.formats.serialised_list import parts
from tests.helpers import SITE, FolderCase, zipped

CSV_DIALECT = f"""
name = "tables"
format = "csv"
[dates]
zone = "Europe/London"
forms = ["%d.%m.%Y %H:%M", "unix"]
[entry]
markup = "html-lines"
id_addresses = ["/item/{{id}}"]
[comment]
markup = "text"
[[records]]
of = "site"
file = "posts.csv"
always = {{ address = "{SITE}", title = "Orchard" }}
[[records]]
of = "entry"
file = "posts.csv"
take = {{ id = "No", title = "Title", body = "Text", published = "When", author = "By", permalink = "$['Web address']", parent = "Under", lead_picture = "Picture", markup = "Format" }}
terms = {{ tag = "Tags" }}
split = {{ tag = ";" }}
[[records]]
of = "author"
file = "people.csv"
take = {{ id = "No", name = "Name", email = "Mail" }}
[[records]]
of = "term"
file = "subjects.csv"
take = {{ id = "No", name = "Name", parent = "Under" }}
always = {{ vocabulary = "category" }}
[[records]]
of = "relation"
file = "post_subject.csv"
take = {{ entry = "Post", term = "Subject" }}
always = {{ vocabulary = "category" }}
[[records]]
of = "relation"
file = "facts.csv"
take = {{ entry = "Post", name = "Name", value = "Value" }}
[[records]]
of = "comment"
file = "replies.csv"
take = {{ id = "No", entry = "Post", author_name = "Who", body = "Said", parent = "To", status = "State", published = "When" }}
shape = {{ id = "reply-{{text}}", parent = "reply-{{text}}" }}
[values.comment_status]
ok = "approved"
[values.markup]
md = "markdown"
"""
TABLES = {
    "posts.csv": "No,Title,Text,When,By,Web address,Tags,Under,Picture,Format,Mood\n"
    '1,Budding,"One\n\nTwo",01.05.2021 09:30,7,/budding/,bees; grafting,,4.png,,calm\n'
    "2,Grafting,*x*,1620000000,Guest,/grafting/,,1,,md,\n",
    "people.csv": "No,Name,Mail\n7,Ada,a@mistlebank.example\n",
    "subjects.csv": "No;Name;Under\n1;Trees;\n2;Apples;1\n",
    "post_subject.csv": "Post\tSubject\n1\t2\n1\t1\n99\t1\n",
    "facts.csv": "Post,Name,Value\n1,weather,sun\n1,weather,late rain\n",
    "replies.csv": "No,Post,Who,Said,To,State,When\n1,1,Ann,hi,,ok,soon\n2,1,Bob,ho,1,ok,2021-05-02\n",
}
JSON_DIALECT = """
name = "tree"
format = "json"
[[records]]
of = "site"
each = "$"
take = { title = "$.site.name", address = "$.site.url", zone = "$.site.zone" }
[[records]]
of = "entry"
each = "$.content.posts[?@.live == true]"
take = { id = "id", title = "title", slug = "slug", body = "$.text.html", published = "at", guid = "uid", other_addresses = "old" }
always = { kind = "page" }
address = "/{year}/{slug}"
fields = { weather = "$.meta.weather" }
[[records.pairs]]
element = "$.more[*]"
name = "k"
value = "v"
lists = true
[[records.inner]]
of = "comment"
each = "replies"
take = { id = "id", author_name = "$.by.name", body = "text" }
[[records.inner]]
of = "term"
each = "$.labels[*]"
take = { id = "id", name = "name", slug = "slug" }
[[records.inner]]
of = "author"
each = "writer"
take = { id = "login", name = "name" }
[[records.inner]]
of = "media"
each = "$.files[*]"
take = { id = "id", path = "path", alternative_text = "alt" }
"""
TREE = {
    "content": {"posts": [
        {"id": 5, "uid": "u5", "title": "Bees", "slug": "bees", "text": {"html": "<p>b</p>", "raw": "b"}, "at": "2020-12-31T23:30:00Z", "live": True,
         "meta": {"weather": "sun", "mood": "calm"}, "more": [{"k": "seen", "v": 'a:2:{i:0;s:4:"wren";i:1;s:3:"owl";}'}, {"k": "", "v": "lost?"}],
         "labels": [{"id": 3, "name": "Hives", "slug": "hives"}], "writer": {"login": "ada", "name": "Ada"}, "old": ["/b", "/old-bees"],
         "files": [{"id": "f1", "path": "pics/a.png", "alt": "A bee"}],
         "replies": [{"id": "c1", "by": {"name": "Ann", "mail": "x"}, "text": "one", "replies": [{"id": "c2", "text": "two"}]}]},
        {"id": 6, "live": False, "title": "Hidden"},
    ], "drafts": [1, 2]},
    "theme": "green", "site": {"name": "Orchard", "url": SITE, "zone": "Asia/Tokyo"},
}  # fmt: skip
XML_DIALECT = """
name = "tree"
format = "xml"
[namespaces]
n = "https://mistlebank.example/n"
[[records]]
of = "site"
each = "site"
take = { title = "@name", address = "@url" }
[[records]]
of = "entry"
each = "/dump/n:posts/n:post[@state='live']"
take = { id = "@id", title = "n:title", body = "n:body", permalink = "n:link/@to" }
terms = { tag = "n:tag" }
[[records.inner]]
of = "comment"
each = "n:reply"
take = { author_name = "@by", body = "n:said" }
"""
XML = f"""<?xml version="1.0"?>
<dump xmlns:n="https://mistlebank.example/n"><note>by hand</note><n:posts>
<n:post id="1" state="live"><n:title>A</n:title><n:body>x</n:body><n:link to="/a" rel="self"/><n:tag>t</n:tag><n:mood>calm</n:mood>
<n:reply by="Ann"><n:said>one</n:said><n:reply by="Bob"><n:said>two</n:said></n:reply></n:reply></n:post>
<n:post id="2" state="off"><n:title>B</n:title></n:post></n:posts><site name="Orchard" url="{SITE}"/></dump>
"""


class PlainRecords(FolderCase):
    def shown(self, word: str, source: str = "export", dialect: str = "d.toml") -> dict:  # type: ignore[type-arg]
        return json.loads(self.run_ok("show", source, word, "--dialect", dialect, "--json"))  # type: ignore[no-any-return]

    def findings(self, *words: object) -> dict[str, int]:
        return {one["code"]: one["count"] for one in self.survey(*words)["findings"]}

    def test_tables_with_relations_by_id(self) -> None:
        self.write("d.toml", CSV_DIALECT)
        zipped(
            self.folder / "export",
            **{name: text.encode("utf-8-sig") for name, text in TABLES.items()},
        )
        found = self.survey("export", "--dialect", "d.toml")
        self.assertEqual(
            found["counts"], {"post": 2, "comment": 2, "author": 2, "tag": 2, "category": 2}
        )
        codes = {one["code"]: one["count"] for one in found["findings"]}
        self.assertEqual((codes["relation-without-entry"], codes["no-date"]), (1, 1))
        one = self.shown("1")
        record = one["record"]
        self.assertEqual(
            (record["permalink"], record["addresses"]), (SITE + "budding/", [SITE + "item/1"])
        )
        self.assertEqual(
            (record["published"], record["body"]),
            ("2021-05-01T09:30:00+01:00", {"text": "One\n\nTwo", "markup": "html-lines"}),
        )
        self.assertEqual(
            (record["fields"], record["extra"]),
            ({"weather": "sun\nlate rain"}, {"Mood": ["calm"]}),
        )
        self.assertEqual(record["source"], {"file": "posts.csv in export", "line": 2})
        self.assertEqual(
            [term["name"] for term in one["terms"]], ["Apples", "Trees", "bees", "grafting"]
        )
        self.assertEqual(
            (one["terms"][0]["parent"], one["authors"][0]["email"]),
            ("category/1", "a@mistlebank.example"),
        )
        self.assertEqual(
            [(c["key"], c.get("parent", "")) for c in one["comments"]],
            [("reply-1", ""), ("reply-2", "reply-1")],
        )
        two = self.shown("2")
        self.assertEqual(
            (
                two["record"]["body"]["markup"],
                two["record"]["parent"],
                two["record"]["source"]["line"],
            ),
            ("markdown", "1", 5),
        )
        self.assertEqual(two["record"]["published"], "2021-05-03T00:00:00Z")
        self.run_ok("move", "export", "--dialect", "d.toml", "--to", "lanternlog", "--out", "m")
        self.assertIn(
            "&lt;em&gt;x&lt;/em&gt;", (self.folder / "m/new/lanternlog-import.atom").read_text()
        )

    def test_json_by_paths(self) -> None:
        self.write("d.toml", JSON_DIALECT)
        self.write("export", json.dumps(TREE, indent=1))
        found = self.survey("export", "--dialect", "d.toml")
        self.assertEqual(
            found["counts"], {"page": 1, "comment": 2, "author": 1, "tag": 1, "media": 1}
        )
        self.assertEqual(found["site"]["title"], "Orchard")
        unread = next(one for one in found["findings"] if one["code"] == "unread-element")
        self.assertIn("'drafts'", " ".join(unread["examples"]))
        self.assertIn("'theme'", " ".join(unread["examples"]))
        one = self.shown("5")
        record = one["record"]
        self.assertEqual(
            (record["permalink"], record["guid"], record["source"]["line"]),
            (SITE + "2021/bees", "u5", 4),
        )
        self.assertEqual(
            (record["addresses"], record["fields"]),
            ([SITE + "b", SITE + "old-bees"], {"weather": "sun", "seen": "wren\nowl"}),
        )
        self.assertEqual(
            record["extra"],
            {
                "live": ["true"],
                "text.raw": ["b"],
                "meta.mood": ["calm"],
                "$.more[*] v": ["lost?"],
            },
        )
        self.assertEqual(
            (one["terms"][0]["key"], one["terms"][0]["slug"], one["authors"][0]["name"]),
            ("tag/3", "hives", "Ada"),
        )
        self.assertEqual(
            [(c["key"], c.get("parent", ""), c.get("extra")) for c in one["comments"]],
            [("c1", "", {"by.mail": ["x"]}), ("c2", "c1", None)],
        )

    def test_xml_by_paths(self) -> None:
        self.write("d.toml", XML_DIALECT)
        self.write("export", XML)
        found = self.survey("export", "--dialect", "d.toml")
        self.assertEqual(found["counts"], {"post": 1, "comment": 2, "tag": 1})
        self.assertIn("'note'", str(found["findings"]))
        one = self.shown("1")
        self.assertEqual(
            (one["record"]["permalink"], one["record"]["source"]["line"]), (SITE + "a", 3)
        )
        space = "{https://mistlebank.example/n}"
        self.assertEqual(
            one["record"]["extra"],
            {space + "mood": ["calm"], "@state": ["live"], space + "link/@rel": ["self"]},
        )
        self.assertEqual([c["author_name"] for c in one["comments"]], ["Ann", "Bob"])
        self.assertEqual(one["comments"][1]["parent"], one["comments"][0]["key"])

    def test_lines(self) -> None:
        self.write(
            "d.toml",
            'name = "l"\nformat = "jsonlines"\n[[records]]\nof = "entry"\ntake = { title = "t", body = "b" }\n',
        )
        self.write("export", '{"t": "A", "b": "x"}\n\n{"t": "B", "b": "y"}\n')
        self.assertEqual(self.survey("export", "--dialect", "d.toml")["counts"], {"post": 2})
        self.assertEqual(self.shown("B")["record"]["source"]["line"], 3)
        self.write("export", '{"t": "A"}\n{"t": B}\n')
        self.assertIn(
            "expecting value.\n  in export, line 2, column 7",
            self.refused("survey", "export", "--dialect", "d.toml"),
        )

    def test_without_a_dialect(self) -> None:
        self.write("export", json.dumps(TREE))
        self.assertIn(
            "newburrow dialects --draft-from export", self.refused("survey", "export")
        )

    def test_mistakes_in_record_maps(self) -> None:
        self.write("export", "a,b\n1,2\n")
        for wrong, line, message in (
            ('take = { titel = "a" }', 5, "Did you mean 'title'"),
            ('take = { title = "$.[" }', 5, "is not a JSONPath"),
            ('shape = { id = "x" }', 5, "{text}"),
            ('format = "rss"', 5, "These have records"),
            ('[[records.inner]]\nof = "comment"\ntake = { text = "b" }', 7, "Its facts are"),
        ):
            self.write(
                "d.toml", f'name = "d"\nformat = "csv"\n[[records]]\nof = "entry"\n{wrong}\n'
            )
            said = self.refused("survey", "export", "--dialect", "d.toml")
            self.assertIn(message, said)
            self.assertIn(f"line {line}", said)
        self.write(
            "d.toml",
            'name = "d"\nformat = "json"\n[[records]]\nof = "entry"\neach = "$..post"\n',
        )
        self.assertIn(
            "such as $.posts[*]", self.refused("survey", "export", "--dialect", "d.toml")
        )

    @given(st.lists(st.text(max_size=9), max_size=4))
    def test_a_serialised_list_is_taken_apart(self, texts: list[str]) -> None:
        def php(text: str) -> str:
            return f's:{len(text.encode())}:"{text}";'

        texts = [text.encode("utf-8", "replace").decode() for text in texts]
        pairs = "".join(f"i:{n};{php(text)}" for n, text in enumerate(texts))
        self.assertEqual(parts(f"a:{len(texts)}:{{{pairs}}}"), texts)
        self.assertEqual(
            parts(json.dumps({str(n): [text] for n, text in enumerate(texts)})), texts
        )
