from newburrow.core.problem import BurrowError
from newburrow.decide.move_folder import MoveFolder
from tests.helpers import FolderCase


class Folders(FolderCase):
    def test_only_what_was_written_is_overwritten_or_taken_away(self) -> None:
        self.write("m/move.toml", "")
        self.write("m/new/mine.txt", "mine")
        folder = MoveFolder.new(self.folder / "m")
        for name in ("new/a.txt", "new/b.txt", "report.html"):
            folder.open(name).close()
        with self.assertRaises(BurrowError):
            folder.open("new/mine.txt")
        again = MoveFolder.new(self.folder / "m")
        again.open("new/a.txt").close()
        again.tidy(("new/",))
        self.assertEqual(
            {path.name for path in (self.folder / "m/new").iterdir()}, {"a.txt", "mine.txt"}
        )
        self.assertTrue((self.folder / "m/report.html").exists())

    def test_no_name_leads_out(self) -> None:
        folder = MoveFolder.new(self.folder / "m")
        for name in ("../x", "new/../../x", "/tmp/x"):
            with self.assertRaises(BurrowError):
                folder.claim(name)

    def test_a_run_that_cannot_go_on_takes_back_what_it_made(self) -> None:
        folder = MoveFolder.new(self.folder / "a/b/m")
        folder.open("content.sqlite").close()
        folder.abandon()
        folder.remove_if_empty()
        self.assertFalse((self.folder / "a").exists())
        kept = MoveFolder.new(self.folder / "k")
        kept.open("old.txt").close()
        later = MoveFolder.new(self.folder / "k")
        later.open("old.txt").close()
        later.open("new.txt").close()
        later.abandon()
        self.assertEqual(
            {path.name for path in (self.folder / "k").iterdir()}, {"old.txt", ".written"}
        )

    def test_paths_are_kept_relative(self) -> None:
        folder = MoveFolder.new(self.folder / "m")
        self.assertEqual(folder.relative(self.folder / "export.zip"), "../export.zip")
        self.assertEqual(folder.name_or_path("lanternlog"), "lanternlog")
        self.assertEqual(folder.name_or_path("../h.toml"), str(self.folder / "m/../h.toml"))
