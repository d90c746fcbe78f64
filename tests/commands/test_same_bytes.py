"""The same export gives the same bytes, in whatever order Python happens to keep what is in its sets."""

from tests.helpers import SITE, FolderCase, item, newburrow, rss, same

_ITEM = """<item ident="i{0}"><presentation><material><mattext>Which?</mattext></material></presentation>
<grafts>1</grafts><buds>2</buds><ladders>3</ladders><baskets>4</baskets><resprocessing/></item>"""


class OfRuns(FolderCase):
    def assert_same(self, export: str, host: str) -> None:
        for seed in ("1", "2", "3"):
            done = newburrow("move", export, "--to", host, "--out", seed, folder=self.folder, env={"PYTHONHASHSEED": seed})  # fmt: skip
            self.assertIn(done.returncode, (0, 1), done.stderr)
        for seed in ("2", "3"):
            self.assertEqual(same(self.folder / "1", self.folder / seed), [])

    def test_many_addresses_with_queries(self) -> None:
        words = ["graft", "bud", "scion", "ladder", "basket", "codlin", "frost", "hedge"]
        items = [
            item(f"Text {n}", f"{SITE}?pear{n}=1&row{n}=2" if n < 60 else f"{SITE}{words[n % 8]}/{words[n % 7]}/{n}")
            for n in range(120)
        ]  # fmt: skip
        self.write("export.xml", rss(*items))
        self.assert_same("export.xml", "lanternlog")

    def test_unknown_elements_of_questions(self) -> None:
        items = "".join(_ITEM.format(number) for number in range(9))
        quiz = f'<questestinterop><assessment ident="a"><section ident="s">{items}</section></assessment></questestinterop>'
        self.write("quiz.xml", quiz)
        self.assert_same("quiz.xml", "chalkmere")
