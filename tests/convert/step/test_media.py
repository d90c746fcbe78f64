"""Lead pictures and enclosures: of the export, of another site, and of nowhere."""

from newburrow.model import Body, Entry, Media
from tests.convert.cases import HOST, MoveCase
from tests.helpers import SITE

FILE = Media(key="m", address=SITE + "files/bud.png", path="files/bud.png", digest="d" * 64)
FILM = "https://films.example/owls.mp4"


class Found(MoveCase):
    host_toml = HOST + "[media]\nlead_picture = true\n"

    def files(self, *words: str, lead: str = "") -> tuple[str, list[str]]:
        """Addresses of the lead picture and of the enclosures, as they were written."""
        self.setUp()
        entry = Entry(
            key="1", slug="a", permalink=SITE + "a/", enclosures=words, lead_picture=lead
        )
        bundle = self.converted(FILE, entry)["1"]
        picture = bundle.lead_picture
        return (picture.address if picture else ""), [
            file.address for file in bundle.enclosures
        ]

    def test_by_key_by_address_and_by_a_relative_address(self) -> None:
        new = SITE + "media/bud-dddddddddd.png"
        for word in ("m", SITE + "files/bud.png", "../files/bud.png"):
            self.assertEqual(self.files(word, lead=word), (new, [new]), word)
            self.assertEqual([code for code in self.codes() if code.startswith("missing")], [])

    def test_on_another_site(self) -> None:
        self.assertEqual(self.files(FILM, lead=FILM), (FILM, [FILM]))
        self.assertEqual([code for code in self.codes() if code.startswith("missing")], [])

    def test_of_nowhere(self) -> None:
        for word in ("nothing", SITE + "files/gone.png"):
            self.assertEqual(self.files(word), ("", []), word)
            self.assertIn("missing-file", self.codes())
            self.assertNotIn("missing-lead", self.codes())
            self.assertEqual(self.files(lead=word), ("", []), word)
            self.assertIn("missing-lead", self.codes())
            self.assertNotIn("missing-file", self.codes())


class Documents(MoveCase):
    def body(self, kind: str, text: str = "", **more: object) -> str:
        self.setUp()
        entry = Entry(key="1", slug="a", kind=kind, body=Body(text), enclosures=("m",))
        return self.converted(FILE, entry, **more)["1"].entry.body.text  # type: ignore[arg-type]

    def test_only_an_empty_document_that_becomes_another_kind_lists_its_files(self) -> None:
        self.assertIn("bud-dddddddddd.png", self.body("document"))
        self.assertEqual(self.body("document", "<p>x</p>"), "<p>x</p>")
        self.assertEqual(self.body("post"), "")
        self.host_toml = HOST.replace(
            'takes = ["document"]', '[kinds.document]\naddress = "/d/{slug}"'
        )
        self.assertEqual(self.body("document"), "")
