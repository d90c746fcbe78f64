import io
import unittest
from datetime import UTC, datetime

from hypothesis import given
from hypothesis import strategies as st
from lxml import etree

from newburrow.core import plugins
from newburrow.formats.base import Job
from newburrow.model import Author, Body, Comment, Entry, Media, Site, Term
from newburrow.model.bundle import Bundle

NS = {"a": "http://www.w3.org/2005/Atom", "thr": "http://purl.org/syndication/thread/1.0",
      "app": "http://www.w3.org/2007/app", "x": "urn:x"}  # fmt: skip
SITE = Site(key="site", title="Orchard", address="https://mistlebank.example/", language="en")
AT = datetime(2024, 3, 2, 9, 0, tzinfo=UTC)
TEXT = st.text(max_size=40)


class Kept(io.BytesIO):
    def close(self) -> None:
        self.kept = self.getvalue()
        super().close()


class Folder:
    def __init__(self) -> None:
        self.files: dict[str, Kept] = {}

    def open(self, name: str) -> Kept:
        self.files[name] = Kept()
        return self.files[name]


def written(*bundles: Bundle, media: tuple[Media, ...] = (), namespace: str = "urn:x"):  # type: ignore[no-untyped-def]
    folder, problems = Folder(), []
    writer = plugins.get(plugins.FORMATS, "atom").write(
        folder, Job(SITE, {"namespace": namespace}, "2024-03-02T09:00:00Z")
    )
    for bundle in bundles:
        problems += writer.entry(bundle)
    for one in media:
        problems += writer.media(one)
    writer.finish()
    return etree.fromstring(folder.files["entries.atom"].kept), problems


class Writing(unittest.TestCase):
    def first(self, root, path: str) -> str:  # type: ignore[no-untyped-def]
        found = root.xpath(path, namespaces=NS)
        self.assertTrue(found, path)
        return found[0] if isinstance(found[0], str) else found[0].text

    def test_an_entry(self) -> None:
        entry = Entry(key="1", title="A & B", guid="tag:mistlebank.example,2024:1", published=AT, summary="s", language="ja",
                      body=Body("<p>x</p>"), fields={"search": "words"}, status="draft")  # fmt: skip
        root, problems = written(Bundle(entry, (Author(key="t", name="Tamsin", email="t@m.example"),), (Term(key="b", name="Bees"),),
                                        new_address="https://mistlebank.example/a.html"))  # fmt: skip
        self.assertEqual(problems, [])
        for path, text in (
            ("a:entry/a:id", "tag:mistlebank.example,2024:1"),
            ("a:entry/a:title", "A & B"),
            ("a:entry/a:published", "2024-03-02T09:00:00Z"),
            ("a:entry/a:author/a:email", "t@m.example"),
            ("a:entry/a:category/@term", "Bees"),
            ("a:entry/a:content[@type='html']", "<p>x</p>"),
            ("a:entry/a:link[@rel='alternate']/@href", "https://mistlebank.example/a.html"),
            ("a:entry/app:control/app:draft", "yes"),
            ("a:entry/x:field[@name='search']", "words"),
            ("a:entry/@xml:lang", "ja"),
        ):
            self.assertEqual(self.first(root, path), text, path)

    def test_what_every_feed_and_entry_must_have(self) -> None:
        root, _problems = written(Bundle(Entry(key="7"), new_address="https://m.example/7"))
        for path in ("a:id", "a:title", "a:updated", "a:entry/a:id", "a:entry/a:title", "a:entry/a:updated",
                     "a:entry/a:author/a:name"):  # fmt: skip
            self.first(root, path)

    def test_threads(self) -> None:
        entry = Entry(key="1", guid="urn:entry")
        comments = (
            Comment(key="5", entry="1"),
            Comment(key="6", entry="1", parent="5", status="pending"),
        )
        root, _problems = written(
            Bundle(entry, comments=comments, new_address="https://m.example/1")
        )
        self.assertEqual(
            root.xpath("a:entry/thr:in-reply-to/@ref", namespaces=NS),
            ["urn:entry", "urn:entry#comment-5"],
        )
        self.assertEqual(
            root.xpath(
                "a:entry[a:id='urn:entry#comment-6']/app:control/app:draft/text()",
                namespaces=NS,
            ),
            ["yes"],
        )
        self.assertEqual(
            root.xpath("a:entry[1]/a:link[@rel='replies']/@thr:count", namespaces=NS), ["2"]
        )

    def test_scheduled_and_private(self) -> None:
        for status, namespace, draft in (
            ("scheduled", "urn:x", "no"),
            ("scheduled", "", "yes"),
            ("private", "urn:x", "yes"),
        ):
            root, _problems = written(
                Bundle(Entry(key="1", status=status), new_address="https://m.example/"),
                namespace=namespace,
            )
            self.assertEqual(
                self.first(root, "a:entry/app:control/app:draft"), draft, (status, namespace)
            )

    def test_without_a_namespace_of_the_host_what_is_dropped_is_said(self) -> None:
        entry = Entry(key="1", kind="page", parent="2", fields={"mood": "fine"})
        root, problems = written(Bundle(entry, new_address="https://m.example/"), namespace="")
        self.assertIn("kind, parent, field mood", problems[0].message)
        self.assertEqual(root.xpath("//*[namespace-uri()='urn:x']"), [])

    def test_files_are_media_link_entries(self) -> None:
        media = Media(key="9", address="https://m.example/media/a.png", path="media/a.png", media_type="image/png", title="a",
                      caption="A bud", alternative_text="Bud")  # fmt: skip
        root, _problems = written(media=(media,))
        self.assertEqual(
            self.first(root, "a:entry/a:content[@type='image/png']/@src"), "media/a.png"
        )
        self.assertEqual(self.first(root, "a:entry/a:summary"), "A bud")
        self.assertEqual(self.first(root, "a:entry/x:field[@name='alternative-text']"), "Bud")

    def test_a_lead_picture_is_an_enclosure(self) -> None:
        lead = Media(key="9", address="https://m.example/a.png", media_type="image/png", size=7)
        root, _problems = written(
            Bundle(Entry(key="1"), lead_picture=lead, new_address="https://m.example/")
        )
        self.assertEqual(
            self.first(root, "a:entry/a:link[@rel='enclosure']/@href"),
            "https://m.example/a.png",
        )

    @given(TEXT, TEXT, TEXT, TEXT)
    def test_any_text_gives_a_well_formed_document(
        self, title: str, body: str, name: str, key: str
    ) -> None:
        entry = Entry(
            key=key, title=title, guid=body, body=Body(body), fields={name: title}, summary=name
        )
        comment = Comment(
            key=name, entry=key, author_name=title, address=body, email=name, body=Body(title)
        )
        root, _problems = written(Bundle(entry, (Author(key="", name=name or "n"),), (Term(key="", name=title),), (comment,),
                                         new_address="https://m.example/"))  # fmt: skip
        self.assertEqual(len(root.findall("{*}entry")), 2)
        shown = self.first(root, "a:entry/a:title") or ""
        if title.isprintable():
            self.assertEqual(shown, title)
