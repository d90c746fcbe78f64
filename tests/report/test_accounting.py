from newburrow.formats.exports.file_counts import FileCounts
from newburrow.model import Entry
from newburrow.report.accounting import Account, accounts, check
from newburrow.store.fill import fill
from newburrow.store.journal.journal import Journal
from newburrow.store.journal.rows import Fate, LedgerRow
from tests.helpers import FolderCase


class Accounting(FolderCase):
    def counted(self, *fates: LedgerRow) -> dict[str, Account]:
        entries = [Entry(key="1"), Entry(key="2"), Entry(key="3", kind="page")]
        with (
            fill(self.folder / "c.sqlite", [entries], dict) as store,
            Journal(self.folder / "j.sqlite") as journal,
        ):
            for row in fates:
                journal.ledger.add(row)
            return accounts(store, journal)

    def test_the_identity(self) -> None:
        counted = self.counted(LedgerRow("entry", "1", "post", Fate.MOVED), LedgerRow("entry", "2", "post", Fate.LEFT_OUT, "chosen"),
                               LedgerRow("entry", "3", "page", Fate.FAILED, "why"))  # fmt: skip
        self.assertEqual(
            counted, {"page": Account(1, failed=1), "post": Account(2, moved=1, left_out=1)}
        )
        self.assertEqual(check(counted, FileCounts(3, 1, 1, 0, 1)), [])
        self.assertEqual(len(check(counted, FileCounts(4, 1, 1, 0, 1))), 1)

    def test_an_object_without_a_fate_is_found_out(self) -> None:
        problems = check(
            self.counted(
                LedgerRow("entry", "1", "post", Fate.MOVED),
                LedgerRow("entry", "3", "page", Fate.MOVED),
            ),
            FileCounts(),
        )
        self.assertEqual(len(problems), 1)
        self.assertIn("Of 2 objects of the kind post, 1 have a fate", problems[0].message)

    def test_a_fate_without_an_object_is_found_out(self) -> None:
        rows = [LedgerRow("entry", str(key), "page", Fate.MOVED) for key in (3, 4)]
        self.assertEqual(
            len(
                check(
                    self.counted(
                        *rows, *(LedgerRow("entry", key, "post", Fate.MOVED) for key in "12")
                    ),
                    FileCounts(),
                )
            ),
            1,
        )
