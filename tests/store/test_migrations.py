"""A store of another version: brought up to date, or read again, and it says so."""

import sqlite3

from newburrow.store import migrations
from newburrow.store.migrations import State
from tests.helpers import FolderCase, demo_export, newburrow


class OfEarlierVersions(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.write("demo.zip", demo_export())
        self.run_ok("draft", "demo.zip", "--to", "lanternlog", "--out", "m")
        self.store = self.folder / "m/content.sqlite"

    def again(self) -> str:
        """What a second run says on standard error."""
        done = newburrow(
            "draft", "demo.zip", "--to", "lanternlog", "--out", "m", folder=self.folder
        )
        self.assertEqual(done.returncode, 0, done.stderr)
        return done.stderr

    def steps(self) -> list[str]:
        with sqlite3.connect(self.store) as db:
            return [
                name for (name,) in db.execute("SELECT name FROM schema_step ORDER BY number")
            ]

    def test_one_of_this_version_is_used_as_it_is(self) -> None:
        before = self.store.read_bytes()
        self.assertEqual(self.again(), "")
        self.assertEqual(self.store.read_bytes(), before)
        self.assertEqual(self.steps(), [name for name, _take in migrations.STEPS])

    def test_one_that_lacks_steps_takes_them(self) -> None:
        with sqlite3.connect(self.store) as db:
            db.execute("DELETE FROM schema_step WHERE name = 'views of records'")
            for (name,) in db.execute(
                "SELECT name FROM sqlite_master WHERE type = 'view'"
            ).fetchall():
                db.execute(f"DROP VIEW {name}")
            db.execute("UPDATE record_entry SET data = replace(data, 'Open day', 'Shut day')")
        self.assertIn("was brought up to date", self.again())
        self.assertEqual(self.steps(), [name for name, _take in migrations.STEPS])
        with sqlite3.connect(self.store) as db:
            found = db.execute(
                "SELECT count(*) FROM entries WHERE title LIKE 'Shut day%'"
            ).fetchone()
        self.assertGreater(found[0], 0)  # what is in it was kept

    def test_one_of_before_there_were_steps_is_filled_again(self) -> None:
        with sqlite3.connect(self.store) as db:
            db.execute("DROP TABLE schema_step")
        self.assertIn("made by another version of New Burrow", self.again())
        self.assertEqual(self.steps(), [name for name, _take in migrations.STEPS])

    def test_one_with_steps_that_are_not_ours_is_filled_again(self) -> None:
        for statement in (
            "INSERT INTO schema_step (name) VALUES ('of the future')",
            "UPDATE schema_step SET name = 'other' WHERE number = 1",
            "UPDATE meta SET value = '0' WHERE name = 'readers'",
        ):
            with sqlite3.connect(self.store) as db:
                db.execute(statement)
            self.assertIn("made by another version of New Burrow", self.again(), statement)

    def test_a_file_that_is_no_store_is_filled_again(self) -> None:
        self.store.write_bytes(b"not a store")
        self.again()
        self.assertEqual(self.steps(), [name for name, _take in migrations.STEPS])

    def test_a_step_that_fails_leaves_the_store_as_it_was(self) -> None:
        def fail(_db: sqlite3.Connection) -> None:
            raise sqlite3.OperationalError("disk full")

        with sqlite3.connect(self.store, isolation_level=None) as db:
            steps = migrations.STEPS
            migrations.STEPS = (
                *steps,
                ("one more", migrations.create_views),
                ("a bad one", fail),
            )
            self.addCleanup(setattr, migrations, "STEPS", steps)
            with self.assertRaises(sqlite3.OperationalError):
                migrations.bring_up_to_date(db)
            migrations.STEPS = steps
            self.assertEqual(migrations.bring_up_to_date(db), State.CURRENT)
