from hypothesis import given
from hypothesis import strategies as st

from newburrow.markup.html import Fragment
from newburrow.model import Body, Comment, Entry, Media
from tests.convert.cases import HOST, MoveCase
from tests.helpers import SITE

NEW = "https://new.example/"
TARGET = Entry(
    key="2", slug="b", permalink=SITE + "2020/01/02/b/", addresses=(SITE + "?entry=2",)
)
PICTURE = Media(key="m", address=SITE + "files/2020/bud.png", path="files/2020/bud.png", digest="d" * 64, alternative_text='A "bud"',
                caption="In May")  # fmt: skip


class Bodies(MoveCase):
    new_address = NEW

    def body(
        self, text: str, *more: object, lead: str = "", base: str = SITE + "2021/05/06/a/"
    ) -> str:
        entry = Entry(key="1", slug="a", permalink=base, body=Body(text), lead_picture=lead)
        return self.converted(entry, TARGET, PICTURE, *more)["1"].entry.body.text  # type: ignore[arg-type]

    def test_links_in_every_style(self) -> None:
        for href in (
            "https://mistlebank.example/2020/01/02/b/", "http://www.mistlebank.example/2020/01/02/b/", "/2020/01/02/b/",
            "//mistlebank.example/2020/01/02/b/", "../../../../2020/01/02/b/", "/?entry=2", "https://mistlebank.example/?entry=2",
            "/2020/01/02/%62/",
        ):  # fmt: skip
            self.assertEqual(
                self.body(f'<p><a href="{href}">b</a></p>'),
                f'<p><a href="{NEW}b.html">b</a></p>',
                href,
            )

    def test_fragment_and_query_are_kept(self) -> None:
        found = self.body(
            '<a href="/2020/01/02/b/?view=print#top">b</a><a href="/?entry=2&amp;from=mail#x">b</a><a href="#top">c</a>'
        )
        self.assertEqual(
            found,
            f'<a href="{NEW}b.html?view=print#top">b</a><a href="{NEW}b.html?from=mail#x">b</a><a href="#top">c</a>',
        )

    def test_other_sites_and_schemes_are_left_alone(self) -> None:
        text = (
            '<a href="https://fenside.example/?entry=2">x</a><a href="mailto:a@b.example">y</a>'
        )
        self.assertEqual(self.body(text), text)
        self.assertEqual(self.codes(), ["undated", "undated", "no-author", "no-author"])

    def test_a_link_without_an_address_leads_to_its_page(self) -> None:
        own = f'<a href="{NEW}a.html">x</a>'
        self.assertEqual(self.body('<a href="">x</a><a href>x</a><a href=" ">x</a>'), own * 3)
        self.assertEqual(self.body('<a id="x">x</a>'), '<a id="x">x</a>')

    def test_a_link_to_nothing_is_a_finding_and_stays_absolute(self) -> None:
        self.assertEqual(
            self.body('<a href="../gone/">x</a>'), f'<a href="{SITE}2021/05/06/gone/">x</a>'
        )
        self.assertIn("dead-link", self.codes())

    def test_a_link_to_what_stays_behind_is_a_finding(self) -> None:
        self.body(
            '<a href="/hello/">x</a>', Entry(key="3", slug="hello", permalink=SITE + "hello/")
        )
        self.assertIn("link-to-left-out", self.codes())

    def test_pictures_and_their_resized_variants(self) -> None:
        found = self.body('<img src="/files/2020/bud.png"><img src="/files/sized/320/2020/bud.png" '
                          'srcset="/files/sized/320/2020/bud.png 320w, /files/2020/bud.png 640w" sizes="9em">')  # fmt: skip
        new = f"{NEW}media/bud-dddddddddd.png"
        # that of the file, where the picture itself says none
        alternative = 'alt="A &quot;bud&quot;"'
        self.assertEqual(
            found, f'<img src="{new}" {alternative}><img src="{new}" {alternative}>'
        )
        self.assertNotIn("no-alternative-text", self.codes())
        self.assertIn(
            "missing-picture", (self.body('<img src="/files/none.png">'), self.codes())[1]
        )

    def test_files_beside_the_feed_are_found_by_the_end_of_their_path(self) -> None:
        files = [Media(key=path, path=path, digest=mark * 64)
                 for path, mark in (("up/2020/a b.png", "a"), ("up/2021/a b.png", "b"), ("x/one.png", "c"), ("y/one.png", "e"))]  # fmt: skip
        found = self.body(
            '<img src="/pictures/2021/a%20b.png"><img src="/p/one.png"><a href="/z/y/one.png">x</a>',
            *files,
        )
        self.assertEqual(found, f'<img src="{NEW}media/a-b-bbbbbbbbbb.png"><img src="{SITE}p/one.png">'
                                f'<a href="{NEW}media/one-eeeeeeeeee.png">x</a>')  # fmt: skip
        self.assertIn("missing-picture", self.codes())
        self.assertEqual(self.answers()["/z/y/one.png"], (301, "/media/one-eeeeeeeeee.png"))

    def test_a_srcset_of_different_files_stays_one(self) -> None:
        other = Media(
            key="n",
            address=SITE + "files/2020/big.png",
            path="files/2020/big.png",
            digest="e" * 64,
        )
        found = self.body(
            '<img srcset="/files/2020/bud.png 1x, /files/2020/big.png 2x">', other
        )
        self.assertEqual(
            found,
            f'<img srcset="{NEW}media/bud-dddddddddd.png 1x, {NEW}media/big-eeeeeeeeee.png 2x" alt="A &quot;bud&quot;">',
        )

    def test_the_lead_picture_goes_first_unless_it_is_there(self) -> None:
        new = f"{NEW}media/bud-dddddddddd.png"
        self.assertEqual(
            self.body("<p>x</p>", lead="m"),
            f'<figure><img src="{new}" alt="A &quot;bud&quot;"><figcaption>In May</figcaption></figure><p>x</p>',
        )
        self.assertEqual(
            self.body('<img src="/files/2020/bud.png">', lead="m"),
            f'<img src="{new}" alt="A &quot;bud&quot;">',
        )
        self.assertEqual(self.body("plain", lead=PICTURE.address).count("<figure>"), 1)
        self.body("x", lead="none")
        self.assertIn("missing-lead", self.codes())

    def test_forms_embeds_scripts_and_macros(self) -> None:
        found = self.body(
            '<form action="/send"><label>Name <input name="who"></label><form></form></form>'
            '<iframe src="https://video.example/1" title="Owl &amp; co"></iframe><script>alert(1)</script>'
            '<p onclick="x()">[signup day="1"] {{toc}} <code>[signup]</code> [other]</p><section>kept <script>no</script></section>'
            '<a href=" java\tscript:alert(1)">run</a>'
        )
        self.assertEqual(
            found,
            '<p><a href="https://video.example/1">Owl &amp; co</a></p><p>[signup day="1"] {{toc}} [signup] [other]</p>'
            "<p>kept</p><a>run</a>",
        )
        self.assertEqual(sorted(code for code in self.codes() if code not in ("no-author", "undated")),
                         ["element", "element", "embed", "form", "macro", "macro", "script", "script-handler", "script-link"])  # fmt: skip

    def test_an_embed_within_a_form_goes_with_the_form(self) -> None:
        self.assertEqual(
            self.body('<form><iframe src="https://v.example/"></iframe></form>a'), "a"
        )

    def test_a_body_too_deep_is_made_flatter_and_said(self) -> None:
        text = (
            "<div>" * 3000 + '<b title="a>b">deep</b><img src="/files/bud.png" onerror="x()">'
        )
        found = self.body(text + "</div>" * 3000 + "<p>end</p>")
        self.assertIn('deep<img src="', found)
        self.assertTrue(found.endswith("<p>end</p>"))
        self.assertNotIn("onerror", found)
        self.assertIn("too-deep", self.codes())

    def test_comments_and_summaries_are_converted_too(self) -> None:
        entry = Entry(
            key="1", slug="a", permalink=SITE + "a/", summary='<a href="/?entry=2">b</a>'
        )
        comment = Comment(key="9", entry="1", body=Body("a < b\n\nc", "text"))
        bundle = self.converted(entry, TARGET, comment)["1"]
        self.assertEqual(bundle.entry.summary, f'<a href="{NEW}b.html">b</a>')
        self.assertEqual(bundle.comments[0].body, Body("<p>a &lt; b</p><p>c</p>"))

    @given(st.lists(st.sampled_from(["<form>", "</form>", "<iframe src=x>", "</iframe>", "<script>", "</script>", "<object>", "</object>",
                                     "<svg>", "</svg>", "<style>", "</style>", "<template>", "</template>", "<a onclick=x>", "<u>", "t",
                                     "</u>", "<math>", "<a href=javascript:x>", "<table>", "<form><table>"]), max_size=10))  # fmt: skip
    def test_only_allowed_elements_are_left(self, pieces: list[str]) -> None:
        found = Fragment(self.body("".join(pieces)))
        self.assertLessEqual(
            {node.tag for node in found.elements()}, set(self.context.host.markup.elements)
        )
        for node in found.elements():
            self.assertFalse([name for name in node.attributes if name.startswith("on")])


class OnTheSameAddress(MoveCase):
    def test_an_address_is_made_new_once(self) -> None:
        text = '<img src="/files/2020/bud.png" srcset="/files/2020/bud.png 2x"><a href="/2020/01/02/b/">b</a>'
        self.converted(
            Entry(key="1", slug="a", permalink=SITE + "1/a/", body=Body(text)), TARGET, PICTURE
        )
        self.assertEqual(set(self.codes()), {"no-author", "undated"})


class HostWithLeadPictures(MoveCase):
    host_toml = HOST + "[media]\nlead_picture = true\n"

    def test_it_stays_apart_from_the_body(self) -> None:
        bundle = self.converted(
            Entry(key="1", slug="a", lead_picture="m", body=Body("x")), PICTURE
        )["1"]
        self.assertEqual(bundle.entry.body.text, "x")
        self.assertEqual(
            bundle.lead_picture and bundle.lead_picture.address,
            SITE + "media/bud-dddddddddd.png",
        )


class OnlyParagraphs(MoveCase):
    """A body of paragraphs alone needs no parser, but what the host does not accept is removed from it too."""

    def text(self, text: str, elements: str) -> str:
        self.setUp()
        self.host_toml = HOST[: HOST.index("elements =")] + f"elements = [{elements}]\n"
        entry = Entry(key="1", slug="a", body=Body(text))
        return self.converted(entry)["1"].entry.body.text

    def test_by_the_elements_of_the_host(self) -> None:
        text = "<p>One<br>two</p>"
        for elements, expected in (
            ("", text),
            ('"p", "br"', text),
            ('"p"', "<p>One two</p>"),
            ('"br"', "One<br>two"),
            ('"b"', "One two"),
        ):
            self.assertEqual(self.text(text, elements).strip(), expected, elements)
