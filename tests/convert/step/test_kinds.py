"""Parents and positions of entries, on hosts that have them and hosts that do not."""

from newburrow.model import Entry
from tests.convert.cases import HOST, MoveCase

TREE = HOST.replace("[kinds.page]\n", "[kinds.page]\nparents = true\npositions = true\n")


def page(key: str, parent: str = "", **more: object) -> Entry:
    return Entry(key=key, slug=f"p{key}", kind="page", title=f"P{key}", parent=parent, **more)  # type: ignore[arg-type]


class Parents(MoveCase):
    host_toml = TREE

    def parents(self, *pages: Entry) -> dict[str, str]:
        return {key: bundle.entry.parent for key, bundle in self.converted(*pages).items()}

    def test_a_tree_is_kept(self) -> None:
        self.assertEqual(
            self.parents(page("1"), page("2", "1"), page("3", "2")),
            {"1": "", "2": "1", "3": "2"},
        )
        self.assertNotIn("parent-left-out", self.codes())

    def test_the_next_parent_that_moves_takes_the_place_of_those_left_out(self) -> None:
        removed = {"status": "removed"}
        found = self.parents(
            page("1"), page("2", "1", **removed), page("3", "2", **removed), page("4", "3")
        )
        self.assertEqual(found["4"], "1")
        message = self._message("parent-left-out")
        self.assertIn("It is now under “P1”.", message)

    def test_no_parent_that_moves(self) -> None:
        self.assertEqual(self.parents(page("1", status="removed"), page("2", "1"))["2"], "")
        self.assertIn("It now has no parent.", self._message("parent-left-out"))
        self.setUp()
        self.assertEqual(self.parents(page("2", "unknown"))["2"], "")

    def test_parents_in_a_circle_that_are_left_out(self) -> None:
        removed = {"status": "removed"}
        found = self.parents(
            page("1", "2", **removed), page("2", "1", **removed), page("3", "2")
        )
        self.assertEqual(found["3"], "")

    def _message(self, code: str) -> str:
        return next(row[5] for row in self.journal.follow_ups.rows() if row[0] == code)


class Without(MoveCase):
    def test_a_host_without_a_tree_or_an_order_says_what_was_lost(self) -> None:
        bundle = self.converted(page("1"), page("2", "1", position=0))["2"]
        self.assertEqual((bundle.entry.parent, bundle.entry.position), ("", None))
        self.assertEqual(
            [code for code in self.codes() if code.startswith("no-")].count("no-tree"), 1
        )
        self.assertIn("no-order", self.codes())

    def test_nothing_is_said_of_what_is_not_there(self) -> None:
        self.converted(page("1"))
        self.assertNotIn("no-tree", self.codes())
        self.assertNotIn("no-order", self.codes())
        self.setUp()
        self.host_toml = TREE
        bundle = self.converted(page("1", position=3))["1"]
        self.assertEqual(bundle.entry.position, 3)
        self.assertNotIn("no-order", self.codes())
