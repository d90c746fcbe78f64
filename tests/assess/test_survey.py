from tests.helpers import SITE, FolderCase, demo_export, item, rss, zipped


class Surveys(FolderCase):
    def codes(self, *items: str, head: str = "") -> dict[str, dict]:  # type: ignore[type-arg]
        self.write("feed.xml", rss(*items, head=head))
        return {finding["code"]: finding for finding in self.survey("feed.xml")["findings"]}

    def test_what_gives_trouble_is_counted_with_examples(self) -> None:
        dated = "<pubDate>Sat, 06 May 2023 08:00:00 +0100</pubDate>"
        found = self.codes(
            item("A", SITE + "a", '<form></form><a href="/b">b</a><a href="/none">x</a><img src="/p.png">', dated),
            item("B", SITE + "b", "<iframe src=/film></iframe><script></script>", dated),
            item("A", SITE + "c", "<form>", "<o:mood xmlns:o='urn:o'>fine</o:mood>"),
            item("A", SITE + "a"), item("D", SITE + "d", "<a>" + "<div>" * 2000, dated),
        )  # fmt: skip
        counts = {code: finding["count"] for code, finding in found.items()}
        self.assertEqual(counts, {"form": 2, "dead-link": 1, "missing-picture": 1, "embed": 1, "script": 1, "unread-element": 1,
                                  "same-title": 1, "united": 1, "undated": 1, "too-deep": 1})  # fmt: skip
        self.assertEqual(found["dead-link"]["examples"], [SITE + "none in “A”"])
        self.assertTrue(all(finding["advice"] for finding in found.values()))

    def test_examples_are_few_and_counts_are_not(self) -> None:
        found = self.codes(*(item(f"{n}", f"{SITE}{n}") for n in range(40)))
        self.assertEqual(
            (found["no-slug"]["count"], len(found["no-slug"]["examples"])), (40, 5)
        )

    def test_the_demo(self) -> None:
        self.write("export.zip", demo_export())
        found = self.survey("export.zip")
        self.assertEqual(found["counts"], {"post": 63, "page": 8, "comment": 147, "pingback": 3, "author": 4, "category": 10,
                                           "tag": 8, "media": 40, "menu-item": 6})  # fmt: skip
        self.assertEqual(
            found["states"]["post"], {"published": 60, "draft": 1, "removed": 1, "scheduled": 1}
        )
        self.assertEqual(found["states"]["comment"]["spam"], 4)
        self.assertEqual(found["offsets"], {"+0000": 32, "+0100": 37, "+0900": 1, "-0500": 1})
        printed = self.run_ok("survey", "export.zip")
        for words in (
            "Mistle Bank Orchard",
            "  Grafting",
            "preset-content",
            "60 published, 1 draft",
            "Next: newburrow draft export.zip",
        ):
            self.assertIn(words, printed)

    def test_addresses_sizes_and_terms(self) -> None:
        found = self.codes(
            item("A", SITE + "2023/05/a/", "x" * 50, "<pubDate>Sat, 06 May 2023 08:00:00 +0100</pubDate><category>Grafting</category>"),
            item("B", SITE + "about/", "x", "<category>graftng</category><category>grafting </category><category>Owls</category>"),
        )  # fmt: skip
        self.assertEqual(
            found["like-terms"]["examples"],
            ["“Grafting” and “grafting”", "“Grafting” and “graftng”"],
        )
        survey = self.survey("feed.xml")
        self.assertEqual(
            [(one["pattern"], one["entries"]) for one in survey["permalinks"]],
            [("/{slug}/", 1), ("/{year}/{month}/{slug}/", 1)],
        )
        self.assertEqual(survey["largest"][0], {"bytes": 50, "title": "A"})

    def test_what_no_entry_shows_and_what_is_too_much_for_a_host(self) -> None:
        zipped(self.folder / "e.zip", one_png=b"1", two_png=b"2",
               feed_xml=rss(*(item(str(n), f"{SITE}{n}", '<img src="/x/one_png">') for n in range(4001))).encode())  # fmt: skip
        found = {finding["code"]: finding for finding in self.survey("e.zip")["findings"]}
        self.assertEqual(found["file-unused"]["examples"], ["two_png"])
        self.assertEqual(
            found["host-limit"]["examples"],
            ["Lanternlog, a hosted blog takes 4,000 entries, of 4,001"],
        )

    def test_files_beside_the_xml_are_counted(self) -> None:
        zipped(
            self.folder / "e.zip",
            feed_xml=rss(item("A", SITE + "a")).encode(),
            one_png=b"x",
            two_png=b"x",
        )
        found = self.survey("e.zip")
        self.assertEqual(found["counts"]["media"], 2)
        self.assertEqual(
            [f["count"] for f in found["findings"] if f["code"] == "file-twice"], [1]
        )

    def test_what_readers_say_is_a_finding(self) -> None:
        self.assertEqual(
            self.codes(item("A", SITE + "a", extra="<pubDate>soon</pubDate>"))["no-date"][
                "count"
            ],
            1,
        )
