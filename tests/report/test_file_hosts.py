"""Files by the host that they lay on, and what became of them."""

import unittest

from newburrow.report.file_hosts import MOST, NO_HOST, OTHERS, FilesOfHost, by_host
from newburrow.store.journal.rows import Fate, LedgerRow


def row(old: str, fate: Fate = Fate.MOVED, new: str = "https://new.example/a.png") -> LedgerRow:
    return LedgerRow("media", old, "media", fate, old=old, new=new)


class Hosts(unittest.TestCase):
    """What is counted."""

    def test_each_host_with_what_became_of_its_files(self) -> None:
        far = "https://pictures.example/b.png"
        found = by_host(
            [
                row("https://old.example/a.png"),
                row("https://old.example/c.png", Fate.MERGED),
                row("https://old.example/d.png", Fate.FAILED, ""),
                row(far, new=far),
                row("files/e.png", Fate.LEFT_OUT, ""),
            ]
        )
        self.assertEqual(
            found,
            [
                FilesOfHost("old.example", moved=1, merged=1, failed=1),
                FilesOfHost(NO_HOST, left_out=1),
                FilesOfHost("pictures.example", stays=1),
            ],
        )

    def test_very_many_hosts_are_one_row(self) -> None:
        found = by_host(row(f"https://h{number}.example/a.png") for number in range(1000))
        self.assertEqual(len(found), MOST + 1)
        self.assertEqual(found[0], FilesOfHost(OTHERS, moved=1000 - MOST))
