"""Authors of one name: one person, or two who stay two."""

from newburrow.decide.decisions import AuthorChoice
from newburrow.model import Author, Entry
from tests.convert.cases import MoveCase


class OfOneName(MoveCase):
    def names(self, *people: Author, **more: object) -> list[str]:
        """The names under which an entry of each person is written."""
        self.setUp()
        entries = [
            Entry(key=f"e{person.key}", slug=person.key, authors=(person.key,))
            for person in people
        ]
        made = self.converted(*people, *entries, **more)  # type: ignore[arg-type]
        return [made[entry.key].authors[0].name for entry in entries]

    def test_two_logins_or_two_addresses_are_two_persons(self) -> None:
        for first, second, expected in (
            ({"login": "nell"}, {"login": "nb2"}, "Nell (nb2)"),
            ({"email": "n@a.example"}, {"email": "nell@b.example"}, "Nell (nell)"),
            ({"login": "nell"}, {"login": "Nell"}, "Nell"),
            ({"login": "nell"}, {"email": "nell@b.example"}, "Nell"),
            ({}, {}, "Nell"),
        ):
            people = (
                Author(key="1", name="Nell", **first),
                Author(key="2", name="Nell", **second),
            )
            self.assertEqual(self.names(*people), ["Nell", expected], (first, second))
            fate = "moved" if expected != "Nell" else "merged"
            self.assertEqual(self.fate("2", "author")[0], fate)
            self.assertEqual("same-name" in self.codes(), fate == "moved")

    def test_a_third_of_the_same_login_elsewhere(self) -> None:
        people = (
            Author(key="1", name="Nell", login="a"),
            Author(key="2", name="Nell", email="b@a.example", login="b"),
            Author(key="3", name="Nell", email="b@b.example", login="c"),
            Author(key="4", name="Nell (b)", login="d"),
        )
        self.assertEqual(self.names(*people), ["Nell", "Nell (b)", "Nell (c)", "Nell (b) (d)"])

    def test_the_administrator_decides_that_they_are_one(self) -> None:
        people = (
            Author(key="1", name="Nell", login="a"),
            Author(key="2", name="Nell", login="b"),
        )
        choices = {"2": AuthorChoice("assign", "1")}
        self.assertEqual(self.names(*people, authors=choices), ["Nell", "Nell"])
        self.assertNotIn("same-name", self.codes())
