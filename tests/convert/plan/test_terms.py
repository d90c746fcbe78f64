"""Terms by the path in their names, with and without a place for descriptions, and those that become pages."""

from msgspec.structs import replace

from newburrow.decide.decisions import TermChoice, TermRules
from newburrow.model import Entry, Term
from tests.convert.cases import HOST, MoveCase
from tests.helpers import SITE

TREE = HOST.replace(
    'name = "label"', 'name = "label"\nvocabularies = ["tag", "category"]\nnested = true'
)


def term(name: str, vocabulary: str = "category", **more: object) -> Term:
    slug = name.lower()
    return Term(key=f"{vocabulary}/{slug}", vocabulary=vocabulary, slug=slug, name=name, **more)  # type: ignore[arg-type]


def post(*terms: Term) -> Entry:
    return Entry(
        key="1",
        slug="a",
        title="A",
        permalink=f"{SITE}a/",
        terms=tuple(one.key for one in terms),
    )


class Paths(MoveCase):
    host_toml = TREE

    def tree(self, *terms: Term, mark: str = "/") -> dict[str, str]:
        """The terms on the new host, each by its names from the top, with its key."""
        self.setUp()
        self.converted(*terms, post(*terms), term_rules=TermRules(split_names_at=mark))
        made = self.context.terms

        def path(key: str) -> str:
            above = made[key].parent
            return (path(above) + " > " if above else "") + made[key].name

        return {path(key): key for key in made}

    def test_a_name_is_split_at_the_mark_alone(self) -> None:
        self.assertEqual(list(self.tree(term("Fruit/Soft"))), ["Fruit", "Fruit > Soft"])
        self.assertEqual(list(self.tree(term("Fruit/Soft"), mark="")), ["Fruit/Soft"])
        self.assertEqual(list(self.tree(term("Fruit/"))), ["Fruit/"])
        self.assertEqual(list(self.tree(term("/ Fruit / Soft /"))), ["Fruit", "Fruit > Soft"])

    def test_terms_of_a_path_are_made_once_and_keep_apart(self) -> None:
        found = self.tree(term("Fruit/Soft"), term("Fruit/Stone"), term("Fruit", "tag"))
        self.assertEqual(set(found), {"Fruit", "Fruit > Soft", "Fruit > Stone"})
        self.assertEqual(found["Fruit"], "tag/fruit")
        found = self.tree(term("Ü/A"), term("ü/B"))
        self.assertEqual(set(found), {"Ü", "Ü > A", "ü", "ü > B"})
        self.assertEqual(found["Ü"], "category/u")
        self.assertEqual(found["ü"], "category/u-1")
        self.assertEqual(self.tree(term("🍎/A"))["🍎"], "category/🍎")

    def test_a_host_without_a_tree_keeps_the_name(self) -> None:
        self.host_toml = HOST
        self.assertEqual(list(self.tree(term("Fruit/Soft"))), ["Fruit/Soft"])


class WithoutNesting(MoveCase):
    def test_up_to_five_names_are_shown(self) -> None:
        for count, more in ((5, False), (6, True)):
            self.setUp()
            above = term("Top")
            terms = [term(f"T{n}", parent=above.key) for n in range(count)]
            self.converted(above, *terms, post(*terms))
            message = next(
                row[5] for row in self.journal.follow_ups.rows() if row[0] == "no-nesting"
            )
            self.assertEqual("…" in message, more)
            self.assertIn(str(count), message)

    def test_the_path_of_names_where_that_was_decided(self) -> None:
        terms = (term("Top"), term("Low", parent="category/top"))
        made = self.converted(*terms, post(*terms), term_rules=TermRules(nested_names="path"))
        self.assertEqual([one.name for one in made["1"].terms], ["Top", "Top / Low"])
        self.assertNotIn("no-nesting", self.codes())


class Keys(MoveCase):
    host_toml = TREE

    def test_they_are_what_the_new_host_calls_them(self) -> None:
        """Sections of folders have paths as keys; writers name a parent by its slug."""
        top = term("Fruit")
        folder = replace(term("Stone"), key="category/x/stone", parent=top.key)
        inner = replace(
            term("Wild"), key="category/x/stone/fruit", slug="fruit", parent=folder.key
        )
        self.converted(top, folder, inner, post(inner))
        made = self.context.terms
        self.assertEqual(made[top.key].slug, "fruit")
        self.assertEqual(made[inner.key].slug, "fruit-2")
        for old, above in ((folder.key, top.key), (inner.key, folder.key)):
            self.assertEqual(made[old].parent, made[above].key)
            self.assertEqual(made[old].key, f"{made[old].vocabulary}/{made[old].slug}")


class Descriptions(MoveCase):
    def said(self, *terms: Term, **more: object) -> int:
        self.setUp()
        self.converted(*terms, post(*terms), **more)  # type: ignore[arg-type]
        return self.codes().count("term-description")

    def test_only_where_they_have_no_place(self) -> None:
        described = term("Owls", description="Barn owls")
        self.assertEqual(self.said(described, term("Bees")), 1)
        page = {"category/owls": TermChoice("page")}
        self.assertEqual(self.said(described, terms=page), 0)
        self.assertEqual(self.said(described, terms={"category/owls": TermChoice("drop")}), 0)
        self.host_toml = HOST.replace('name = "label"', 'name = "label"\ndescriptions = true')
        self.assertEqual(self.said(described), 0)


class Pages(MoveCase):
    PAGE = {"category/owls": TermChoice("page")}  # noqa: RUF012

    def test_only_of_a_term_that_is_used_on_a_host_with_pages(self) -> None:
        owls = term("Owls")
        made = self.converted(owls, post(owls), terms=self.PAGE)
        self.assertEqual(made["term category/owls"].new_address, f"{SITE}p/owls.html")
        self.setUp()
        self.assertEqual(list(self.converted(owls, post(), terms=self.PAGE)), ["1"])
        self.assertEqual(self.fate("category/owls", "term")[0], "left-out")
        self.setUp()
        self.host_toml = HOST.replace("[kinds.page]", "[kinds.sheet]")
        self.assertEqual(list(self.converted(owls, post(owls), terms=self.PAGE)), ["1"])

    def test_its_archive_leads_to_the_page(self) -> None:
        owls = term("Owls")
        self.converted(owls, post(owls), terms=self.PAGE)
        self.assertEqual(self.answers()["/in/owls/"], (301, "/p/owls.html"))
        self.setUp()
        self.converted(owls, post(owls))
        self.assertEqual(self.answers()["/in/owls/"], (301, "/labels/owls/"))
        self.setUp()
        self.host_toml = HOST.replace('address = "/labels/{slug}/"\n', "")
        self.converted(owls, term("Bees"), post(owls))
        rows = {row.old.removeprefix(SITE): row.why for row in self.journal.urls.all()}
        self.assertEqual(rows["in/owls/"], "the new host has no such archives")
        self.assertEqual(rows["in/bees/"], "nothing that moves has this term")
