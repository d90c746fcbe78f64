import unittest

from hypothesis import given
from hypothesis import strategies as st

from newburrow.core import plugins
from newburrow.markup.base import Unreadable
from newburrow.markup.html import Fragment

CASES = {
    "html-lines": (
        ("One <b>x</b>\nline\n\nTwo", "<p>One <b>x</b><br>\nline</p>\n<p>Two</p>\n"),
        ("a\n<ul>\n<li>b\n</li>\n</ul>\nc", "<p>a</p>\n<ul>\n<li>b\n</li>\n</ul><p>c</p>\n"),
        ("<pre>a\n\nb</pre>", "<pre>a\n\nb</pre>"),
        ("<div>a\n\nb</div>", "<div><p>a</p>\n<p>b</p>\n</div>"),
        ("<p>a\nb</p>", "<p>a<br>\nb</p>"),
        ("a<br>\nb", "<p>a<br>\nb</p>\n"),
        ("<!-- a\n\nb -->", "<!-- a\n\nb -->"),
        ("<preface>a\n\nb", "<p><preface>a</p>\n<p>b</p>\n"),
    ),
    "markdown": (
        ("# A\n\n~~b~~ <i>c</i>", "<h1>A</h1>\n<p><s>b</s> <i>c</i></p>\n"),
        ("a\\\nb", "<p>a<br />\nb</p>\n"),
        ("```py\n<x>\n```", '<pre><code class="language-py">&lt;x&gt;\n</code></pre>\n'),
    ),
    "textile": (("h2. A\n\n*b* \"c\":/d", '\t<h2>A</h2>\n\n\t<p><strong>b</strong> <a href="/d">c</a></p>'),),
    "creole": (
        ("== A ==\nb **c //d//** ~**e\n\n----", "<h2>A</h2>\n<p>b <strong>c <em>d</em></strong> **e</p>\n<hr>\n"),
        ("* a\n** b\n* c\nd", "<ul><li>a<ul><li>b</li></ul></li><li>c\nd</li></ul>\n"),
        ("# a\n* b", "<ol><li>a</li></ol><ul><li>b</li></ul>\n"),
        ("|=h|[[p|q]]|\n|a~|b|{{i.png|x}}|", '<table>\n<tr><th>h</th><td><a href="p">q</a></td></tr>\n<tr><td>a|b</td><td><img src="i.png" alt="x"></td></tr>\n</table>\n'),
        ("{{{\n<b> **\n}}}\n{{{x}}} [[y]] http://z.example/a.", '<pre>&lt;b&gt; **</pre>\n<p><code>x</code> <a href="y">y</a> <a href="http://z.example/a">http://z.example/a</a>.</p>\n'),
        ("**bold** first\nsecond\\\\third", "<p><strong>bold</strong> first\nsecond<br>third</p>\n"),
    ),
}  # fmt: skip
_SIGNS = st.text(alphabet='ab \n*#=|[]{}/\\~-<>&"_!.:(h1)\t', max_size=60)


class _Names:
    """A wiki in which every page is there."""

    def link(self, target: str) -> str | None:
        return target

    def file(self, name: str) -> str:
        return name


class ToHtml(unittest.TestCase):
    def test_headings_of_a_wiki_are_known_by_the_words_that_are_shown(self) -> None:
        creole = plugins.get(plugins.MARKUPS, "creole")
        for text, named in (
            ("== [[https://a.example/x|Why]] & **how** ==", "why-how"),
            ("== {{{a_b}}} ~**c ==", "a_b-c"),
            ("== // ==", ""),
        ):
            heading = Fragment(creole.to_html(text, _Names())).select("h2")[0]
            self.assertEqual(heading.attributes.get("id") or "", named, text)
            self.assertNotIn("id", Fragment(creole.to_html(text)).select("h2")[0].attributes)

    def test_cases(self) -> None:
        for markup, cases in CASES.items():
            for text, html in cases:
                self.assertEqual(
                    plugins.get(plugins.MARKUPS, markup).to_html(text), html, (markup, text)
                )

    @given(
        st.sampled_from([name for name in plugins.names(plugins.MARKUPS) if name != "html"]),
        _SIGNS,
    )
    def test_no_letter_is_lost(self, markup: str, text: str) -> None:
        html = plugins.get(plugins.MARKUPS, markup).to_html(text)
        parsed = Fragment(html)
        if markup in ("creole", "text"):
            self.assertGreaterEqual(
                "".join(node.html or "" for node in parsed.elements()).count("a"),
                text.count("a"),
            )


class Names:
    """Names of two pages; every picture is in one folder."""

    def link(self, target: str) -> str | None:
        return {"Owl Box": "/owls/", "A & B": "/ab?x=1&y=2"}.get(target)

    def file(self, name: str) -> str:
        return f"/files/{name}"


class PageNames(unittest.TestCase):
    """Links that name a page."""

    def shown(self, text: str) -> str:
        made = plugins.get(plugins.MARKUPS, "creole").to_html(text, Names())
        return str(made).removeprefix("<p>").removesuffix("</p>\n")

    def test_of_creole(self) -> None:
        for text, wanted in (
            ("[[Owl Box]]", '<a href="/owls/">Owl Box</a>'),
            ("[[ Owl Box | the **box** ]]", '<a href="/owls/">the <strong>box</strong></a>'),
            ("[[A & B]]", '<a href="/ab?x=1&amp;y=2">A &amp; B</a>'),
            ("[[Nowhere|x]]", '<a class="missing-page" href="Nowhere">x</a>'),
            ("{{owl.png|An owl}}", '<img src="/files/owl.png" alt="An owl">'),
            (
                "|[[Owl Box]]|",
                '<table>\n<tr><td><a href="/owls/">Owl Box</a></td></tr>\n</table>\n',
            ),
            ("* [[Owl Box]]", '<ul><li><a href="/owls/">Owl Box</a></li></ul>\n'),
        ):
            self.assertEqual(self.shown(text), wanted, text)

    def test_every_markup_is_handed_the_lookup(self) -> None:
        for name in plugins.names(plugins.MARKUPS):
            self.assertIn("x", plugins.get(plugins.MARKUPS, name).to_html("x", Names()))


class Brackets(unittest.TestCase):
    """Those of one paragraph count; a long list has many of them."""

    def test_how_many(self) -> None:
        items = "".join(f"- [p {number}](p{number}.html)\n" for number in range(6000))
        html = plugins.get(plugins.MARKUPS, "markdown").to_html(items)
        self.assertEqual(html.count("<a "), 6000)
        for text in ("[" * 6000, "[a\n" * 6000, "- " + "![" * 6000):
            with self.assertRaises(Unreadable):
                plugins.get(plugins.MARKUPS, "markdown").to_html(text)


class Braces(unittest.TestCase):
    """Code in Creole: a text may have as much of it as it likes, and is refused where it leaves too much open."""

    def test_how_many(self) -> None:
        creole = plugins.get(plugins.MARKUPS, "creole")
        self.assertEqual(creole.to_html("{{{a}}} " * 20_000).count("<code>a</code>"), 20_000)
        self.assertEqual(creole.to_html("{{{a " * 20_000 + "}}}").count("<code>"), 1)
        for text in ("{{{a " * 6000, "|{{{a|\n\n" * 6000, "|{{{a|\n" * 6000):
            with self.assertRaises(Unreadable):
                creole.to_html(text)
