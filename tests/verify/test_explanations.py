"""What explains that a text is not as it was: only what can have changed that part of it."""

import unittest

from newburrow.model import Entry
from newburrow.model.bundle import Bundle
from newburrow.verify.body_facts import BodyFacts, facts_of
from newburrow.verify.explanations import Explanations


def facts(text: str) -> BodyFacts:
    return facts_of(text, lambda address: address)


class WhatExplains(unittest.TestCase):
    def why(self, aspect: str, *codes: str) -> str:
        entry = Entry(key="1")
        found = Explanations({code: "said" for code in codes}, entry, Bundle(entry), None)
        before = facts(
            '<p>a <a href="https://a.example/">b</a></p><table><tr><td>c</td></tr></table>'
        )
        return found.why(aspect, before, facts("<p>a</p>"))

    def test_a_handler_that_was_removed_explains_nothing(self) -> None:
        for aspect in ("words", "links", "tables"):
            self.assertEqual(self.why(aspect, "script-handler"), "")

    def test_a_link_that_ran_a_script_explains_links(self) -> None:
        self.assertEqual(self.why("links", "script-link"), "script-link: said")
        self.assertEqual(self.why("words", "script-link"), "")

    def test_what_says_most_is_named(self) -> None:
        self.assertEqual(
            self.why("tables", "script", "structure-changed"), "structure-changed: said"
        )
        self.assertEqual(self.why("words", "script", "structure-changed"), "script: said")
