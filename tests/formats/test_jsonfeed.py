import json

from hypothesis import given
from hypothesis import strategies as st

from newburrow.formats.exports import detection, export_records
from tests.helpers import SITE, FolderCase, rows

FEED = {
    "version": "https://jsonfeed.org/version/1.1", "title": "Orchard", "home_page_url": SITE, "language": "en", "_mud": {"deep": 3},
    "authors": [{"name": "Tamsin", "avatar": SITE + "t.png"}],
    "items": [
        {"id": "1", "url": "/a/", "title": "A", "content_html": "<p>x</p>", "content_text": "x", "summary": "s", "tags": ["Bees", "Bees"],
         "date_published": "2024-03-02T09:00:00+09:00", "image": SITE + "bud.png", "external_url": "https://other.example/",
         "attachments": [{"url": SITE + "a.mp3", "mime_type": "audio/mpeg"}], "_weather": "sleet"},
        {"id": 2, "content_text": "a < b", "author": {"name": "Ann", "url": "https://ann.example/"}, "date_published": "soon"},
        "stray",
    ],
}  # fmt: skip


class JsonFeeds(FolderCase):
    def item(self, word: str) -> dict:  # type: ignore[type-arg]
        return json.loads(self.run_ok("show", "feed.json", word, "--json"))

    def test_items_authors_tags_and_extensions(self) -> None:
        self.write("feed.json", b"\xef\xbb\xbf" + json.dumps(FEED).encode())
        found = self.survey("feed.json")
        self.assertEqual(found["counts"], {"post": 2, "author": 2, "tag": 1, "media": 1})
        self.assertEqual(
            (found["site"]["title"], found["site"]["extra"]),
            ("Orchard", {"_mud": ['{"deep": 3}']}),
        )
        self.assertEqual({f["code"]: f["count"] for f in found["findings"]}["no-item"], 1)
        one = self.item("A")
        record = one["record"]
        self.assertEqual((record["permalink"], record["published"], record["lead_picture"]),
                         (SITE + "a/", "2024-03-02T09:00:00+09:00", SITE + "bud.png"))  # fmt: skip
        self.assertEqual(
            (record["body"]["text"], record["summary"], record["terms"]),
            ("<p>x</p>", "s", ["tag/Bees"]),
        )
        self.assertEqual(record["fields"], {"external_url": "https://other.example/"})
        self.assertEqual(set(record["extra"]), {"content_text", "_weather"})
        self.assertEqual(
            (one["authors"][0]["name"], one["authors"][0]["extra"]),
            ("Tamsin", {"avatar": [SITE + "t.png"]}),
        )
        two = self.item("2")
        self.assertEqual(
            (two["record"]["body"]["markup"], two["authors"][0]["address"]),
            ("text", "https://ann.example/"),
        )

    def test_it_moves(self) -> None:
        self.write("feed.json", json.dumps(FEED))
        self.run_ok("move", "feed.json", "--to", "lanternlog", "--out", "m", status=1)
        ledger = rows(self.folder / "m/ledger.csv")
        # its file is not there
        self.assertEqual([row["kind"] for row in ledger if row["fate"] != "moved"], ["media"])
        self.assertIn(
            "no-date", {row["kind"] for row in rows(self.folder / "m/follow-ups.csv")}
        )

    def test_what_is_no_json(self) -> None:
        text = json.dumps(FEED)
        self.write("feed.json", text[:-20])
        self.assertIn(
            "The JSON is not valid: it ends too early", self.refused("survey", "feed.json")
        )
        self.write("feed.json", text.replace('"A"', "A"))
        self.assertRegex(
            self.refused("survey", "feed.json"),
            r"expecting value.\n  in feed.json, line 1, column \d\d\d",
        )
        self.write(
            "deep.json",
            '{"version": "https://jsonfeed.org/version/1", "items": ['
            + "[" * 100_000
            + "]" * 100_000
            + "]}",
        )
        self.assertIn("deeper than 200 levels", self.refused("survey", "deep.json"))

    def test_numbers_of_any_size(self) -> None:
        feed = {**FEED, "items": [{"id": 9_223_372_036_854_775_808, "_x": [0.1, 10**30]}]}
        self.write("feed.json", json.dumps(feed))
        record = self.item("9223372036854775808")["record"]
        self.assertEqual(record["extra"], {"_x": ["[0.1, 1000000000000000000000000000000]"]})

    @given(st.recursive(st.none() | st.booleans() | st.integers() | st.text(max_size=5),
                        lambda inner: st.lists(inner, max_size=3) | st.dictionaries(
                            st.sampled_from(["id", "url", "title", "author", "authors", "tags", "image", "date_published", "x"]),
                            inner, max_size=4), max_leaves=8))  # fmt: skip
    def test_any_json_is_read_or_said(self, item: object) -> None:
        path = self.write(
            "any.json",
            json.dumps({"version": "https://jsonfeed.org/version/1", "items": [item]}),
        )
        self.assertGreaterEqual(len(list(export_records.records(detection.examine(path)))), 2)
