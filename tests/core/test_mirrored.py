"""Files whose names hold a query stand for the address with that query; names with a question in them stay."""

import unittest

from newburrow.core import mirrored

SITE = "https://mistle.example/"


class Addresses(unittest.TestCase):
    def test_a_file_with_a_query_in_its_name(self) -> None:
        for file, wanted in (
            ("index.php%3Ftitle=Pear.html", "index.php?title=Pear"),
            ("index.php%3ftitle%3DPear%26page%3D2", "index.php?title=Pear&page=2"),
            ("w/view%3Fid=3.html#part", "w/view?id=3#part"),
            ("v%3Fto=a%252Fb", "v?to=a%2Fb"),  # encoded in the name of the file itself
            ("v%3Ftitle=T%C3%BCr", "v?title=T%C3%BCr"),
            ("index.php@title=Pear.html", "index.php?title=Pear"),
            ("index.php%40a%5B0%5D%3D1", "index.php?a%5B0%5D=1"),
        ):
            self.assertEqual(mirrored.address_of(SITE + file), SITE + wanted)

    def test_other_addresses_stay(self) -> None:
        for address in (
            "",
            "w/What%3F",
            "w/Why%3F%20Because.html",
            "w/Why%3FBecause",
            "view?to=%3Fid=3",
            "people/a@mistle.example",
            "@a/b=c",
            "page.html#%3Fid=3",
        ):
            self.assertEqual(mirrored.address_of(SITE + address), SITE + address)

    def test_places(self) -> None:
        for address, wanted in (
            ("", "index.html"),
            ("?id=3", "index.html?id=3"),
            ("w/T%C3%BCr", "w/Tür"),
            ("index.php?title=A%26B&x#part", "index.php?title=A%26B&x"),
        ):
            self.assertEqual(mirrored.place_of(SITE + address), wanted)
