"""Entries and questions are checked in several processes as in one."""

import unittest
from unittest import mock

from msgspec.structs import replace

from newburrow.commands import entry_checks
from newburrow.commands.finished_move import FinishedMove
from newburrow.commands.move import move_paths
from newburrow.commands.verify import verify_folder
from newburrow.decide.draft import DraftRequest
from newburrow.decide.move_folder import MoveFolder
from newburrow.formats.exports.export import ExportRequest
from newburrow.model.bundle import Bundle
from newburrow.verify import questions
from tests.commands.test_courses import export as course_export
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

    def test_two_processes_compare_the_questions_that_one_compares(self) -> None:
        for source, host in (("chalkmere", "slatewell"), ("slatewell", "chalkmere")):
            export = self.write(f"{source}.zip", course_export(source))
            out = self.folder / host
            move_paths(DraftRequest(ExportRequest([export]), host), out, jobs=1)
            with FinishedMove(MoveFolder.existing(out)) as move:
                handed, format_ = list(move.journal.handed.entries()), move.host.format
            changed = [
                replace(entry, bundle=with_more_points(entry.bundle)) for entry in handed
            ]
            asked = sum(len(entry.bundle.questions) for entry in handed)
            for expected, number in ((handed, 0), (changed, asked)):
                found = [
                    list(questions.problems(format_, expected, out / "new", jobs, many))
                    for many, jobs in ((questions.MANY, 1), (1, 2))
                ]
                self.assertEqual(len(found[0]), number)
                self.assertEqual(found[0], found[1])


def with_more_points(bundle: Bundle) -> Bundle:
    asked = tuple(
        replace(question, points=(question.points or 0) + 1) for question in bundle.questions
    )
    return replace(bundle, questions=asked)


if __name__ == "__main__":
    unittest.main()
