"""Sixty things that can be otherwise in an export: each is said, by a code of its own."""

import codecs
import contextlib
import csv
import io

from newburrow.cli import main
from tests.helpers import SITE, FolderCase

BASE = f"""<?xml version="1.0" encoding="UTF-8"?>
<rss version="2.0" xmlns:content="http://purl.org/rss/1.0/modules/content/" xmlns:dc="http://purl.org/dc/elements/1.1/"
 xmlns:slash="http://purl.org/rss/1.0/modules/slash/" xmlns:rp="https://reedpost.example/ns/archive/2"><channel>
<title>Mistle Bank Orchard</title><link>{SITE}</link><description>News</description><language>en-GB</language>
<rp:writer signs="tamsin"><rp:name>Tamsin Orrell</rp:name><rp:mail>tamsin@mistlebank.example</rp:mail></rp:writer>
<rp:topic slug="owls" shelf="topic"><rp:name>Owls</rp:name></rp:topic>
<item><title>Owl box</title><link>{SITE}2023-05-06/owl-box</link><guid isPermaLink="false">{SITE}?entry=1</guid>
<pubDate>Sat, 06 May 2023 09:00:00 +0000</pubDate><dc:creator>tamsin</dc:creator><category domain="topic" rp:slug="owls">Owls</category>
<content:encoded><![CDATA[<p>The owls are in the café, see <a href="{SITE}2023-05-07/pears">pears</a>.</p>]]></content:encoded>
<slash:comments>1</slash:comments><rp:id>1</rp:id><rp:sort>article</rp:sort><rp:state>live</rp:state><rp:slug>owl-box</rp:slug>
<rp:reply id="9" sort="reply" state="shown"><rp:name>Jory</rp:name><rp:date>2023-05-07T10:00:00Z</rp:date><rp:text>Fine.</rp:text></rp:reply>
</item>
<item><title>Pears</title><link>{SITE}2023-05-07/pears</link><guid isPermaLink="false">{SITE}?entry=2</guid>
<pubDate>Sun, 07 May 2023 09:00:00 +0000</pubDate><dc:creator>tamsin</dc:creator>
<content:encoded><![CDATA[<p>Pears and <a href="{SITE}2023-05-06/owl-box">owls</a>.</p>]]></content:encoded>
<rp:id>2</rp:id><rp:sort>article</rp:sort><rp:state>live</rp:state><rp:slug>pears</rp:slug></item>
</channel></rss>
"""
BODY, REPLY = "The owls are in", '<rp:reply id="9" sort="reply" state="shown">'
IN_ITEM = "<rp:slug>owl-box</rp:slug>"
# What is replaced, by what, and the code that says so (a word of the message, where the export is refused).
MUTATIONS = (
    # elements and attributes
    (IN_ITEM, IN_ITEM + "<rp:weather>sleet</rp:weather>", "unread-element"),
    (IN_ITEM, IN_ITEM + '<x xmlns="urn:x">1</x>', "unread-element"),
    (IN_ITEM, '<rp:slug kept="no">owl-box</rp:slug>', "unread-element"),
    (REPLY, REPLY.replace("id=", 'mood="glad" id='), "unread-element"),
    ("<rp:name>Owls</rp:name>", "<rp:name>Owls</rp:name><rp:colour>red</rp:colour>", "unread-element"),
    ('<rp:writer signs="tamsin">', '<rp:writer signs="tamsin"><rp:badge>7</rp:badge>', "unread-element"),
    ("<description>News</description>", "<description>News</description><rp:theme>dark</rp:theme>", "unread-element"),
    ("</channel>", "<extra>x</extra></channel>", "unread-element"),
    # values that no dialect knows
    ("<rp:state>live</rp:state>", "<rp:state>asleep</rp:state>", "unknown-value"),
    ("<rp:sort>article</rp:sort>", "<rp:sort>poem</rp:sort>", "unknown-value"),
    (REPLY, REPLY.replace("shown", "odd"), "unknown-value"),
    (REPLY, REPLY.replace('"reply"', '"cheer"'), "unknown-value"),
    ("Sat, 06 May 2023 09:00:00 +0000", "one fine day", "no-date"),
    ("Sat, 06 May 2023 09:00:00 +0000", "Sat, 31 Feb 2023 09:00:00 +0000", "no-date"),
    ("2023-05-07T10:00:00Z", "2023-05-07T99:00:00Z", "no-date"),
    (IN_ITEM, IN_ITEM + "<rp:rank>first</rp:rank>", "no-number"),
    ("<slash:comments>1<", "<slash:comments>7<", "comments-missing"),
    ("<rp:reply id=\"9\"", "<rp:reply id=\"9\" x=\"1\"", "unread-element"),
    # a second value
    (IN_ITEM, IN_ITEM + "<rp:slug>other</rp:slug>", "unread-element"),
    ("<title>Owl box</title>", "<title>Owl box</title><title>Second</title>", "unread-element"),
    ("<rp:id>1</rp:id>", "<rp:id>1</rp:id><rp:id>5</rp:id>", "unread-element"),
    ("<rp:id>2</rp:id>", "<rp:id>1</rp:id>", "twice"),
    ("2023-05-07/pears</link>", "2023-05-06/owl-box</link>", "address-conflict"),
    ("<rp:slug>pears</rp:slug>", "<rp:slug>owl-box</rp:slug>", "address-taken"),
    # links, pictures, bodies
    ('2023-05-07/pears"', '2023-05-08/none"', "dead-link"),
    (BODY, '<img src="/files/none.png" alt="x">', "missing-picture"),
    (BODY, '<img src="https://pictures.example/a.png" alt="x">', "remote-file"),
    (BODY, '<img src="https://pictures.example/a.png">', "no-alternative-text"),
    (BODY, "<script>x()</script>", "script"), (BODY, "<form><input name='a'></form>", "form"),
    (BODY, '<iframe src="https://video.example/embed/7"></iframe>', "embed"), (BODY, "<blink>x</blink>", "element"),
    (BODY, '[signup day="1"]', "macro"), (BODY, "[unknown-thing of='7']", "macro-like"),
    (BODY, "<div>" * 600 + "x" + "</div>" * 600, "too-deep"),
    (BODY, '<a href="data:text/html,x">x</a>', "script-link"), (BODY, '<p onclick="x()">x</p>', "script-handler"), (BODY, '<p zzz="1">x</p>', "attribute"),
    (IN_ITEM, IN_ITEM + "<rp:lead>77</rp:lead>", "missing-lead"),
    (IN_ITEM, IN_ITEM + '<enclosure url="/none.mp3" type="audio/mpeg" length="1"/>', "missing-file"),
    # what belongs to what
    (IN_ITEM, IN_ITEM + "<rp:within>99</rp:within>", "no-tree"),
    ("<dc:creator>tamsin</dc:creator>", "", "no-author"),
    ("<rp:slug>owl-box</rp:slug>", "<rp:slug>Owl box!</rp:slug>", "new-slug"),
    ("<rp:slug>owl-box</rp:slug>", "<rp:slug>りんご</rp:slug>", "new-slug"),
    ("<rp:state>live</rp:state>", "<rp:state>members</rp:state>", "state-changed"),
    ("<rp:sort>article</rp:sort>", "<rp:sort>file</rp:sort>", "comment-apart"),
    ("<rp:mail>tamsin@", "<rp:about>Grafts.</rp:about><rp:mail>tamsin@", "author-profile"),
    ("<rp:name>Owls</rp:name>", "<rp:name>Owls</rp:name><rp:about>Birds</rp:about>", "term-description"),
    ("<language>", "<rp:zone>Europe/Oslo</rp:zone><language>", "site-settings"),
    ("<language>", '<rp:signpost board="main" words="A" to="1"/><language>', "menu"),
    ("<language>", '<rp:signpost board="main" words="A" to="99"/><language>', "menu-target"),
    ("06 May 2023 09", "06 May 1023 09", "date-too-early"), ("06 May 2023 09", "06 May 2923 09", "date-in-future"),
    (REPLY, '<rp:reply id="9" sort="reply" state="shown" re="77">', "unread-element"),
    (IN_ITEM, IN_ITEM + '<rp:detail>clay</rp:detail>', "unread-element"),
    # namespaces, encodings, syntax
    ("ns/archive/2", "ns/archive/3", "namespace-missing"),
    ('encoding="UTF-8"', 'encoding="ISO-8859-1"', "encoding-misstated"),
    ("The owls", "The \\xff owls", "not valid in its encoding"), ("The owls", "The &nbsp; owls]]>&nbsp;<![CDATA[", "nbsp"),
    ("</channel>", "", "well-formed"), ("<title>Pears</title>", "<title>Pears & owls</title>", "well-formed"),
    ("<rss ", "<!DOCTYPE rss [<!ENTITY a 'b'>]><rss ", "entit"), ("<rss ", "<html ", "This is a web page"),
    ("The owls", "The \\x00 owls", "well-formed"),
)  # fmt: skip


def mutated(old: str, new: str) -> bytes:
    """The export with its first such place replaced; escapes in the replacement stand for single bytes."""
    assert old in BASE, old
    data = BASE.replace(old, new, 1).encode()
    if old == "<rss ":
        data = data.replace(b"</rss>", b"</html>") if "html" in new else data
    return data.replace(b"\\xff", b"\xff").replace(b"\\x00", b"\x00")


class Mutations(FolderCase):
    def said(self, data: bytes) -> set[tuple[str, str]]:
        """Code and text of each follow-up of the move of an export; of one that is refused, the message alone."""
        self.count = getattr(self, "count", 0) + 1
        source, out = self.write(f"{self.count}.xml", data), self.folder / f"m{self.count}"
        message = io.StringIO()
        with contextlib.redirect_stdout(io.StringIO()), contextlib.redirect_stderr(message):
            words = [
                "move",
                str(source),
                "--to",
                "lanternlog",
                "--out",
                str(out),
                "--jobs",
                "1",
            ]
            status = main.main(
                [*words, "--dialect", "reedpost"] if b"archive/3" in data else words
            )
        if status == 2:
            return {(message.getvalue(), "")}
        rows = csv.DictReader(io.StringIO((out / "follow-ups.csv").read_text("utf-8")))
        return {(row["kind"], f"{row['title']} {row['what']}") for row in rows}

    def test_there_are_sixty(self) -> None:
        self.assertGreaterEqual(len(set(MUTATIONS)), 60)

    def test_each_is_said(self) -> None:
        before = self.said(BASE.encode())
        self.assertLessEqual(
            {code for code, _text in before}, {"author-login", "comment-links"}
        )
        self.assertEqual(self.said(codecs.BOM_UTF8 + BASE.encode()), before)
        for old, new, code in MUTATIONS:
            with self.subTest(old=old, new=new[:80], code=code):
                after = self.said(mutated(old, new)) - before
                if " " in "".join(found for found, text in after if not text):
                    self.assertIn(
                        code.lower(), "".join(found for found, _text in after).lower()
                    )
                else:
                    self.assertIn(code, {found for found, _text in after})
