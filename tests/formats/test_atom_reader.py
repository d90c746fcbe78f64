import io
import unittest

from newburrow.core import plugins, tomlfile
from newburrow.dialects.schema import Dialect
from newburrow.formats.base import Input
from newburrow.model import Author, Body, Comment, Entry, Media, Site, Term
from newburrow.model.reading import Mention
from newburrow.store.fill import fill
from tests.helpers import SITE, FolderCase

SPACES = ('xmlns="http://www.w3.org/2005/Atom" xmlns:thr="http://purl.org/syndication/thread/1.0" '
          'xmlns:app="http://www.w3.org/2007/app"')  # fmt: skip


def feed(*entries: str, attributes: str = "") -> str:
    return (f"<feed {SPACES} {attributes}><id>urn:feed</id><title>Orchard</title><link href='{SITE}'/>"
            f"<subtitle>News</subtitle><author><name>Tamsin</name></author>{''.join(entries)}</feed>")  # fmt: skip


def entry(inside: str, key: str = "urn:1") -> str:
    return f"<entry><id>{key}</id><title>A</title><updated>2024-03-02T09:00:00Z</updated>{inside}</entry>"


def read(text: str, dialect: str = "") -> list[object]:
    shape = tomlfile.load('name = "d"\nformat = "atom"\n' + dialect, "d.toml", Dialect)
    return list(
        plugins.get(plugins.FORMATS, "atom").read(
            Input("feed.xml", io.BytesIO(text.encode()), shape)
        )
    )


def of(kind: type, found: list[object]) -> list:  # type: ignore[type-arg]
    declared = [record for record in found if isinstance(record, kind)]
    keys = {getattr(record, "key", "") for record in declared}
    named = [
        one.record for one in found if isinstance(one, Mention) and isinstance(one.record, kind)
    ]
    return declared + [record for record in named if record.key not in keys]


class Reading(unittest.TestCase):
    def first(self, inside: str, attributes: str = "") -> Entry:
        found: Entry = of(Entry, read(feed(entry(inside), attributes=attributes)))[0]
        return found

    def test_the_feed_and_an_entry(self) -> None:
        found = read(feed(entry(
            "<link rel='alternate' href='/a.html'/><link rel='enclosure' href='/a.mp3'/><published>2024-03-01T09:00:00+09:00</published>"
            "<author><name>Ann</name><email>a@m.example</email></author><category term='bees' label='Bees'/><summary>s &lt; t</summary>"
            "<content type='html'>&lt;p>x&lt;/p></content><rights>ours</rights>"), attributes="xml:lang='en'"))  # fmt: skip
        one = of(Entry, found)[0]
        self.assertEqual(
            (one.key, one.guid, one.permalink, one.title),
            ("urn:1", "urn:1", SITE + "a.html", "A"),
        )
        self.assertEqual(one.published.isoformat(), "2024-03-01T09:00:00+09:00")
        self.assertEqual((one.body, one.summary), (Body("<p>x</p>"), "s &lt; t"))
        self.assertEqual((one.authors, one.terms), (("Ann",), ("tag/bees",)))
        self.assertEqual(of(Author, found)[0].email, "a@m.example")
        self.assertEqual(of(Term, found)[0].name, "Bees")
        self.assertEqual(one.extra, {"{http://www.w3.org/2005/Atom}rights": ["ours"]})
        self.assertEqual(
            (one.enclosures, of(Media, found)[0].entry), ((SITE + "a.mp3",), "urn:1")
        )
        site = of(Site, found)[0]
        self.assertEqual(
            (site.title, site.address, site.language, site.description),
            ("Orchard", SITE, "en", "News"),
        )

    def test_contents_of_each_type(self) -> None:
        div = '<div xmlns="http://www.w3.org/1999/xhtml">a <b>c</b><br/>&amp;</div>'
        for content, body in (
            ("<content>a &lt; b</content>", Body("a < b", "text")),
            ("<content type='html'>a &lt;b>c&lt;/b></content>", Body("a <b>c</b>")),
            (f"<content type='xhtml'>{div}</content>", Body("a <b>c</b><br>&amp;")),
            ("<summary type='html'>&lt;i>s&lt;/i></summary>", Body("<i>s</i>")),
            ("", Body("", "text")),
        ):
            self.assertEqual(self.first(content).body, body, content)

    def test_titles_are_plain_text(self) -> None:
        for title, text in (
            ("<title type='html'>A &amp;amp; &lt;b>B&lt;/b></title>", "A & B"),
            ("<title>A &lt;b></title>", "A <b>"),
        ):
            found = of(Entry, read(feed(f"<entry><id>urn:1</id>{title}</entry>")))[0]
            self.assertEqual(found.title, text)

    def test_bases_and_persons_of_the_feed(self) -> None:
        self.assertEqual(
            self.first("<link href='a.html'/>", f"xml:base='{SITE}blog/'").permalink,
            SITE + "blog/a.html",
        )
        self.assertEqual(self.first("").authors, ("Tamsin",))
        self.assertEqual(
            self.first("<source><author><name>Sol</name></author></source>").authors, ("Sol",)
        )

    def test_drafts(self) -> None:
        self.assertEqual(
            self.first("<app:control><app:draft>yes</app:draft></app:control>").status, "draft"
        )
        self.assertEqual(
            self.first("<app:control><app:draft>no</app:draft></app:control>").status,
            "published",
        )

    def test_files(self) -> None:
        found = read(
            feed(
                entry("<summary>A bud</summary><content type='image/png' src='media/bud.png'/>")
            )
        )
        media = of(Media, found)[0]
        self.assertEqual((media.path, media.media_type, media.caption, media.address),
                         ("media/bud.png", "image/png", "A bud", SITE + "media/bud.png"))  # fmt: skip
        self.assertEqual(of(Entry, found), [])

    def test_a_dialect_says_the_rest(self) -> None:
        text = feed(entry("<k>page</k><s>hidden</s><f n='mood'>fine</f>"))
        found = of(Entry, read(text, "[namespaces]\na = 'http://www.w3.org/2005/Atom'\n[entry]\nkind = 'a:k'\nstatus = 'a:s'\n"
                                     "[[entry.fields]]\nelement = 'a:f'\nname = '@n'\n[values.status]\nhidden = 'private'\n"))[0]  # fmt: skip
        self.assertEqual(
            (found.kind, found.status, found.fields), ("page", "private", {"mood": "fine"})
        )


class Threads(FolderCase):
    def test_comments_find_their_entry_through_what_they_answer(self) -> None:
        def reply(key: str, to: str) -> str:
            return entry(
                f"<thr:in-reply-to ref='{to}'/><author><name>N</name></author><content>c</content>",
                key,
            )

        text = feed(reply("urn:c3", "urn:c2"), entry("", "urn:1"), reply("urn:c1", "urn:1"), reply("urn:c2", "urn:c1"),
                    reply("urn:lost", "urn:none"), reply("urn:x", "urn:y"), reply("urn:y", "urn:x"))  # fmt: skip
        with fill(self.folder / "c.sqlite", [read(text)], dict) as store:  # type: ignore[arg-type]
            comments = {
                comment.key: (comment.entry, comment.parent)
                for comment in store.comments_of(Entry(key="urn:1"))
            }
            self.assertEqual(
                comments,
                {
                    "urn:c1": ("urn:1", ""),
                    "urn:c2": ("urn:1", "urn:c1"),
                    "urn:c3": ("urn:1", "urn:c2"),
                },
            )
            self.assertEqual(
                {comment.key for comment in store.orphans()}, {"urn:lost", "urn:x", "urn:y"}
            )
        self.assertEqual(of(Comment, read(text))[0].author_name, "N")

    def test_what_a_comment_has_no_place_for_is_kept(self) -> None:
        inside = ("<thr:in-reply-to ref='urn:1'/><thr:in-reply-to ref='urn:2'/><author><name>N</name></author><author><name>O</name></author>"
                  "<link href='/a#c1'/><category term='x'/><published>2024-03-01T09:00:00Z</published><summary>s</summary><content>c</content>")  # fmt: skip
        comment = of(Comment, read(feed(entry(inside))))[0]
        self.assertEqual(comment.extra, {"title": ["A"], "permalink": [SITE + "a#c1"], "summary": ["s"], "updated": ["2024-03-02T09:00:00Z"],
                                         "more authors": ["O"], "also in reply to": ["urn:2"], "terms": ["tag/x"]})  # fmt: skip
