from newburrow.dialects import loader
from tests.helpers import SITE, FolderCase, demo_export, item, rss


class Drafting(FolderCase):
    def draft(self, name: str) -> str:
        self.write("draft.toml", self.run_ok("dialects", "--draft-from", name))
        return (self.folder / "draft.toml").read_text("utf-8")

    def test_the_demo_is_guessed(self) -> None:
        self.write("export.zip", demo_export())
        self.draft("export.zip")
        found, right = loader.load(str(self.folder / "draft.toml")), loader.load("reedpost")
        self.assertEqual(list(found.namespaces.values()), list(right.namespaces.values()))
        for table in ("entry", "comment", "media"):
            for key in getattr(right, table).__struct_fields__:
                guess, known = (
                    getattr(getattr(found, table), key),
                    getattr(getattr(right, table), key),
                )
                if isinstance(guess, str) and ":" in guess:
                    self.assertEqual(
                        guess.partition(":")[2], str(known).partition(":")[2], (table, key)
                    )
        for name in ("kind", "status", "comment_status", "comment_kind"):
            self.assertEqual(
                {**right.values[name], **found.values[name]}, right.values[name], name
            )
        counts = self.survey("export.zip", "--dialect", "draft.toml")["counts"]
        self.assertEqual({kind: counts[kind] for kind in ("post", "page", "comment", "pingback", "media")},
                         {"post": 63, "page": 8, "comment": 147, "pingback": 3, "media": 40})  # fmt: skip

    def test_what_is_not_guessed_stands_as_a_comment(self) -> None:
        extra = '<o:mood xmlns:o="urn:o">fine\n[entry]</o:mood><o:status xmlns:o="urn:o">a "b"</o:status>'
        self.write("feed.xml", rss(item("A", SITE + "a", extra=extra)))
        text = self.draft("feed.xml")
        self.assertIn("# o:mood", text)
        self.assertNotIn("\n[entry]\n[", text)
        self.assertIn('# "a \\u0022b\\u0022" = ""', text)
        self.assertEqual(
            self.survey("feed.xml", "--dialect", "draft.toml")["counts"], {"post": 1}
        )

    def test_what_it_cannot_be_drafted_from(self) -> None:
        self.write("feed.json", '{"version": "https://jsonfeed.org/version/1", "items": []}')
        self.assertIn("no plain records", self.refused("dialects", "--draft-from", "feed.json"))
        self.write("bad.xml", rss("<item>&</item>"))
        self.assertIn("a bare &", self.refused("dialects", "--draft-from", "bad.xml"))
