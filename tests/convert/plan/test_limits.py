"""The new host's limits on all that is handed over, exactly at each limit, one below and one above."""

from datetime import UTC, datetime, timedelta

from newburrow.model import Body, Comment, Entry, Media
from newburrow.store.journal.journal import Journal
from newburrow.store.journal.rows import ExistingItem
from tests.convert.cases import HOST, MoveCase
from tests.helpers import SITE

AT = datetime(2023, 5, 6, 8, tzinfo=UTC)


def post(number: int, **more: object) -> Entry:
    slug = f"s{number}"
    when = AT + timedelta(days=number)
    return Entry(key=str(number), slug=slug, published=when, permalink=f"{SITE}{slug}/", **more)  # type: ignore[arg-type]


def file(key: str, size: int, **more: object) -> Media:
    return Media(key=key, path=f"{key}.png", size=size, digest=key * 64, **more)  # type: ignore[arg-type]


class OfEntries(MoveCase):
    def moved(self, most: int, *held: str) -> list[str]:
        self.setUp()
        self.host_toml = f"{HOST}[limits]\nentries = {most}\n"

        def hold(journal: Journal) -> None:
            for slug in held:
                journal.existing.add(
                    "entry", f"mistlebank.example/{slug}", ExistingItem(slug, "", "")
                )

        return sorted(self.converted(post(1), post(2), post(3), held=hold))

    def test_the_newest_up_to_the_limit(self) -> None:
        for most, expected in ((4, "123"), (3, "123"), (2, "23"), (1, "3")):
            self.assertEqual(self.moved(most), list(expected), most)
            self.assertEqual("host-limit" in self.codes(), most < 3, most)

    def test_what_the_host_has_already_counts(self) -> None:
        self.assertEqual(self.moved(4, "x"), ["1", "2", "3"])
        self.assertEqual(self.moved(4, "x", "y"), ["2", "3"])
        message = next(
            row[5] for row in self.journal.follow_ups.rows() if row[0] == "host-limit"
        )
        self.assertIn(
            "at most 4 entries and has 2 already; 3 were to move. The 1 oldest", message
        )
        self.assertEqual(self.moved(1, "x", "y"), [])


class OfBytes(MoveCase):
    FILES = (file("a", 3000), file("b", 2000), file("c", 1000))

    def needed(self) -> int:
        """The bytes that everything takes."""
        self.left(1)
        message = next(
            row[5] for row in self.journal.follow_ups.rows() if row[0] == "host-limit"
        )
        return 6000 + int(
            message.partition("texts have about ")[2].partition(";")[0].partition(".")[0]
        )

    def left(self, most: int, *more: object) -> list[str]:
        """The keys of the files that are left out."""
        self.setUp()
        self.host_toml = f"{HOST}[limits]\ntotal_bytes = {most}\n"
        self.converted(post(1), *self.FILES, *more)  # type: ignore[arg-type]
        return [
            media.key for media in self.FILES if self.fate(media.key, "media")[0] == "failed"
        ]

    def test_the_largest_files_are_left_out_and_no_more_than_needed(self) -> None:
        whole = self.needed()
        self.assertEqual(self.left(whole - 1), ["a"])
        self.assertIn("host-limit", self.codes())
        self.assertEqual(self.left(whole), [])
        self.assertNotIn("host-limit", self.codes())
        self.assertEqual(self.left(whole - 3000), ["a"])
        self.assertEqual(self.left(whole - 3001), ["a", "b"])
        self.assertEqual(self.left(whole - 5001), ["a", "b", "c"])
        self.assertEqual(self.left(whole - 6001), ["a", "b", "c"])
        message = next(
            row[5] for row in self.journal.follow_ups.rows() if row[0] == "host-limit"
        )
        self.assertIn("3 of the largest files", message)
        self.assertIn("The texts alone are too much.", message)

    def test_bodies_and_comments_count(self) -> None:
        whole = self.needed()
        text = "é" * 500
        self.assertEqual(
            self.left(whole + 900, Comment(key="c", entry="1", body=Body(text))), ["a"]
        )
        self.assertEqual(
            self.left(whole + 1100, Comment(key="c", entry="1", body=Body(text))), []
        )


class OfOneFile(MoveCase):
    def fates(
        self, size: int, media_type: str = "image/png", types: str = ""
    ) -> tuple[str, str]:
        self.setUp()
        self.host_toml = f"{HOST}[media]\nfile_bytes = 100\n{types}\n"
        self.converted(post(1), file("a", size, media_type=media_type))
        return self.fate("a", "media")

    def test_a_file_of_just_the_size_moves(self) -> None:
        self.assertEqual(self.fates(100)[0], "moved")
        self.assertEqual(
            self.fates(101),
            ("failed", "it has 101 bytes; newhost accepts files of 100 at most"),
        )

    def test_types(self) -> None:
        types = 'types = ["image/*", "application/pdf"]'
        self.assertEqual(self.fates(1, "image/png", types)[0], "moved")
        self.assertEqual(self.fates(1, "IMAGE/PNG", types)[0], "moved")
        self.assertEqual(self.fates(1, "", types)[0], "moved")  # the name says image/png
        self.assertEqual(
            self.fates(1, "video/mp4", types),
            ("failed", "newhost accepts no files of the type video/mp4"),
        )
