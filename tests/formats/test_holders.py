"""XML in which one record holds the others, such as the site on top: facts of both are read, and nothing is kept."""

import io
from collections import Counter

from newburrow.dialects import loader
from newburrow.formats.base import Input
from newburrow.formats.records.document_records import Xml
from newburrow.formats.records.record_facts import CompiledMap
from newburrow.formats.records.record_view import XmlView
from tests.helpers import FolderCase

DIALECT = """name = "log"
format = "xml"
[[records]]
of = "site"
each = "/log"
take = { title = "called", address = "@home", description = "about" }
[[records]]
of = "author"
each = "/log/people/helper"
take = { id = "@id", name = "." }
[[records]]
of = "entry"
each = "/log/note"
take = { id = "@no", title = "head", body = "words", author = "@by" }
"""


def export(notes: int) -> str:
    """A log whose own facts stand before and after its notes."""
    made = "".join(
        f'<note no="{number}" by="n"><head>Note {number}</head><words>w<log><note/></log></words></note>\n'
        for number in range(notes)
    )
    people = '<people><helper id="n">Nell</helper></people>'
    return f'<log home="https://o.example/"><called>Shed</called>{people}{made}<about>Tools</about><mood>calm</mood></log>'


class Holders(FolderCase):
    """Read with the built program, and looked at while they are read."""

    def test_facts_of_the_holder_and_of_what_it_holds(self) -> None:
        self.write("log.xml", export(300))
        self.write("d.toml", DIALECT)
        found = self.survey("log.xml", "--dialect", "d.toml")
        site = found["site"]
        self.assertEqual(
            (site["title"], site["address"], site["description"]),
            ("Shed", "https://o.example/", "Tools"),
        )
        self.assertEqual((found["counts"]["post"], found["counts"]["author"]), (300, 1))
        unread = [one for one in found["findings"] if one["code"] == "unread-element"]
        self.assertEqual([one["examples"] for one in unread], [["mood: calm"]])

    def test_the_holder_keeps_none_of_them(self) -> None:
        dialect = loader.load(str(self.write("d.toml", DIALECT)))
        format_ = Xml()
        maps = [CompiledMap(rules, format_.compiler(dialect)) for rules in dialect.records]
        source = Input("log.xml", io.BytesIO(export(5000).encode()), dialect)
        seen = Counter[str]()
        for rules, view in format_.views(source, maps, Counter()):
            seen[rules.rules.of] += 1
            assert isinstance(view, XmlView)
            if rules.rules.of == "site":
                self.assertEqual(
                    [child.tag for child in view.element], ["called", "people", "about", "mood"]
                )
        self.assertEqual(seen, {"entry": 5000, "author": 1, "site": 1})
