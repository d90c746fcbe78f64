"""Addresses wherever a body can hold one: all are seen, all are replaced."""

import unittest

from newburrow.markup import addresses, srcset
from newburrow.markup.html import Fragment

OLD = "https://old.example/a.png"


def changed(text: str) -> tuple[str, list[tuple[str, str]]]:
    """The text with every address marked, and the addresses that were seen, with their use."""
    seen = list[tuple[str, str]]()

    def change(value: str, use: str, _node: object) -> str:
        seen.append((value, use))
        return f"NEW{len(seen)}"

    fragment = Fragment(text)
    addresses.change_any(fragment, text, change)
    return fragment.html(), seen


class Everywhere(unittest.TestCase):
    def test_each_place_that_holds_one(self) -> None:
        for text, use in (
            (f'<img src="{OLD}">', "picture"), (f'<a href="{OLD}">x</a>', "link"), (f'<video poster="{OLD}"></video>', "picture"),
            (f'<div style="color: red; background: url( {OLD} )">x</div>', "picture"),
            (f"<style>p {{ background: url('{OLD}') }}</style>", "picture"),
            (f'<table background="{OLD}"><tr><td>x</td></tr></table>', "picture"),
            (f'<svg><image href="{OLD}"></image></svg>', "picture"), (f'<svg><use xlink:href="{OLD}"></use></svg>', "picture"),
            (f'<object><param name="movie" value="{OLD}"></object>', "frame"), (f'<blockquote cite="{OLD}">x</blockquote>', "link"),
            (f"<p>See {OLD}, then.</p>", "text"), (f'<div data-target="{OLD}">x</div>', "text"),
            (f'<iframe srcdoc="&lt;img src=&quot;{OLD}&quot;&gt;"></iframe>', "picture"),
        ):  # fmt: skip
            made, seen = changed(text)
            self.assertEqual(seen, [(OLD, use)], text)
            self.assertIn("NEW1", made, text)
            self.assertNotIn(OLD, made, text)

    def test_places_that_hold_none(self) -> None:
        for text in (
            f"<pre><code>{OLD}</code></pre>", f'<img alt="{OLD}">', "<p>no address: http:// alone</p>",
            '<div data-count="3" style="width: 5px">x</div>', f'<p title="{OLD}">x</p>',
        ):  # fmt: skip
            self.assertEqual(changed(text), (text, []), text)

    def test_a_sign_after_an_address_in_a_text_is_not_part_of_it(self) -> None:
        for text, address in (
            (f"({OLD}).", OLD),
            (f"{OLD}?a=1&amp;b=2 x", f"{OLD}?a=1&b=2"),
            (f"„{OLD}!“", OLD),
        ):
            self.assertEqual(changed(f"<p>{text}</p>")[1], [(address, "text")], text)


class Lazy(unittest.TestCase):
    def test_a_picture_that_a_script_loads_later_is_loaded_at_once(self) -> None:
        for text in (
            f'<img src="data:image/gif;base64,R0" data-src="{OLD}">', f'<img data-original="{OLD}">',
            f'<img src="" data-lazy-src="{OLD}">', f'<img src="data:x"><noscript><img src="{OLD}"></noscript>',
        ):  # fmt: skip
            made, seen = changed(text)
            self.assertEqual((made, seen), ('<img src="NEW1">', [(OLD, "picture")]), text)

    def test_the_copy_for_readers_without_scripts_goes(self) -> None:
        made, seen = changed(
            f'<img data-src="{OLD}" alt="A"><noscript><img src="{OLD}" alt="A"></noscript>'
        )
        self.assertEqual((made.count("<img"), len(seen)), (1, 1))
        self.assertNotIn("noscript", made)

    def test_a_picture_of_its_own_stays(self) -> None:
        made, seen = changed(f'<img src="{OLD}" data-src="https://old.example/large.png">')
        self.assertIn('src="NEW', made)
        self.assertIn((OLD, "picture"), seen)


class Candidates(unittest.TestCase):
    def test_as_the_html_standard_reads_them(self) -> None:
        for value, expected in (
            ("a.png, b.png 2x", [("a.png", ""), ("b.png", "2x")]), ("a,b.png 1x,c.png 2x", [("a,b.png", "1x"), ("c.png", "2x")]),
            ("a.png,b.png 2x", [("a.png,b.png", "2x")]), (" ,, a.png ,", [("a.png", "")]), ("", []),
            ("data:image/png;base64,AA== 1x, b.png 300w", [("data:image/png;base64,AA==", "1x"), ("b.png", "300w")]),
            ("a.png (1x, y) 2x, b", [("a.png", "(1x, y) 2x"), ("b", "")]), ("a.png,  b.png", [("a.png", ""), ("b.png", "")]),
        ):  # fmt: skip
            found = srcset.candidates(value)
            self.assertEqual(found, expected, value)
            self.assertEqual(srcset.candidates(srcset.written(found)), expected, value)

    def test_each_candidate_is_replaced_and_what_became_one_is_written_once(self) -> None:
        made, seen = changed(
            f'<img src="{OLD}" srcset="{OLD} 1x, https://old.example/b,c.png 2x">'
        )
        self.assertEqual(
            [address for address, _use in seen], [OLD, OLD, "https://old.example/b,c.png"]
        )
        self.assertIn("NEW2 1x, NEW3 2x", made)
        fragment = Fragment(f'<img srcset="{OLD} 1x, https://old.example/b.png 2x">')
        addresses.change_all(fragment, lambda _value, _use, _node: "one.png")
        self.assertEqual(fragment.html().count("one.png"), 1)


if __name__ == "__main__":
    unittest.main()
