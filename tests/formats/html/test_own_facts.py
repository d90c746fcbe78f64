"""What pages state of themselves in JSON-LD and microdata, in the forms that other programs write."""

import json
import unittest
from typing import Any

from newburrow.formats.html.document import Document
from newburrow.formats.html.own_facts import OwnFacts

SITE = "https://old.example/"


def facts(head: str = "", body: str = "", place: str = "guide/pears.html") -> OwnFacts:
    text = f"<!DOCTYPE html><html><head>{head}</head><body>{body}</body></html>"
    return OwnFacts(Document(text, place, SITE, "Notes"))


def linked_data(*things: dict[str, Any]) -> str:
    return f'<script type="application/ld+json">{json.dumps({"@graph": list(things)})}</script>'


def microdata(type_: str, inner: str, role: str = "") -> str:
    named = f' itemprop="{role}"' if role else ""
    return f'<div itemscope itemtype="https://schema.org/{type_}"{named}>{inner}</div>'


class LinkedData(unittest.TestCase):
    def test_things_that_are_named_elsewhere_in_the_graph(self) -> None:
        found = facts(
            linked_data(
                {
                    "@type": "Article",
                    "headline": "Pears &amp; quinces",
                    "author": [{"@id": "#b"}, {"@id": "#gone"}],
                },
                {"@type": "Person", "@id": "#b", "name": "Ben Quince"},
            )
        )
        self.assertEqual(found.texts("author"), ["Ben Quince", "#gone"])
        self.assertEqual(found.texts("title"), ["Pears & quinces"])

    def test_things_that_name_one_another_in_a_circle(self) -> None:
        found = facts(
            linked_data(
                {
                    "@type": "Article",
                    "@id": "#a",
                    "headline": "T",
                    "comment": {"@id": "#c"},
                    "author": {"@id": "#p"},
                },
                {
                    "@type": "Comment",
                    "@id": "#c",
                    "text": "x &lt; y",
                    "comment": [{"@id": "#c"}, {"@id": "#a"}],
                },
                {"@type": "Person", "@id": "#p", "name": {"@id": "#p"}, "knows": {"@id": "#p"}},
            )
        )
        self.assertEqual([c["text"] for c in found.records("comments")], [["x &lt; y"]])
        self.assertEqual(found.texts("author"), ["#p"])

    def test_the_steps_of_a_trail(self) -> None:
        steps = [{"@type": "ListItem", "name": name, "item": f"{SITE}{place}"}
                 for name, place in (("Home", ""), ("Guide", "guide/"), ("Pears", "guide/pears.html"))]  # fmt: skip
        found = facts(linked_data({"@type": "BreadcrumbList", "itemListElement": steps}))
        self.assertEqual(found.texts("parent"), [SITE, f"{SITE}guide/"])


class Several(unittest.TestCase):
    """A page that shows several articles is none of them, unless it says which."""

    TWO = ({"@type": "Article", "headline": "One", "datePublished": "2019-01-01"},
           {"@type": "Article", "headline": "Two", "datePublished": "2020-01-01", "author": "Ada"})  # fmt: skip

    def test_a_list(self) -> None:
        self.assertEqual(facts(linked_data(*self.TWO)).texts("published"), [])
        shown = "".join(
            microdata(
                "BlogPosting",
                f'<h2 itemprop="headline">{n}</h2><meta itemprop="datePublished" content="2019-01-0{n}">',
            )
            for n in (1, 2, 3)
        )
        found = facts("<title>News</title>", shown)
        self.assertEqual((found.texts("published"), found.texts("title")), ([], ["News"]))

    def test_the_one_at_the_address_of_the_page(self) -> None:
        one, two = self.TWO
        for name in ("url", "@id", "mainEntityOfPage"):
            own = {**two, name: f"{SITE}guide/pears.html"}
            self.assertEqual(facts(linked_data(one, own)).texts("author"), ["Ada"], name)

    def test_the_one_whose_title_the_page_shows(self) -> None:
        found = facts("<title>Two | Notes</title>" + linked_data(*self.TWO))
        self.assertEqual(found.texts("published"), ["2020-01-01"])


class Microdata(unittest.TestCase):
    def test_what_a_page_is_about(self) -> None:
        article = (
            '<h1 itemprop="headline">Plums</h1><meta itemprop="datePublished" content="2017-01-01">'
            + microdata("Person", '<b itemprop="name">Flo</b>', "author")
            + microdata("Comment", '<p itemprop="text">Yum</p>', "comment")
        )
        found = facts(
            "<title>x</title>",
            microdata("WebPage", microdata("BlogPosting", article, "mainEntity")),
        )
        self.assertEqual(
            [found.texts(name) for name in ("title", "published", "author", "kind")],
            [["Plums"], ["2017-01-01"], ["Flo"], ["post"]],
        )
        self.assertEqual([c["text"] for c in found.records("comments")], [["Yum"]])

    def test_a_trail(self) -> None:
        trail = '<div itemprop="breadcrumb"><a href="../">Home</a> <a href="fruit.html">Fruit</a></div><p>Text.</p>'
        found = facts("", microdata("WebPage", trail))
        self.assertEqual(found.texts("parent"), [SITE, f"{SITE}guide/fruit.html"])
        self.assertEqual(found.texts("body"), ["<p>Text.</p>"])
