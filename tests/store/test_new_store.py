import unittest

from newburrow.core.problem import Problem, Severity
from newburrow.model import Author, Body, Comment, Entry, Site, Term, Where
from newburrow.store.content_store import BATCH, Store
from newburrow.store.fill import fill
from newburrow.store.new_store import NewStore
from tests.helpers import FolderCase


class Filling(FolderCase):
    def filled(self, *items: object) -> Store:
        store = fill(self.folder / "content.sqlite", [items], lambda: {"fingerprint": "f"})  # type: ignore[arg-type]
        self.addCleanup(store.__exit__)
        return store

    def test_records_come_back_as_they_went_in(self) -> None:
        entry = Entry(
            key="1",
            title="Blossom",
            body=Body("<p>ü</p>"),
            extra={"x": ["y"]},
            source=Where("a.xml", 3),
        )
        store = self.filled(
            Site(key="site", title="Orchard"), entry, Comment(key="9", entry="1")
        )
        self.assertEqual(store.get(Entry, "1"), entry)
        self.assertEqual(store.site().title, "Orchard")
        self.assertEqual([comment.key for comment in store.comments_of(entry)], ["9"])
        self.assertIsNone(store.get(Entry, "2"))
        self.assertEqual(store.meta("fingerprint"), "f")
        self.assertEqual(store.extras(), [("x", 1, "y")])

    def test_a_large_record_is_read_once_and_anew_when_it_was_changed(self) -> None:
        """As many pages can be below it; what takes very much is not held."""
        path = self.folder / "store.sqlite"
        with NewStore(path) as store:
            for key, words in (("contents", 20_000), ("huge", 4_000_000), ("pear", 1)):
                store.add(Entry(key=key, body=Body("word " * words)))
            store.write_waiting()
            held = store.get(Entry, "contents")
            self.assertIs(store.get(Entry, "contents"), held)
            for key in ("huge", "pear"):
                self.assertIsNot(store.get(Entry, key), store.get(Entry, key))
            store.change(Entry(key="contents", title="Changed", body=Body("word " * 20_000)))
            changed = store.get(Entry, "contents")
            assert changed is not None
            self.assertEqual(changed.title, "Changed")

    def test_batches_meet_without_a_gap(self) -> None:
        store = self.filled(*(Entry(key=str(number)) for number in range(2 * BATCH + 1)))
        self.assertEqual(
            [entry.key for entry in store.all(Entry)],
            [str(number) for number in range(2 * BATCH + 1)],
        )
        self.assertEqual(store.count(Entry), 2 * BATCH + 1)

    def test_all_that_was_read_is_counted_doubles_too(self) -> None:
        store = self.filled(
            Entry(key="1"),
            Entry(key="1"),
            Entry(key="1", title="other"),
            Entry(key="2", kind="page"),
        )
        self.assertEqual(store.tally(), {("entry", "post"): 3, ("entry", "page"): 1})
        self.assertEqual(
            [(one.record.key, one.differs) for one in store.doubles()],
            [("1", False), ("1", True)],
        )

    def test_authors_and_terms_said_again_are_one(self) -> None:
        store = self.filled(Author(key="t", name="T"), Author(key="t", name="T", source=Where("part 2", 4)),
                            Term(key="a"), Term(key="a", name="differs"))  # fmt: skip
        self.assertEqual(store.tally(), {("author", "author"): 1, ("term", "tag"): 2})

    def test_orphans_and_problems(self) -> None:
        problem = Problem(
            Severity.WARNING, "no-date", "The date is none.", where=Where("a.xml", 4)
        )
        store = self.filled(Comment(key="1", entry="gone"), problem)
        self.assertEqual([comment.key for comment in store.orphans()], ["1"])
        self.assertEqual(list(store.problems()), [problem])

    def test_a_broken_filling_leaves_nothing(self) -> None:
        def items():  # type: ignore[no-untyped-def]
            yield Entry(key="1")
            raise RuntimeError("broken")

        with self.assertRaises(RuntimeError):
            fill(self.folder / "content.sqlite", [items()], dict)
        self.assertEqual(list(self.folder.iterdir()), [])


if __name__ == "__main__":
    unittest.main()
