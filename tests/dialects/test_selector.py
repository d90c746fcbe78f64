import unittest

from lxml import etree

from newburrow.core.problem import BurrowError
from newburrow.dialects.element_pattern import ElementPattern
from newburrow.dialects.json_selector import JsonSelector
from newburrow.dialects.selector import Selector, Selectors, index

NAMES = {"rp": "urn:rp"}
ITEM = etree.fromstring(
    '<item xmlns:rp="urn:rp" n="0"><a>one</a><rp:a k="1">two <b>bold</b></rp:a><rp:a k="2"> </rp:a><c rp:k="3"/></item>'
)


class Selecting(unittest.TestCase):
    def texts(self, text: str) -> list[str]:
        return Selector(text, NAMES).texts(ITEM, index(ITEM))

    def test_simple_selectors(self) -> None:
        for text, found in (
            ("a", ["one"]),
            ("rp:a", ["two bold", " "]),
            ("rp:a/@k", ["1", "2"]),
            ("@n", ["0"]),
            ("c/@rp:k", ["3"]),
            (".", ["onetwo bold "]),
            ("nothing", []),
        ):
            self.assertEqual(self.texts(text), found, text)

    def test_an_index_answers_as_the_xpath_engine_does(self) -> None:
        for text in ("a", "rp:a", "rp:a/@k", "@n", "c/@rp:k", "nothing"):
            expected = [getattr(one, "text", one) if not hasattr(one, "itertext") else "".join(one.itertext())
                        for one in ITEM.xpath(text, namespaces=NAMES)]  # fmt: skip
            self.assertEqual(self.texts(text), expected, text)

    def test_any_xpath(self) -> None:
        self.assertEqual(self.texts("rp:a[@k='2']/@k"), ["2"])
        self.assertEqual(self.texts("count(rp:a)"), ["2"])
        self.assertEqual(self.texts("string(a)"), ["one"])

    def test_the_first_that_is_not_blank_wins(self) -> None:
        self.assertEqual(
            Selectors(["rp:a[2]", "nothing", "a"], NAMES).first(ITEM, index(ITEM)), "one"
        )
        self.assertEqual(
            Selectors(["a", "rp:a"], NAMES).each(ITEM, index(ITEM)), ["one", "two bold"]
        )

    def test_mistakes_are_refused(self) -> None:
        for text in ("zz:a", "a[", "rp:a/zz:b", "//zz:b"):
            with self.assertRaises(ValueError, msg=text):
                Selector(text, NAMES)


class Expressions(unittest.TestCase):
    def test_one_that_takes_for_ever_is_refused(self) -> None:
        values = [{"t": "a" * 60 + "!"}]
        for query in ("search(@.t, '(a|aa)+$')", "match(@.t, '(a|aa)+')"):
            with self.assertRaises(BurrowError) as caught:
                JsonSelector(f"$[?{query}]").found(values)
            self.assertIn("takes too long", str(caught.exception))
        self.assertEqual(len(JsonSelector("$[?search(@.t, '^a+')]").found(values)), 1)

    def test_one_that_no_person_writes_is_refused(self) -> None:
        for make in (
            JsonSelector,
            lambda text: Selector(text, {}),
            lambda text: ElementPattern(text, {}),
        ):
            self.assertRaises(ValueError, make, "a" * 3000)
