"""What counts as the same text before and after."""

import unittest

from newburrow.core import plugins
from newburrow.verify.body_facts import BodyFacts, facts_of
from newburrow.verify.fidelity import compare


def facts(text: str, markup: str = "html") -> BodyFacts:
    return facts_of(plugins.get(plugins.MARKUPS, markup).to_html(text), lambda address: address)


class Links(unittest.TestCase):
    def test_a_link_that_the_host_makes_of_an_address_in_the_text_is_no_difference(
        self,
    ) -> None:
        for text in (
            "<p>See https://a.example/x_y, and www.b.example.</p>",
            "<p>At &lt;http://a.example/b&gt;, http://a.example/c.html<code>c</code></p>",
            "<blockquote><p>http://a.example/<br>q</p></blockquote>",
            "<h2>On<br>www.b.example</h2><pre>http://c.example/</pre>",
            '<p><a href="http://a.example/">http://a.example/</a> or http://a.example/</p>',
            '<p><a href="http://www.b.example">b</a> <a href="/x">x</a></p><h2>On www.b.example</h2>',
        ):
            written = plugins.get(plugins.MARKUPS, "markdown").from_html(text)
            self.assertEqual(
                compare(facts(text), facts(written, "markdown")).changed, [], written
            )

    def test_any_other_link_is_one(self) -> None:
        old = facts("<p>At https://a.example/ and <a href='https://b.example/'>b</a></p>")
        for new in (
            '<p>At <a href="https://c.example/">https://a.example/</a> and <a href="https://b.example/">b</a></p>',
            '<p><a href="https://a.example/">At</a> <a href="https://a.example/">https://a.example/</a> and <a href="https://b.example/">b</a></p>',
            "<p>At https://a.example/ and b</p>",
        ):
            self.assertEqual(compare(old, facts(new)).changed, ["links"], new)

    def test_what_a_comment_holds_is_no_link(self) -> None:
        text = '<!-- <a href="https://a.example/">a</a> --><p><a href="https://b.example/">b</a></p>'
        self.assertEqual(facts(text).of("links"), ["https://b.example/"])
