from newburrow.core.problem import BurrowError
from newburrow.hosts import loader
from newburrow.hosts.profile_mistakes import mistakes
from tests.helpers import FolderCase

RIGHT = 'name = "mine"\nformat = "atom"\n[kinds.post]\naddress = "/{slug}"\n'


class Profiles(FolderCase):
    def test_those_that_ship_are_right(self) -> None:
        for name in loader.PROFILES.names():
            profile = loader.load(name)
            self.assertEqual(list(mistakes(profile)), [], name)
            self.assertEqual(profile.name, name)
            self.assertTrue(profile.title and profile.about)

    def test_the_smallest_profile(self) -> None:
        profile = loader.load(str(self.write("mine.toml", RIGHT)))
        self.assertEqual(profile.kind_for("post"), "post")
        self.assertEqual(profile.kind_for("page"), "")

    def test_mistakes_are_named_with_line_and_nearest(self) -> None:
        for added, line, words in (
            ("[state]\n", 5, "'states'"),
            ("[states]\ntakes = ['published', 'draf']\n", 6, "'draft'"),
            ("[states]\ntakes = ['published']\n", 5, "'draft' is not allowed"),
            ("[kinds.page]\naddress = '/p/{slgu}'\n", 6, "'slug'"),
            ("[kinds.page]\naddress = '/p/'\n", 6, "the same address"),
            ("[kinds.page]\naddress = '/{slug}'\ntakes = ['pages']\n", 7, "'page'"),
            ("[terms]\naddress = '/{name}'\n", 6, "unknown variable {name}"),
            ("[comments]\nstates = ['aproved']\n", 6, "'approved'"),
            ("[slugs]\nletters = 'latin'\n", 6, "letters"),
            ("[limits]\nentries = 0\n", 6, "entries"),
            ("[write]\nfiles = 'x'\n", 5, "unknown field 'files'"),
            ("[write]\nfile = '../x'\n", 6, "without folders"),
            ("[markup]\nname = 'htm'\n", 6, "html"),
        ):
            path = self.write("mine.toml", RIGHT + added)
            with self.assertRaises(BurrowError, msg=added) as caught:
                loader.load(str(path))
            problem = caught.exception.problem
            self.assertEqual(problem.where.line, line, added)
            self.assertIn(words, problem.text(), added)

    def test_a_format_that_cannot_be_written(self) -> None:
        with self.assertRaises(BurrowError) as caught:
            loader.load(str(self.write("mine.toml", RIGHT.replace("atom", "csv"))))
        self.assertIn("'csv' that can be written", str(caught.exception))
