"""Authors of one name: one person, or two who stay two."""

from newburrow.decide.decisions import AuthorChoice
from newburrow.model import Author, Entry
from newburrow.store.journal.journal import Journal
from newburrow.store.journal.rows import ExistingItem
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


class WholePersons(MoveCase):
    NELL = Author(key="1", name="Nell", login="nell", email="nell@a.example")
    HOB = Author(
        key="2", name="Hob", login="hob", email="hob@a.example", address="https://hob.example/"
    )

    def written(self, choices: dict[str, AuthorChoice], **more: object) -> Author:
        """The author of Nell's entry, as it is written."""
        entries = [
            Entry(key="e", slug="e", authors=("1",)),
            Entry(key="f", slug="f", authors=("2",)),
        ]
        made = self.converted(self.NELL, self.HOB, *entries, authors=choices, **more)  # type: ignore[arg-type]
        return made["e"].authors[0]

    def facts(self, author: Author) -> tuple[str, str, str, str]:
        return author.name, author.login, author.email, author.address

    def test_who_gets_the_entries_gets_them_with_login_mail_and_address(self) -> None:
        hob = self.facts(self.HOB)
        for choices in (
            {"1": AuthorChoice("assign", "hob@a.example")},
            {"1": AuthorChoice("keep", "Hob")},
            {"1": AuthorChoice("keep", "hob")},
        ):
            self.setUp()
            self.assertEqual(self.facts(self.written(choices)), hob, choices)
            self.assertEqual(self.fate("1", "author")[0], "merged")
            self.assertEqual(self.fate("2", "author")[0], "moved")

    def test_the_other_keeps_a_new_name_of_his_own(self) -> None:
        choices = {"1": AuthorChoice("assign", "2"), "2": AuthorChoice("keep", "Hob Larkin")}
        self.assertEqual(self.facts(self.written(choices))[:2], ("Hob Larkin", "hob"))
        self.setUp()
        swapped = {"1": AuthorChoice("keep", "Hob"), "2": AuthorChoice("keep", "Nell")}
        self.assertEqual(self.facts(self.written(swapped))[:2], ("Hob", "nell"))

    def test_who_wrote_nothing_else_is_there_all_the_same(self) -> None:
        entry = Entry(key="e", slug="e", authors=("1",))
        made = self.converted(
            self.NELL, self.HOB, entry, authors={"1": AuthorChoice("assign", "2")}
        )
        self.assertEqual(made["e"].authors[0].email, "hob@a.example")
        self.assertEqual(self.fate("2", "author")[0], "moved")

    def test_whom_the_new_host_has(self) -> None:
        def held(journal: Journal) -> None:
            item = ExistingItem(
                "Zoe Marsh", "", "https://zoe.example/", "9", "zoe", "zoe@b.example"
            )
            journal.existing.add("author", "Zoe Marsh", item)
            journal.existing.add("person", "zoe", item)

        zoe = ("Zoe Marsh", "zoe", "zoe@b.example", "https://zoe.example/")
        for word in ("Zoe Marsh", "ZOE"):
            self.setUp()
            found = self.written({"1": AuthorChoice("assign", word)}, held=held)
            self.assertEqual(self.facts(found), zoe, word)
        self.setUp()
        self.assertEqual(
            self.facts(self.written({"1": AuthorChoice("keep", "Zoe Marsh")}, held=held)), zoe
        )

    def test_somebody_new_has_nothing_of_the_old_person(self) -> None:
        found = self.written({"1": AuthorChoice("assign", "Ida")})
        self.assertEqual(self.facts(found), ("Ida", "", "", ""))
