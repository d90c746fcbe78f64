"""Entries are checked in several processes as in one."""

import unittest
from unittest import mock

from newburrow.commands import entry_checks
from newburrow.commands.move import move_paths
from newburrow.commands.verify import verify_folder
from newburrow.decide.draft import DraftRequest
from newburrow.decide.move_folder import MoveFolder
from newburrow.formats.exports.export import ExportRequest
from tests.helpers import FolderCase, demo_export


class Shared(FolderCase):
    def test_two_processes_find_what_one_finds(self) -> None:
        export = self.write("export.zip", demo_export())
        plan = DraftRequest(ExportRequest([export]), "reedpost")
        move_paths(plan, self.folder / "m", jobs=1)
        feed = self.folder / "m/new/reedpost-import-1.xml"
        feed.write_text(feed.read_text("utf-8").replace("badly and loudly", "well", 1), "utf-8")
        found = []
        for least, jobs in ((entry_checks.SHARED, 1), (1, 2)):
            with mock.patch.object(entry_checks, "SHARED", least):
                verified = verify_folder(MoveFolder.existing(self.folder / "m"), jobs=jobs)
            tables = [
                (self.folder / f"m/{name}.csv").read_bytes()
                for name in ("fidelity", "differences")
            ]
            found.append((verified, tables))
        self.assertEqual(found[0][0].unexplained, {"entry: words": 1})
        self.assertEqual(found[0], found[1])


if __name__ == "__main__":
    unittest.main()
