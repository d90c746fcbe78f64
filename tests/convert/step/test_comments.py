"""Comments as deep as the new host nests them, and those whose parents are left out."""

from newburrow.convert.step.comments import settled
from newburrow.model import Body, Comment, Entry
from newburrow.store.journal.rows import Fate
from tests.convert.cases import HOST, MoveCase

CHAIN = (("a", ""), ("b", "a"), ("c", "b"), ("d", "c"), ("e", "b"))


class Depth(MoveCase):
    def thread(
        self, depth: str, chain: tuple[tuple[str, str], ...] = CHAIN
    ) -> list[tuple[str, str, str]]:
        """Key, parent, and whom it is said to answer, of each comment as it was written."""
        self.setUp()
        self.host_toml = HOST + f"[comments]\n{depth}\n"
        comments = [
            Comment(key=key, entry="1", parent=parent, author_name=key.upper(), body=Body(f"<p>{key}</p>"))
            for key, parent in chain
        ]  # fmt: skip
        bundle = self.converted(Entry(key="1", slug="x"), *comments)["1"]
        found = []
        for comment in bundle.comments:
            _before, replied, words = comment.body.text.partition("In reply to ")
            found.append((comment.key, comment.parent, words[0] if replied else ""))
        return found

    def test_no_deeper_than_the_host_nests(self) -> None:
        self.assertEqual(
            self.thread(""), [("a", "", ""), ("b", "a", ""), ("c", "b", ""), ("d", "c", ""), ("e", "b", "")]
        )  # fmt: skip
        self.assertEqual(self.thread("depth = 4"), self.thread(""))
        self.assertEqual(
            self.thread("depth = 3"),
            [("a", "", ""), ("b", "a", ""), ("c", "b", ""), ("d", "b", "C"), ("e", "b", "")],
        )
        self.assertEqual(
            self.thread("depth = 2"),
            [("a", "", ""), ("b", "a", ""), ("c", "a", "B"), ("d", "a", "C"), ("e", "a", "B")],
        )
        self.assertEqual(
            self.thread("depth = 1"),
            [("a", "", ""), ("b", "", "A"), ("c", "", "B"), ("d", "", "C"), ("e", "", "B")],
        )

    def test_answers_in_a_circle_are_on_top(self) -> None:
        self.assertEqual(
            sorted(self.thread("", (("a", "b"), ("b", "a"), ("c", "a")))),
            [("a", "", ""), ("b", "", ""), ("c", "a", "")],
        )


class InTheLedger(MoveCase):
    def title(self, text: str) -> str:
        comment = Comment(key="1", entry="1", author_name="Wren", body=Body(text))
        return settled(comment, Fate.MOVED).title

    def test_the_first_sixty_characters_of_a_comment(self) -> None:
        self.assertEqual(self.title("a  b\nc"), "Wren: a b c")
        self.assertEqual(self.title("x" * 60), "Wren: " + "x" * 60)
        self.assertEqual(self.title("x" * 61), "Wren: " + "x" * 60 + "…")
