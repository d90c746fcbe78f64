import html
import re
import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from newburrow.markup.html import Fragment
from newburrow.markup.markdown import MARKUP

CASES = (
    ("<h2>A # b #</h2><p>c<br>d</p>", "## A # b \\#\n\nc\\\nd\n"),
    ('<p><a href="/a b" title="say &quot;x&quot;">t</a> <img src="p(1).png" alt="a]b" title="t"></p>', '[t](</a%20b> "say \\"x\\"") ![a\\]b](<p(1).png> "t")\n'),
    ("<ul><li>a<ul><li>b</li></ul></li><li>c</li></ul><ol start=3><li>d</li></ol>", "- a\n  - b\n- c\n\n3. d\n"),
    ("<ul><li><p>a</p><p>b</p></li></ul><ul><li>c</li></ul>", "- a\n\n  b\n\n* c\n"),
    ('<pre><code class="language-py">a\n\n```\n</code></pre>', "````py\na\n\n```\n````\n"),
    ("<table><tr><th>a</th><th style='text-align:right'>b|c</th></tr><tr><td><b>d</b></td><td></td></tr></table>", "| a | b\\|c |\n| --- | --: |\n| **d** |  |\n"),
    ("<table><tr><td colspan=2>x</td></tr></table>", '<table><tbody><tr><td colspan="2">x</td></tr></tbody></table>\n'),
    ("<p>1. a</p><p># b</p><p>- c</p><p>a_b * c &lt;i&gt; `d` [e] &amp;amp;</p>", "1\\. a\n\n\\# b\n\n\\- c\n\na_b \\* c \\<i> \\`d\\` \\[e\\] \\&amp;\n"),
    ("<p><b>bold </b>text <i>x</i>y <b>\"q\"</b>z</p>", '**bold** text *x*y <b>"q"</b>z\n'),
    ('<div class="note"><p>a</p>\n\n<p>b</p></div><p>c <sub>d</sub></p>', '<div class="note">\n\na\n\nb\n\n</div>\n\nc <sub>d</sub>\n'),
    ('<p style="color:red">a</p><!-- more --><p></p>', '<p style="color:red">a</p>\n\n<!-- more -->\n'),
    ("<blockquote><p>a</p><p>b</p></blockquote><hr>", "> a\n>\n> b\n\n---\n"),
    ('<p>a<sup><a id="r1" href="#n1">1</a></sup></p><hr><ol><li id="n1">b <a href="#r1">^</a></li></ol>', "a[^1]\n\n[^1]: b\n"),
    ("<p>1<br><strong></strong></p><p>^<a href='/x'>^</a></p>", "1<br>\n\n\\^[\\^](/x)\n"),
    ("<div class=y><pre>a\n\n\nb\n\nc</pre></div>", '<div class="y">\n\n```\na\n\n\nb\n\nc\n```\n\n</div>\n'),
    ("<pre id=y>a\n\n\nb\n\nc</pre>", '<pre id="y">a\n&#10;&#10;b\n&#10;c</pre>\n'),
    ('<section id=s><span id=t></span><h2>a</h2><div class="n w"><p class=k>b</p><p>c</p></div></section>',
     '<section id="s"><span id="t"></span>\n\n## a\n\n<div class="n w">\n\n<p class="k">b</p>\n\nc\n\n</div>\n\n</section>\n'),
    ("<div class=n>a<p>b</p></div><ul><li>a<div class=n><p>b</p></div></li></ul>",
     '<div class="n">a<p>b</p></div>\n\n- a\n\n  <div class="n"><p>b</p></div>\n'),
    ('<div class="highlight-python notranslate"><div class="highlight"><pre><span></span><span class=k>for</span> x\n</pre></div></div>',
     "```python\nfor x\n```\n"),
    ('<pre class="programlisting">&lt;a&gt;</pre><pre class="poem">b</pre><pre class="lang-css"><a href="/x">c</a></pre>',
     '```\n<a>\n```\n\n<pre class="poem">b</pre>\n\n<pre class="lang-css"><a href="/x">c</a></pre>\n'),
    ("<p><a href='/x'><code>]:</code></a></p>", '<p><a href="/x"><code>]:</code></a></p>\n'),
    ("loose words<p>and <code>a`b</code> <a name=x></a></p>", 'loose words\n\nand ``a`b`` <a name="x"></a>\n'),
)  # fmt: skip

_words = st.text(alphabet="ab1 .*_`[]()<>&#-+=!|\\~:\"'/^é\n", min_size=1, max_size=12).map(
    html.escape
)
_inline = st.recursive(
    _words
    | st.sampled_from(
        [
            '<img src="a_b.png" alt="x*">',
            "<br>",
            "<code>a * `b`</code>",
            "<kbd>K</kbd>",
            "<strong></strong>",
        ]
    )
    | st.builds(lambda words: f"<code>{words}</code>", _words),
    lambda inner: st.builds(
        lambda tag, parts: f"<{tag}>{''.join(parts)}</{tag.split()[0]}>",
        st.sampled_from(
            ["em", "strong", "del", "sub", 'a href="/x_y?a=1&amp;b=(2)"', "span class='x'"]
        ),
        st.lists(inner, min_size=1, max_size=3),
    ),
    max_leaves=5,
)
_paragraph = st.lists(_inline, min_size=1, max_size=4).map(
    lambda parts: f"<p>{''.join(parts)}</p>"
)
_block = st.recursive(
    _paragraph
    | st.builds(lambda level, words: f"<h{level}>{words}</h{level}>", st.integers(1, 6), _inline)
    | st.builds(lambda words: f"<pre><code>{words}\n</code></pre>", _words)
    | st.just("<div class='y'><pre>a\n\n\nb</pre></div>")
    | st.just("<pre id='p'>a\n\n\nb</pre>")
    | st.just("<div class='highlight'><pre><span class='k'>a\n\n</span><span>b</span></pre></div>")
    | st.builds(lambda a, b: f"<table><tr><th>{a}</th></tr><tr><td>{b}</td></tr></table>", _inline, _inline),
    lambda inner: st.builds(
        lambda tag, parts: f"<{tag}>" + "".join(f"<li>{part}</li>" if tag in ("ul", "ol") else part for part in parts) + f"</{tag.split()[0]}>",
        st.sampled_from(["ul", "ol", "blockquote", "div", "div class='y'", "section id='s'"]),
        st.lists(inner, min_size=1, max_size=3),
    ),
    max_leaves=5,
)  # fmt: skip


def told(text: str) -> list[str]:
    """What a reader meets, in order: words without spaces, pictures, targets, and what is emphasised."""
    out: list[str] = []
    for node in Fragment(text).elements():
        if node.tag in ("a", "img"):
            out.append(
                f"{node.tag} {node.attributes.get('href') or node.attributes.get('src')} {node.attributes.get('alt')}"
            )
        elif node.tag == "code" and node.parent is not None and node.parent.tag == "pre":
            continue  # a fence always has it
        elif node.tag in (
            "h1",
            "h2",
            "h3",
            "h4",
            "h5",
            "h6",
            "pre",
            "table",
            "ul",
            "ol",
            "blockquote",
            "code",
            "kbd",
            "sub",
        ):
            out.append(f"{node.tag} {''.join(node.text().split())}")
    out.append(
        re.sub(
            r"\s+",
            "",
            "".join(node.text() for node in Fragment(f"<div>{text}</div>").select("div")[:1]),
        )
    )
    return [re.sub("^(b|i) ", "", one) for one in out]


class ToMarkdown(unittest.TestCase):
    def test_bare_addresses_are_links_as_a_whole_or_not_at_all(self) -> None:
        """As the usual extension reads them; one that Markdown would read something in is none."""
        whole = "https://x.example/a_b_c"
        for text, wanted, links in (
            (f"<p>see {whole}, now</p>", f"see {whole}, now", [whole]),
            ("<p>See https://x.example/_a_/*b*.</p>", r"See https\://x.example/\_a\_/\*b\*.", []),
            ("<p>WWW.x.example/a_ b</p>", r"WWW\.x.example/a\_ b", []),
            (f'<p><a class="u" href="{whole}">{whole}</a></p>', rf'<a class="u" href="{whole}">https\{whole[5:]}</a>', [whole]),
            (f'<p>Or <code class="k">{whole}</code></p>', rf'Or <code class="k">https\{whole[5:]}</code>', []),
            ("<p>a_b _c_ d__e</p>", r"a_b \_c\_ d\_\_e", []),
        ):  # fmt: skip
            made = MARKUP.from_html(text)
            self.assertEqual(made, wanted + "\n")
            read = Fragment(MARKUP.to_html(made)).select("a")
            self.assertEqual([node.attributes["href"] for node in read], links, made)

    def test_cases(self) -> None:
        for text, wanted in CASES:
            self.assertEqual(MARKUP.from_html(text), wanted, text)

    @given(st.lists(_block, min_size=1, max_size=3))
    @settings(max_examples=300)
    def test_there_and_back_says_the_same(self, blocks: list[str]) -> None:
        text = Fragment("\n".join(blocks)).html()
        markdown = MARKUP.from_html(text)
        self.assertEqual(told(MARKUP.to_html(markdown)), told(text), markdown)

    def test_lines_of_blanks_in_code_stay(self) -> None:
        for code in ("  a\n   ", "a\n   \nb\n ", "\xa0\na", "a\n \n\n\nb"):
            for before, after in (
                ("<pre>", "</pre>"),
                ('<pre id="x">', "</pre>"),
                ("<ul><li>x<pre>", "</pre></li></ul>"),
                ("<ol><li><p>a</p><blockquote><pre>", "</pre></blockquote></li></ol>"),
            ):
                made = MARKUP.from_html(before + code + after)
                (read,) = Fragment(MARKUP.to_html(made)).select("pre")
                self.assertEqual((read.text() or "").rstrip("\n"), code, made)

    def test_lists_that_cannot_begin_right_after_words(self) -> None:
        """An empty item there would be a line under a heading, and a number other than 1 is none (CommonMark 5.2)."""
        for text in (
            "<ul><li>a<ul><li></li><li>x</li></ul></li></ul>",
            "<ul><li>a<ol><li></li><li>x</li></ol></li></ul>",
            '<ul><li>a<ol start="3"><li>b</li></ol></li></ul>',
            "<ul><li><br><ol><li>b</li></ol></li></ul>",
        ):
            made = MARKUP.from_html(text)
            read = Fragment(MARKUP.to_html(made))
            self.assertEqual(len(read.select("li")), text.count("<li>"), made)
            self.assertEqual(read.select("h1,h2"), [], made)

    def test_what_is_nested_beyond_reason_stays(self) -> None:
        deep = "<blockquote>" * 300 + "x" + "</blockquote>" * 300
        self.assertIn("x", MARKUP.from_html(deep))
        self.assertIn("x", MARKUP.from_html("<b>" * 5000 + "x"))
