"""Comments on hosts that nest them less, or have no place for them."""

import json
from datetime import UTC, datetime

from newburrow.decide.decisions import CommentRules
from newburrow.model import Body, Comment, Entry
from newburrow.model.bundle import Bundle
from tests.convert.cases import HOST, MoveCase
from tests.helpers import SITE

AT = datetime(2023, 5, 6, 8, tzinfo=UTC)
ENTRY = Entry(
    key="1", title="Owls", slug="owls", permalink=SITE + "owls/", body=Body("<p>Hoot</p>")
)
THREAD = (
    Comment(
        key="a", entry="1", author_name="Ann", published=AT, body=Body("One & only", "text")
    ),
    Comment(
        key="b", entry="1", parent="a", author_name="Ben", published=AT, body=Body("<p>Two</p>")
    ),
    Comment(key="c", entry="1", parent="b", author_name="<Cy>", body=Body("Three", "text")),
    Comment(key="d", entry="1", parent="c", body=Body("Four", "text")),
    Comment(
        key="p", entry="1", kind="pingback", author_name="A site", body=Body("seen", "text")
    ),
)


class Flattened(MoveCase):
    def depths(self, depth: int) -> dict[str, tuple[str, str]]:
        self.host_toml = HOST + f"[comments]\ndepth = {depth}\n"
        return {
            one.key: (one.parent, one.body.text)
            for one in self.converted(ENTRY, *THREAD)["1"].comments
        }

    def test_to_the_depth_of_the_host(self) -> None:
        found = self.depths(2)
        self.assertEqual(
            {key: parent for key, (parent, _text) in found.items()},
            {"a": "", "b": "a", "c": "a", "d": "a", "p": ""},
        )
        self.assertEqual(found["c"][1], "<p>In reply to Ben:</p>\n<p>Three</p>")
        self.assertIn("In reply to &lt;Cy&gt;:", found["d"][1])
        self.assertNotIn("In reply", found["b"][1])
        self.setUp()
        self.assertEqual({parent for parent, _text in self.depths(1).values()}, {""})
        self.setUp()
        self.assertEqual(self.depths(9)["d"], ("c", "<p>Four</p>"))


class Apart(MoveCase):
    def made(self, where: str, pingbacks: str = "keep", taken: str = "false") -> Bundle:
        self.host_toml = HOST + f"[comments]\ntaken = {taken}\n"
        rules = CommentRules(without_place=where, pingbacks=pingbacks)  # type: ignore[arg-type]
        return self.converted(ENTRY, *THREAD, comments=rules)["1"]

    def test_as_a_data_file(self) -> None:
        self.assertEqual(self.made("data-file").comments, ())
        lines = [json.loads(line) for line in self.journal.data_lines.all()]
        self.assertEqual([line["id"] for line in lines], ["a", "b", "c", "d", "p"])
        self.assertEqual(lines[1], {"entry": SITE + "owls.html", "id": "b", "in_reply_to": "a", "kind": "comment", "state": "approved",
                                    "author": "Ben", "published": AT.isoformat(), "text": "<p>Two</p>"})  # fmt: skip
        self.assertEqual(self.fate("b", "comment")[0], "moved")
        self.assertIn("comments.jsonl", self.fate("b", "comment")[1])

    def test_as_a_closing_section(self) -> None:
        text = self.made("closing-section", "data-file").entry.body.text
        self.assertTrue(text.startswith("<p>Hoot</p>\n<h2>Comments</h2>"), text)
        order = [
            text.index(words)
            for words in ("One &amp; only", "<p>Two</p>", "&lt;Cy&gt;", "Four")
        ]
        self.assertEqual(order, sorted(order))
        self.assertEqual(
            (text.count("<ul>"), text.count("</ul>"), text.count("<li>"), text.count("</li>")),
            (4, 4, 4, 4),
        )
        self.assertEqual(
            [json.loads(line)["id"] for line in self.journal.data_lines.all()], ["p"]
        )

    def test_left_out(self) -> None:
        self.made("leave-out")
        self.assertEqual(self.fate("a", "comment")[0], "left-out")
        self.setUp()
        self.made("data-file", "leave-out", "true")
        self.assertEqual(
            self.fate("p", "comment"),
            ("left-out", "pingbacks are left out (move.toml, comments.pingbacks)"),
        )
        self.assertEqual(self.fate("a", "comment")[0], "moved")
