import unittest
from urllib.parse import urljoin

from hypothesis import given
from hypothesis import strategies as st

from newburrow.core import url, url_pattern

SEGMENTS = st.text(
    st.characters(exclude_characters="/?#\\", exclude_categories=("Cs", "Cc", "Zs")),
    min_size=1,
    max_size=12,
)


class Resolving(unittest.TestCase):
    """The short ways give what the general case gives (RFC 3986 section 5)."""

    @given(
        st.text(st.sampled_from("ab./#?:;%2~-"), max_size=12),
        st.sampled_from(("https://o.example/", "https://o.example/a/b/c.html", "http://o.example:80/a//b/", "https://o.example/a/../b/c",
                         "https://o.example", "https://o.example/a;b/c", "https://o.example/a/b?c=/d/e", "https://o.example/a/b#c/d")),
    )  # fmt: skip
    def test_the_short_ways(self, address: str, base: str) -> None:
        try:
            expected = urljoin(base, address)
        except ValueError:
            return
        self.assertEqual(url.resolve(base, address), expected)

    def test_backslashes_are_slashes(self) -> None:
        """Before the query, and on the web alone (URL Standard section 4.4)."""
        for address, expected in (
            ("SUB\\a.htm", "https://o.example/x/SUB/a.htm"),
            ("..\\a.htm#b\\c", "https://o.example/a.htm#b\\c"),
            ("\\a?b=c\\d", "https://o.example/a?b=c\\d"),
            ("https:\\\\p.example\\a", "https://p.example/a"),
            ("mailto:a\\b@o.example", "mailto:a\\b@o.example"),
        ):
            self.assertEqual(url.resolve("https://o.example/x/y", address), expected)


class Keys(unittest.TestCase):
    def test_spellings_of_one_address_have_one_key(self) -> None:
        one = "https://mistlebank.example/caf%C3%A9/a"
        for other in (
            "http://mistlebank.example/café/a",
            "https://www.MISTLEBANK.example:443/cafe\u0301/a#top",
            "https://mistlebank.example/caf%c3%a9/b/../a",
            "HTTPS://mistlebank.example./caf%C3%A9/./a",
        ):
            self.assertEqual(url.key(other), url.key(one), other)

    def test_different_addresses_have_different_keys(self) -> None:
        keys = {
            url.key(text)
            for text in ("https://a.example/b", "https://a.example/b/", "https://a.example/B", "https://a.example/b%2Fc",
                         "https://a.example/b/c", "https://a.example/b?x=1", "https://a.example:8080/b")
        }  # fmt: skip
        self.assertEqual(len(keys), 7)

    def test_parameters_come_in_any_order(self) -> None:
        self.assertEqual(
            url.key("https://a.example/?b=2&a=1"), url.key("https://a.example?a=1&b=2")
        )

    def test_international_hosts(self) -> None:
        self.assertEqual(url.key("https://bücher.example/"), "xn--bcher-kva.example/")
        self.assertEqual(
            url.key("https://straße.example/"), "xn--strae-oqa.example/"
        )  # IDNA 2008: not strasse
        self.assertEqual(url.key("https://BÜCHER.example/"), "xn--bcher-kva.example/")
        self.assertEqual(url.key("https://ü..example/"), "%C3%BC..example/")

    def test_what_is_no_web_address_has_no_key(self) -> None:
        for text in (
            "",
            "mailto:a@b.example",
            "/a/b",
            "https://[broken/",
            "https://a.example:port/",
            "javascript:alert(1)",
        ):
            self.assertEqual(url.key(text), "", text)

    @given(st.lists(SEGMENTS, max_size=4))
    def test_a_key_is_the_key_of_itself(self, segments: list[str]) -> None:
        key = url.key("https://a.example/" + "/".join(segments))
        self.assertEqual(url.key("https://" + key), key)
        self.assertTrue(key.isascii())

    @given(st.text(max_size=60))
    def test_nothing_written_as_an_address_is_a_crash(self, text: str) -> None:
        url.key(text)
        url.key("https://a.example/" + text)
        url.resolve("https://a.example/b/", text)


class FrontPages(unittest.TestCase):
    def test_of_a_host_a_folder_and_a_file(self) -> None:
        for site, front in (
            ("https://a.example", "https://a.example/"),
            ("https://a.example/", "https://a.example/"),
            ("https://a.example/docs", "https://a.example/docs"),
            ("https://a.example/docs/", "https://a.example/docs/"),
            ("https://a.example/docs/index.php", "https://a.example/docs/"),
        ):
            self.assertEqual(url.front_page(site), front)


class Slashes(unittest.TestCase):
    def test_words_of_all_scripts_have_the_other_form(self) -> None:
        for path in ("/a/b", "/हिन्दी/भाषा", "/%E0%A4%B9%E0%A4%BF"):
            address = f"https://a.example{path}"
            self.assertEqual(url.other_slash(address), f"{address}/")
            self.assertEqual(url.other_slash(f"{address}/"), address)
        for path in ("/", "/a.html", "/a?b", "/a%2Fb", "/a b"):
            self.assertEqual(url.other_slash(f"https://a.example{path}"), "")


class Lookups(unittest.TestCase):
    def keys(self, text: str) -> list[tuple[str, str]]:
        parts = url.split(text)
        assert parts is not None
        found = url.lookup_keys(parts)
        return [(key, url.left_over(parts.query, place)) for key, place in found]

    def test_the_most_exact_comes_first(self) -> None:
        found = self.keys("https://a.example/?entry=35&from=mail")
        self.assertEqual(
            found,
            [
                ("a.example/?entry=35&from=mail", ""),
                ("a.example/?entry=35", "from=mail"),
                ("a.example/?from=mail", "entry=35"),
                ("a.example/", "entry=35&from=mail"),
            ],
        )

    def test_several_of_more_parameters(self) -> None:
        found = dict(self.keys("https://a.example/view?page=Pears&v=1&utm_source=x"))
        self.assertEqual(found["a.example/view?page=Pears&v=1"], "utm_source=x")
        many = "&".join(f"p{n}={n}" for n in range(40))
        found = dict(self.keys(f"https://a.example/view?{many}&fbclid=x"))
        self.assertEqual(found["a.example/view?p7=7"].count("="), 40)
        self.assertIn("fbclid=x", found.values())
        self.assertLess(len(found), 50)

    def test_without_a_query_there_is_one_key(self) -> None:
        self.assertEqual(self.keys("https://a.example/b#c"), [("a.example/b", "")])


class Patterns(unittest.TestCase):
    def test_expansion_is_that_of_the_standard(self) -> None:
        values = {"year": "2024", "month": "03", "slug": "a b/ü"}
        self.assertEqual(
            url_pattern.expand("/{year}/{month}/{slug}.html", values),
            "/2024/03/a%20b%2F%C3%BC.html",
        )
        self.assertEqual(url_pattern.expand("/t/{+slug}/", values), "/t/a%20b/%C3%BC/")

    def test_names_never_end_a_path(self) -> None:
        names = {"folder": "C#/50%41/a?b & c", "slug": "x#1"}
        self.assertEqual(
            url_pattern.expand_names("/{+folder}/{slug}/", names),
            "/C%23/50%2541/a%3Fb%20&%20c/x%231/",
        )

    def test_a_missing_value_closes_up(self) -> None:
        self.assertEqual(url_pattern.expand("/{year}/{month}/{slug}/", {"slug": "a"}), "/a/")
        self.assertEqual(
            url_pattern.expand("https://n.example/{year}/{slug}", {"slug": "a"}),
            "https://n.example/a",
        )

    @given(
        st.from_regex(r"[0-9]{4}", fullmatch=True),
        st.from_regex(r"[a-z][a-z0-9-]{0,20}", fullmatch=True),
    )
    def test_matching_undoes_expanding(self, year: str, slug: str) -> None:
        pattern = "/{year}/sized/{+slug}.png"
        found = url_pattern.matcher(pattern).fullmatch(
            url_pattern.expand(pattern, {"year": year, "slug": slug})
        )
        self.assertEqual(found and found.groupdict(), {"year": year, "slug": slug})

    def test_the_last_name_of_a_permalink(self) -> None:
        for text, name in (
            ("https://a.example/2020/05/bud.html", "bud"), ("https://a.example/a/b-c/", "b-c"), ("https://a.example/caf%C3%A9", "café"),
            ("https://a.example/?entry=5", ""), ("https://a.example/item/35", ""), ("https://a.example/%ff", ""), ("", ""),
            ("https://a.example/v1.2", "v1.2"),
            ("https://a.example/pears?utm_source=rss&ref=a", "pears"),
            ("https://a.example/old-pears/?lang=de", "old-pears"),
            ("https://a.example/view?id=3", ""),
            ("https://a.example/index.php?title=Pear", ""),
            ("https://a.example/all-pages.php?id=3", ""),
        ):  # fmt: skip
            self.assertEqual(url.last_name(text), name, text)

    def test_a_safe_address_holds_no_control_characters(self) -> None:
        self.assertEqual(
            url.safe('https://a.example/a b"\n%20ü'),
            "https://a.example/a%20b%22%0A%20%C3%BC",
        )
