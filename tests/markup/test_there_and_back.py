"""HTML to a markup and back: every word, picture, heading, item, cell and line of code is there again."""

import unittest
from random import Random

from selectolax.lexbor import LexborHTMLParser, LexborNode

from newburrow.core import plugins
from newburrow.markup.base import WritableMarkup
from newburrow.markup.html import Fragment

SIGNS = ["word", "#", "- x", "1.", "*", "**", "_a_", "`", "[x]", "(y)", "<", "&", "&amp;", "|", "~", "=", "===", "---", "--- ---", ">", "+",
         "\\", "!", "https://a.example/x", "{{{", "}}}", "[[", "//", "\n", "é", '"', "```", "~~~", "1)", "^[", "[^1]", "|a|", ":", ";", "##"]  # fmt: skip
INLINE = ("b", "i", "em", "code", "a", "span", "u", "sub", "del", "o:p", "abbr", "tt")
PLAIN = (
    "word",
    "two words",
    "é",
    "1.",
    "(y)",
    "a - b",
    "x; y",
    "[x]",
    "50 %",
    "http://a.example/",
)


class Writer:
    """Writes random HTML, from a seed."""

    def __init__(self, seed: int, signs: list[str] | tuple[str, ...]) -> None:
        self.random, self.signs = Random(seed), signs

    def text(self) -> str:
        words = " ".join(
            self.random.choice(self.signs) for _ in range(self.random.randint(1, 4))
        )
        return words.replace("&", "&amp;").replace("<", "&lt;")

    def inline(self, depth: int = 0) -> str:
        made = []
        for _ in range(self.random.randint(1, 3)):
            choice = self.random.random()
            if choice < 0.55 or depth > 1:
                made.append(self.text())
            elif choice < 0.62:
                made.append("<br>")
            elif choice < 0.7:
                made.append(f'<img src="p{self.random.randint(1, 9)}.png" alt="Pears">')
            elif choice < 0.74:
                made.append(self.random.choice(["<!-- c -->", "<?php x ?>", "<wbr>"]))
            else:
                tag = self.random.choice(INLINE)
                target = ' href="/x"' if tag == "a" else ""
                made.append(f"<{tag}{target}>{self.inline(depth + 1)}</{tag}>")
        return " ".join(made)

    def item(self, depth: int) -> str:
        if self.signs is PLAIN:  # Creole has no blocks in items
            return self.inline()
        choice = self.random.random()
        if choice < 0.08:
            return ""
        words = self.inline() if choice < 0.85 else ""
        return words + (self.block(depth + 1) if choice > 0.6 else "")

    def block(self, depth: int = 0) -> str:
        kind = self.random.choice(
            ["p", "p", "h2", "ul", "ol", "pre", "table", "blockquote", "div", "hr", "dl"]
        )
        if depth > 2 or kind in ("p", "h2"):
            return f"<{'h2' if kind == 'h2' else 'p'}>{self.inline()}</{'h2' if kind == 'h2' else 'p'}>"
        if kind in ("ul", "ol"):
            items = "".join(
                f"<li>{self.item(depth)}</li>" for _ in range(self.random.randint(1, 3))
            )
            starts = ("",) if self.signs is PLAIN or kind == "ul" else ("", "", ' start="4"')
            start = self.random.choice(starts)
            return f"<{kind}{start}>{items}</{kind}>"
        if kind == "pre":
            lines = [
                self.random.choice(["x", "  y", "", "```", "}}}", "# a", "&lt;b&gt;"])
                for _ in range(4)
            ]
            return "<pre>" + "\n".join(lines) + "</pre>"
        if kind == "table":
            rows = (f"<tr><{cell}>{self.inline()}</{cell}></tr>" for cell in ("th", "td"))
            return f"<table>{''.join(rows)}</table>"
        if kind in ("blockquote", "div"):
            return f"<{kind}>{self.block(depth + 1)}</{kind}>"
        if kind == "dl":
            return f"<dl><dt>{self.inline()}</dt><dd>{self.inline()}</dd></dl>"
        return "<hr>"


def facts(text: str) -> dict[str, object]:
    """What a reader finds in an HTML text, by a parser that is not ours."""
    page = LexborHTMLParser(text)

    def of(node: LexborNode) -> str:
        return "".join((node.text() or "").split())

    return {
        "words": of(page.body) if page.body else "",
        "pictures": [node.attributes.get("src") for node in page.css("img")],
        "headings": [(node.tag, of(node)) for node in page.css("h1,h2,h3,h4,h5,h6")],
        "items": [of(node) for node in page.css("li")],
        "cells": [of(node) for node in page.css("td,th")],
        "code": [
            [line.rstrip() for line in (node.text() or "").split("\n") if line.strip()]
            for node in page.css("pre")
        ],
        "links": [of(node) for node in page.css("a[href='/x']") if of(node)],
    }


class ThereAndBack(unittest.TestCase):
    def kept(
        self, name: str, signs: list[str] | tuple[str, ...], bodies: int
    ) -> tuple[float, str]:
        """The share of bodies that come back whole, and one that does not."""
        markup: WritableMarkup = plugins.get(plugins.MARKUPS, name)
        lost = []
        for seed in range(bodies):
            writer = Writer(seed, signs)
            text = Fragment(
                "".join(writer.block() for _ in range(writer.random.randint(1, 3)))
            ).html()
            back = markup.to_html(markup.from_html(text))  # type: ignore[attr-defined]
            if facts(text) != facts(back):
                lost.append(f"{text!r}\n{markup.from_html(text)!r}\n{back!r}")
        return 1 - len(lost) / bodies, next(iter(lost), "")

    def test_markdown_out_of_the_worst_html(self) -> None:
        share, lost = self.kept("markdown", SIGNS, 1500)
        self.assertGreaterEqual(share, 0.995, lost)

    def test_creole_out_of_usual_html(self) -> None:
        share, lost = self.kept("creole", PLAIN, 1000)
        self.assertGreaterEqual(share, 0.97, lost)


class Extensions(unittest.TestCase):
    def html(self, text: str, name: str = "markdown") -> str:
        return str(plugins.get(plugins.MARKUPS, name).to_html(text)).strip()

    def test_task_lists_both_ways(self) -> None:
        text = "- [ ] open\n- [x] done\n"
        html = self.html(text)
        self.assertEqual(html.count('type="checkbox"'), 2)
        self.assertEqual(plugins.get(plugins.MARKUPS, "markdown").from_html(html), text)

    def test_bare_addresses(self) -> None:
        self.assertIn(
            '<a href="https://a.example/x_y">https://a.example/x_y</a>.',
            self.html("See https://a.example/x_y."),
        )
        self.assertIn(
            '(<a href="http://www.a.example/(b)">www.a.example/(b)</a>)',
            self.html("See (www.a.example/(b))"),
        )
        for text in (
            "https://a.example/film",
            "x@www.a.example",
            "< https://a.example/ >",
            "`https://a.example/`",
        ):
            self.assertNotIn("<a ", self.html(text), text)

    def test_quotes_that_are_notes(self) -> None:
        self.assertIn(
            "<strong>Warning</strong><br />\nWasps", self.html("> [!WARNING]\n> Wasps")
        )
        self.assertIn("[!no] x", self.html("> [!no] x"))

    def test_footnotes_have_the_same_names_each_time(self) -> None:
        text = "A[1] b[2]\n\nfn1. One\n\nfn2. Two"
        first = self.html(text, "textile")
        self.assertEqual(first, self.html(text, "textile"))
        self.assertIn('id="fn1"', first)

    def test_a_footnote_of_a_table_is_not_lost(self) -> None:
        html = (
            self.html("A[^1]\n\n[^1]: Note")
            .replace("<p>A", "<table><tr><td>x</td></tr></table><table><tr><td>A")
            .replace("</sup></p>", "</sup></td></tr></table>")
        )
        back = self.html(plugins.get(plugins.MARKUPS, "markdown").from_html(html))
        self.assertIn("Note", back)

    def test_creole_and_its_additions(self) -> None:
        creole = plugins.get(plugins.MARKUPS, "creole")
        for text, html in (
            ("* **bold** item", "<ul><li><strong>bold</strong> item</li></ul>"),
            ("~{{{ no code }}}", "<p>{{{ no code }}}</p>"),
            ("[[/a|[x]]]", '<p><a href="/a">[x]</a></p>'),
            ("##[[/a|x]]##", '<p><code><a href="/a">x</a></code></p>'),
            ("H,,2,,O e^^2^^ __u__", "<p>H<sub>2</sub>O e<sup>2</sup> <u>u</u></p>"),
            ("; Owl\n: Barn\n: Tawny", "<dl><dt>Owl</dt><dd>Barn</dd><dd>Tawny</dd></dl>"),
            ("; Owl : Barn", "<dl><dt>Owl</dt><dd>Barn</dd></dl>"),
            (
                "|a|{{{b|c}}}|",
                "<table>\n<tr><td>a</td><td><code>b|c</code></td></tr>\n</table>",
            ),
        ):
            self.assertEqual(self.html(text, "creole"), html)
            self.assertEqual(self.html(creole.from_html(html), "creole"), html)

    def test_blocks_within_items_and_meanings(self) -> None:
        creole = plugins.get(plugins.MARKUPS, "creole")
        text = creole.from_html(
            "<ul><li>a<pre>x\n y</pre></li><li>b<ul><li>c</li></ul></li></ul>"
        )
        self.assertEqual(text, "* a\n\n{{{\nx\n y\n}}}\n\n* b\n** c\n")
        nested = "<dl><dt>t</dt><dd>m<dl><dt>u</dt><dd>n</dd></dl></dd></dl>"
        self.assertEqual(creole.from_html(nested), "; t\n: m\n\n; u\n: n\n")
        self.assertEqual(
            creole.from_html(
                "<table><tr><td><table><tr><td>x</td></tr></table></td></tr></table>"
            ),
            "|x|\n",
        )
