"""By what an entry is recognised on the new host, and by what it is not."""

from collections.abc import Callable
from datetime import UTC, datetime, timedelta

from newburrow.core import url
from newburrow.model import Entry
from newburrow.store.journal.journal import Journal
from newburrow.store.journal.rows import ExistingItem
from tests.convert.cases import MoveCase
from tests.helpers import SITE

AT = datetime(2023, 5, 6, 8, 15, 30, tzinfo=UTC)
NEW = f"{SITE}2023/05/owls.html"


def holds(*rows: tuple[str, str, ExistingItem]) -> Callable[[Journal], None]:
    def hold(journal: Journal) -> None:
        for row in rows:
            journal.existing.add(*row)

    return hold


class Recognised(MoveCase):
    def fate_of(self, *rows: tuple[str, str, ExistingItem], **more: object) -> str:
        self.setUp()
        facts = {
            "title": "The Owls",
            "published": AT,
            "slug": "owls",
            "permalink": f"{SITE}owls/",
        } | more
        self.converted(Entry(key="1", **facts), held=holds(*rows))  # type: ignore[arg-type]
        return self.fate("1")[0]

    def test_by_identifier_and_old_address(self) -> None:
        there = ExistingItem("Owls", "", f"{SITE}there/")
        self.assertEqual(self.fate_of(("guid", "urn:1", there), guid="urn:1"), "merged")
        self.assertEqual(self.fate_of(("guid", "urn:1", there), guid="urn:2"), "moved")
        self.assertEqual(self.fate_of(("guid", f"{SITE}owls/", there)), "merged")
        self.assertEqual(self.fate_of(("old", url.key(f"{SITE}owls/"), there)), "merged")
        self.assertEqual(
            self.fate_of(("old", url.key(f"{SITE}?no=1"), there), addresses=(f"{SITE}?no=1",)),
            "merged",
        )

    def test_by_title_and_minute(self) -> None:
        there = ExistingItem("The Owls", "", f"{SITE}there/")
        moment = "the owls\n2023-05-06T08:15"
        self.assertEqual(self.fate_of(("moment", moment, there)), "merged")
        for other in (AT + timedelta(minutes=1), AT - timedelta(seconds=31), None):
            self.assertEqual(
                self.fate_of(("moment", moment, there), published=other), "moved", other
            )
        later = AT.replace(second=59)
        self.assertEqual(self.fate_of(("moment", moment, there), published=later), "merged")
        self.assertEqual(
            self.fate_of(("moment", "\n2023-05-06T08:15", there), title=""), "moved"
        )

    def test_by_the_new_address_with_the_title_or_without_any(self) -> None:
        key = url.key(NEW)
        self.assertEqual(
            self.fate_of(("entry", key, ExistingItem("the owls", "", NEW))), "merged"
        )
        self.assertNotIn("held-by-address", self.codes())
        self.assertEqual(self.fate_of(("entry", key, ExistingItem("", "", NEW))), "merged")
        self.assertIn("held-by-address", self.codes())
        self.assertEqual(self.fate_of(("entry", key, ExistingItem("Bees", "", NEW))), "moved")
        self.assertIn("address-held", self.codes())

    def test_another_of_the_same_title_is_said(self) -> None:
        for there, shown in (
            (ExistingItem("The Owls", "", f"{SITE}there/"), f"{SITE}there/"),
            (ExistingItem("The Owls", "", ""), "The Owls"),
        ):
            self.assertEqual(self.fate_of(("title", "the owls", there)), "moved")
            message = next(
                row[5] for row in self.journal.follow_ups.rows() if row[0] == "same-title"
            )
            self.assertIn(shown, message)


class Doubles(MoveCase):
    def test_what_is_twice_and_differs_or_not(self) -> None:
        def entry(title: str) -> Entry:
            return Entry(key="1", slug="a", title=title)

        self.converted(entry("A"), entry("A"))
        self.assertNotIn("twice", self.codes())
        reasons = [
            row.reason for row in self.journal.ledger.all() if row.fate.value == "merged"
        ]
        self.assertEqual(reasons, ["is in the export twice; the first was kept"])
        self.setUp()
        self.converted(entry("A"), entry("B"))
        self.assertIn("twice", self.codes())
        reasons = [
            row.reason for row in self.journal.ledger.all() if row.fate.value == "merged"
        ]
        self.assertEqual(
            reasons, ["is in the export twice; the first was kept, and it differs"]
        )
