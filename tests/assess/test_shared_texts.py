"""Layout that stays in the texts of pages is named, with the way to leave it out."""

from tests.helpers import FolderCase


class SharedTexts(FolderCase):
    def findings(self) -> dict[str, dict]:
        return {finding["code"]: finding for finding in self.survey("s")["findings"]}

    def test_what_most_pages_have_in_their_text(self) -> None:
        for n in range(12):
            own = f"<p>Row {n} of the pears stands.</p><h2>See also</h2>"
            foot = "<div>Made by <b>our</b> team</div><div>Ask the &amp; volunteers first</div>"
            self.write(f"s/p{n}.html", f"<h1>Page {n}</h1>{own}{foot if n > 2 else ''}")
        found = self.findings()["layout-in-texts"]
        self.assertEqual(found["count"], 1)
        self.assertIn("“Ask the & volunteers first”", found["examples"][0])
        self.assertIn("dialects --draft-from", found["advice"])

    def test_a_few_pages_tell_nothing(self) -> None:
        for n in range(7):
            self.write(f"s/p{n}.html", f"<h1>Page {n}</h1><p>The same text on each.</p>")
        self.assertNotIn("layout-in-texts", self.findings())
