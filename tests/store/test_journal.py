import sqlite3

from newburrow.core.problem import Problem, Severity
from newburrow.store.journal.journal import Journal
from newburrow.store.journal.rows import GONE, REDIRECTED, Fate, LedgerRow, OldAddress, Place
from tests.helpers import FolderCase


class Journals(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.journal = Journal(self.folder / "j.sqlite")
        self.addCleanup(self.journal.__exit__)

    def test_nothing_is_settled_twice(self) -> None:
        row = LedgerRow("entry", "1", "post", Fate.MOVED)
        self.journal.ledger.add(row)
        with self.assertRaises(sqlite3.IntegrityError):
            self.journal.ledger.add(row)

    def test_an_address_has_one_answer(self) -> None:
        first = OldAddress.of(
            "https://a.example/x", "https://a.example/y", REDIRECTED, "permalink"
        )
        self.assertIsNone(self.journal.urls.add(first))
        self.assertEqual(
            self.journal.urls.add(OldAddress.of("http://a.example/x", "", GONE, "")), first
        )
        self.assertEqual(self.journal.urls.count(), {REDIRECTED: 1})

    def test_crowded_addresses_come_oldest_first(self) -> None:
        for seq, key, at in ((1, "b", "2"), (2, "a", "1"), (3, "c", "3"), (4, "left", "0")):
            new = "" if key == "left" else "https://a.example/x"
            self.journal.plan.add((Place(seq, key, "post", "", "", new, new, new, True), at))
        self.assertEqual(
            [[place.key for place in places] for places in self.journal.plan.collisions()],
            [["a", "b", "c"]],
        )
        self.assertIsNone(self.journal.plan.get("left"))
        self.assertEqual(self.journal.plan.count(), 3)

    def test_follow_ups_come_worst_first_with_their_object(self) -> None:
        self.journal.ledger.add(
            LedgerRow("entry", "1", "post", Fate.MOVED, title="Blossom", old="o", new="n")
        )
        self.journal.follow_ups.add(
            Problem(Severity.NOTE, "a", "mild", object="entry", key="1")
        )
        self.journal.follow_ups.add(
            Problem(Severity.ERROR, "z", "bad", "mend it", object="entry", key="1")
        )
        found = list(self.journal.follow_ups.rows())
        self.assertEqual(found[0], ("z", "error", "Blossom", "o", "n", "bad", "mend it"))
        self.assertEqual(self.journal.follow_ups.count(), {"error": 1, "note": 1})

    def test_the_file_goes_when_it_is_closed(self) -> None:
        with Journal(self.folder / "other.sqlite"):
            pass
        self.assertFalse((self.folder / "other.sqlite").exists())
