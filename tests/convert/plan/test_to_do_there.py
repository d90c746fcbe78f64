"""What is left to do on the new host: pages of its own, pages that nothing leads to, drafts, comments apart."""

from newburrow.core import url
from newburrow.model import Body, Comment, Entry, MenuItem
from newburrow.store.journal.journal import Journal
from newburrow.store.journal.rows import ExistingItem
from tests.convert.cases import HOST, MoveCase
from tests.helpers import SITE


def page(key: str, text: str = "", **more: object) -> Entry:
    return Entry(
        key=key,
        kind="page",
        slug=key,
        title=key.upper(),
        permalink=f"{SITE}{key}/",
        body=Body(text),
        **more,
    )  # type: ignore[arg-type]


class ToDoThere(MoveCase):
    def unreached(self) -> list[str]:
        return [row[2] for row in self.journal.follow_ups.rows() if row[0] == "unreached-page"]

    def test_pages_that_no_menu_and_no_link_reaches(self) -> None:
        menu = MenuItem(key="l", menu="main", label="A", target="a")
        by_address = MenuItem(key="m", menu="main", label="B", target=f"{SITE}b/")
        linking = Entry(
            key="p", slug="p", permalink=f"{SITE}p/", body=Body(f'<a href="{SITE}c/#x">c</a>')
        )
        pages = [page(key) for key in "abcd"]
        self.converted(menu, by_address, linking, *pages, page("e", status="draft"), page("f", parent="a"),
                       site_facts={"front_page": "d"})  # fmt: skip
        self.assertEqual(self.unreached(), ["F"])
        self.setUp()
        self.host_toml = HOST.replace(
            'takes = ["document"]', 'takes = ["document"]\nparents = true'
        )
        self.converted(menu, *pages, page("f", parent="a"), page("g", parent="zzz"))
        self.assertEqual(self.unreached(), ["B", "C", "D", "G"])

    def test_what_the_new_host_creates_by_itself(self) -> None:
        self.host_toml = HOST + '[site]\nown_pages = ["/hello/", "/about/"]\n'
        self.converted(page("a"))
        self.assertEqual(len(self.said_of("host-own-page")), 1)
        self.assertIn(f"{SITE}hello/, {SITE}about/", self.said_of("host-own-page")[0])
        for held, expected in (("about", [f"{SITE}about/"]), ("other", [])):
            self.setUp()

            def learn(journal: Journal, held: str = held) -> None:
                item = ExistingItem("T", "", f"{SITE}{held}/")
                journal.existing.add("entry", url.key(f"{SITE}{held}/"), item)

            self.converted(page("a"), held=learn)
            said = self.said_of("host-own-page")
            self.assertEqual([text.rpartition(": ")[2].rstrip(".") for text in said], expected)

    def test_a_published_entry_that_arrives_as_a_draft_is_to_be_published(self) -> None:
        self.host_toml = HOST + '[states]\ntakes = ["draft"]\n'
        self.converted(*(Entry(key=key, slug=key) for key in "abc"))
        advice = {row[6] for row in self.journal.follow_ups.rows() if row[0] == "state-changed"}
        self.assertEqual(advice, {"Publish it on the new host once you have looked at it."})
        grouped = [
            row for row in self.journal.follow_ups.grouped() if row[0] == "state-changed"
        ]
        self.assertEqual(len(grouped), 1)
        self.assertIn("In 3 places", grouped[0][5])

    def test_a_comment_of_no_entry_is_a_follow_up(self) -> None:
        self.converted(
            page("a"), Comment(key="c", entry="zzz", author_name="Jory", body=Body("Fine"))
        )
        self.assertEqual(self.fate("c", "comment")[0], "failed")
        self.assertIn("Jory", self.said_of("comment-apart")[0])
