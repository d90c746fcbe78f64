"""Atom 1.0 and 0.3: the reader.

Entries in reply to something are comments, those with their content elsewhere are files.
"""

from __future__ import annotations

import base64
import copy
import html
import re
from collections.abc import Iterator

from lxml import etree
from msgspec.structs import replace

from newburrow.core import url
from newburrow.core.problem import Problem
from newburrow.dialects.selector import text_of, without_namespaces
from newburrow.formats.feed import enclosures
from newburrow.formats.feed.feed_map import ATOM, REPLY, TOTAL, FeedSelectors
from newburrow.formats.feed.item import FeedItem
from newburrow.model import COMMENT_KINDS, COMMENT_STATES, Body, Comment, Extra, Media
from newburrow.model.reading import Item

CONTROL, DRAFT = "{http://www.w3.org/2007/app}control", "{http://www.w3.org/2007/app}draft"

_READ = (
    "id",
    "title",
    "link",
    "author",
    "category",
    "summary",
    "content",
    "published",
    "updated",
)

SPEECH = FeedSelectors(
    holder=ATOM + "feed",
    item=ATOM + "entry",
    known=frozenset(
        (*(ATOM + name for name in _READ), REPLY, TOTAL, CONTROL, *enclosures.TAGS)
    ),
    several=frozenset(
        (ATOM + "link", ATOM + "author", ATOM + "category", REPLY, *enclosures.TAGS)
    ),
    site={
        "title": ("a:title",),
        "link": ("a:link[@rel='alternate']/@href", "a:link[not(@rel)]/@href"),
        "generator": ("a:generator",),
        "description": ("a:subtitle",),
        "language": ("@xml:lang",),
        "written": ("a:updated",),
    },
    entry={
        "published": ("a:published",),
        "updated": ("a:updated",),
        "language": ("@xml:lang",),
    },
)

_TAGS = re.compile(r"<[^>]*>")


# Atom 0.3, which was in use for two years before the standard; read in the standard's namespace.
ATOM_03 = "{http://purl.org/atom/ns#}"
SPEECH_03 = replace(
    SPEECH,
    known=SPEECH.known | {ATOM + name for name in ("issued", "modified", "created")},
    site={**SPEECH.site, "description": ("a:tagline",), "written": ("a:modified",)},
    entry={
        **SPEECH.entry,
        "published": ("a:issued", "a:created"),
        "updated": ("a:modified",),
    },
)


class AtomEntry(FeedItem):
    """An `entry` of Atom 1.0."""

    link_relations = ("self", "replies", "edit", "enclosure")

    @staticmethod
    def construct(element: etree._Element) -> Body:
        """A text construct or content with its markup (RFC 4287 3.1 and 4.1.3)."""
        return _construct(element)

    def records(self) -> Iterator[Item | Problem]:
        """A comment, a file, or an entry."""
        content = next(iter(self.children.get(ATOM + "content", ())), None)
        if content is not None:
            source, media_type = (content.get("src"), content.get("type", ""))
        else:
            source, media_type = (None, "")
        if REPLY in self.children:
            comment = self.reply()
            yield comment
            yield from self._commenter(comment, self.element, self.children)
            yield from self.problems
        elif source and not self.text["kind"] and not media_type.startswith("text/"):
            yield self.media()
            yield from self.problems
        else:
            yield from super().records()

    def links(self) -> tuple[str, str, list[str]]:
        """The alternate link, and the id (RFC 4287 4.2.6 and 4.2.7)."""
        alternate = self.atom_links.page()
        guid = self.core(ATOM + "id")
        if alternate and guid != alternate and self.is_own_address(guid):
            return alternate, guid, [guid]
        return alternate, guid, []

    def title(self) -> str:
        """The title without markup (RFC 4287 4.2.14)."""
        found = self.children.get(ATOM + "title")
        if found:
            body = self.construct(found[0])
        else:
            body = Body("", "text")
        if body.markup == "text":
            return body.text.strip()
        return html.unescape(_TAGS.sub("", body.text)).strip()

    def bodies(self) -> tuple[Body, str]:
        """The content, else the summary as the body."""
        contents, summaries = (
            self.children.get(ATOM + "content"),
            self.children.get(ATOM + "summary"),
        )
        if summaries:
            summary = self.construct(summaries[0])
        else:
            summary = Body("", "text")
        if not contents or contents[0].get("src"):
            return summary, ""
        body = self.construct(contents[0])
        if body.markup == "html":
            body = Body(body.text, self.markup())
        if base := contents[0].base or self.element.base:
            body = replace(body, base=url.resolve(self.base, base))
        return body, html.escape(
            summary.text, quote=False
        ) if summary.markup == "text" else summary.text

    def authors(self) -> list[str]:
        """Those that the dialect names, else the entry's own persons, else those of its source or of the feed."""
        named = self.shared.maps.entry["author"].each(self.element, self.children)
        if named:
            return [self.shared.people.key_in(name, self.where) for name in named]
        elements = self.children.get(ATOM + "author") or self.element.findall(
            f"{ATOM}source/{ATOM}author"
        )
        people = [_person(element) for element in elements] or self._people_of_feed()
        return [self.shared.people.key(*person, self.where) for person in people]

    def _people_of_feed(self) -> list[tuple[str, str, str]]:
        """The authors of the feed, which are those of an entry that names none (RFC 4287 4.1.1).

        They are remembered, since what was read is forgotten with the entry before this one.
        """
        feed = self.element.getparent()
        if feed is not None and (elements := feed.findall(ATOM + "author")):
            self.shared.feed_people = [_person(element) for element in elements]
        return self.shared.feed_people

    def terms(self) -> list[str]:
        """`category`: its label is the name, its term the slug (RFC 4287 4.2.2)."""
        found = []
        for category in self.children.get(ATOM + "category", ()):
            term, label = category.get("term", "").strip(), category.get("label", "").strip()
            parts = self.shared.names_in(term)
            found += [
                self.shared.name_term(
                    category, label if len(parts) == 1 and label else part, part
                )
                for part in parts
            ]
        return found

    def feeds(self) -> list[str]:
        """The feed of its comments (RFC 4685 section 4)."""
        links = self.children.get(ATOM + "link", ())
        replies = (
            link
            for link in links
            if link.get("rel") == "replies" and link.get("type") == "application/atom+xml"
        )
        return [href for reply in replies if (href := reply.get("href", ""))]

    def status(self) -> str:
        """A draft by `app:control`, else published (RFC 5023 13.1.1)."""
        drafts = [
            text_of(child).strip() for child in self.element.findall(f"{CONTROL}/{DRAFT}")
        ]
        if drafts[:1] == ["yes"]:
            return "draft"
        return "published"

    def media(self) -> Media:
        """A media link entry: its content is beside the feed (RFC 5023 9.6)."""
        media = super().media()
        contents = self.children.get(ATOM + "content")
        if contents:
            source = contents[0].get("src", "")
        else:
            source = ""
        summary = self.children.get(ATOM + "summary")
        own = self.permalink or url.resolve(self.base, source)
        return replace(
            media,
            path=media.path or (source if "://" not in source else ""),
            address=media.address or own,
            addresses=tuple(
                address for address in media.addresses if address != (media.address or own)
            ),
            media_type=media.media_type or (contents[0].get("type", "") if contents else ""),
            caption=media.caption
            or (self.construct(summary[0]).text.strip() if summary else ""),
        )

    def reply(self) -> Comment:
        """An entry in reply to something; what that is the store finds out (RFC 4685 section 3).

        What the dialect says of comments comes first, then what Atom says.
        """
        about = self.children[REPLY][0]
        text = self.shared.maps.texts("comment", self.element, self.children)
        people = self.children.get(ATOM + "author", ())
        name, email, home = _person(people[0]) if people else ("", "", "")
        named = text["kind"] or self.text["kind"]
        kind = self.dialect.value("comment_kind", named)
        if self.status() == "draft":
            otherwise = "pending"
        else:
            otherwise = "approved"
        status = self.dialect.value("comment_status", text["status"] or self.text["status"])
        if text["status"]:
            status = self.known("comment_status", status, COMMENT_STATES, "pending")
        if text["kind"]:
            kind = self.known("comment_kind", kind, COMMENT_KINDS, "comment")
        body, _summary = self.bodies()
        if text["body"]:
            body = Body(text["body"], self.markup_of_comments())
        when = text["published"] or self.text["published"] or self.text["updated"]
        return Comment(
            key=text["id"] or self.key,
            entry=text["entry"] or (about.get("ref") or about.get("href") or "").strip(),
            parent=text["parent"] if text["parent"] != "0" else "",
            kind=kind if kind in COMMENT_KINDS else "comment",
            author_name=text["author_name"] or name,
            email=text["email"] or email,
            address=text["address"] or home,
            published=self.shared.date(when, "comment"),
            status=status or otherwise,
            body=body,
            extra=self.extra("reply") | self._facts_of_comment(name),
            source=self.where,
        )

    def _facts_of_comment(self, author: str) -> Extra:
        """What an entry says and a comment has no place for."""
        if ATOM + "content" in self.children:
            summary = self.children.get(ATOM + "summary")
        else:
            summary = None
        facts = {
            "title": self.title() if self.title() != author else "",
            "permalink": self.permalink,
            "summary": self.construct(summary[0]).text.strip() if summary else "",
            "updated": self.text["updated"]
            if self.text["updated"] != self.text["published"]
            else "",
            "more authors": ", ".join(
                _person(person)[0] for person in self.children.get(ATOM + "author", ())[1:]
            ),
            "also in reply to": ", ".join(
                child.get("ref", "") for child in self.children[REPLY][1:]
            ),
        }
        return {name: [text] for name, text in facts.items() if text} | self.filed()


class Atom03Entry(AtomEntry):
    """An `entry` of Atom 0.3: `mode` says how its content is written, which is plain text unless `type` says so."""

    @staticmethod
    def construct(element: etree._Element) -> Body:
        """Content with its markup, escaped, as XML, or in Base64."""
        kind, mode = (
            element.get("type", "text/plain").lower(),
            element.get("mode", "xml").lower(),
        )
        text = text_of(element)
        if mode == "base64":
            try:
                text = base64.b64decode(text, validate=False).decode("utf-8")
            except ValueError:
                return _construct(element)
        elif mode == "xml" and len(element):
            return Body(_xhtml(element), "html")
        return Body(text, "html" if "html" in kind or "xml" in kind else "text")


def _person(element: etree._Element) -> tuple[str, str, str]:
    """Name, e-mail and address of a person construct (RFC 4287 3.2; `url` in Atom 0.3)."""
    name, email, home, old_home = (
        (element.findtext(ATOM + tag) or "").strip() for tag in ("name", "email", "uri", "url")
    )
    return name, email, home or old_home


def _construct(element: etree._Element) -> Body:
    """A text construct or content with its markup (RFC 4287 3.1 and 4.1.3)."""
    kind = element.get("type", "text").lower()
    if kind in ("html", "text/html"):
        return Body(text_of(element), "html")
    if kind in ("xhtml", "application/xhtml+xml"):
        return Body(_xhtml(element), "html")
    if "/" not in kind or kind.startswith("text/"):
        return Body(text_of(element), "text")
    if kind.endswith(("+xml", "/xml")):
        inner = "".join(etree.tostring(child, encoding="unicode") for child in element)
        return Body((element.text or "") + inner, "html")
    # Any other content is in Base64 (RFC 4287 4.1.3.3); a data: address can hold it.
    data_url = f"data:{html.escape(kind)};base64,{''.join(text_of(element).split())}"
    return Body(
        f'<img src="{data_url}" alt="">'
        if kind.startswith("image/")
        else f'<a href="{data_url}">{kind}</a>',
        "html",
    )


def _xhtml(element: etree._Element) -> str:
    """What is in the div of an xhtml construct, as HTML."""
    div = next(element.iterchildren(tag=etree.Element), None)
    if div is None:
        return ""
    div = copy.deepcopy(div)
    without_namespaces(div)
    etree.cleanup_namespaces(div)
    if div.text:
        inner = [html.escape(div.text, quote=False)]
    else:
        inner = []
    inner += [etree.tostring(child, encoding="unicode", method="html") for child in div]
    return "".join(inner)
