"""RSS 2.0: the writer.

What RSS itself cannot say goes where the dialect of the host has it: the kind of an entry, its state, nested comments,
the lead picture, named fields. What has no place in either is dropped, and said. Where the host takes no file above a
size, there are several, each whole by itself, with the authors and terms that its entries name.
"""

from __future__ import annotations

from collections.abc import Iterable
from datetime import datetime
from email.utils import format_datetime

import msgspec
from msgspec import Struct

from newburrow.core import url
from newburrow.core.problem import Problem
from newburrow.dialects.schema import NO_DIALECT, Dialect
from newburrow.formats.base import Job, Output
from newburrow.formats.output_parts import check_size
from newburrow.formats.rss.dialect_writer import DialectElements
from newburrow.formats.xml_output import BufferedFile, attribute, cdata, text
from newburrow.model import Comment, Media
from newburrow.model.bundle import Bundle
from newburrow.model.keys import bare

_SPACES = {
    "content": "http://purl.org/rss/1.0/modules/content/",
    "dc": "http://purl.org/dc/elements/1.1/",
    "thr": "http://purl.org/syndication/thread/1.0",
    "a": "http://www.w3.org/2005/Atom",
}


class RssOptions(Struct, frozen=True, forbid_unknown_fields=True):
    """The [write] table of a host that takes RSS."""

    file: str = "feed.xml"  # with a limit on the size of a file, numbered
    dialect: str = ""  # that the host reads, for what RSS itself cannot express


class RssWriter:
    """One feed, in one file or several."""

    def __init__(self, output: Output, job: Job) -> None:
        self.options = msgspec.convert(job.options, RssOptions)
        self.output, self.site, self.limit, self.menus = (
            output,
            job.site,
            job.file_bytes,
            job.menus,
        )
        self.speech = DialectElements(job.dialect or Dialect(name=NO_DIALECT, format="rss"))
        self.number, self.file = 0, None  # type: int, BufferedFile | None
        self.size = 0
        self.people: dict[str, str] = {}  # declared at the end of the file: key -> element
        self.topics: dict[str, str] = {}
        self.leads: dict[str, str] = {}  # pictures that stand for entries of this part
        self.written: set[str] = set()  # keys of such pictures of all parts, and of terms
        self.terms = job.terms

    # -- files -----------------------------------------------------------------------------------

    def _open(self) -> BufferedFile:
        self.number += 1
        stem, dot, extension = self.options.file.rpartition(".")
        if self.limit:
            name = f"{stem}-{self.number}{dot}{extension}"
        else:
            name = self.options.file
        self.file, self.size = BufferedFile(self.output.open(name)), 0
        self.people.clear()
        self.topics.clear()
        self.leads.clear()
        self._put(self._head(self.number))
        return self.file

    def _head(self, number: int) -> str:
        site, dialect = self.site, self.speech.dialect
        spaces = "".join(
            f" xmlns:{prefix}={attribute(uri)}"
            for prefix, uri in {**_SPACES, **dialect.namespaces}.items()
        )
        head = (
            f'<?xml version="1.0" encoding="UTF-8"?>\n<rss version="2.0"{spaces}><channel>\n'
            f"<title>{text(site.title)}</title>\n<link>{text(site.address)}</link>\n"
            f"<description>{text(site.description)}</description>\n<generator>New Burrow</generator>\n"
        )
        if site.language:
            head += f"<language>{text(site.language)}</language>\n"
        zone = self.speech.element(dialect.site.zone, site.zone)
        head += zone or ""
        if number == 1:
            head += self.speech.element(dialect.site.front_page, bare(site.front_page)) or ""
            head += self.speech.menus(self.menus)
        return head

    def _put(self, piece: str) -> None:
        assert self.file is not None
        self.file.put(piece)
        self.size += len(piece.encode("utf-8", "replace"))

    def _close(self) -> None:
        if self.file:
            self._put(
                "".join(
                    (
                        *self.people.values(),
                        *self.topics.values(),
                        *self.leads.values(),
                        "</channel></rss>\n",
                    )
                )
            )
            self.file.close()
            self.file = None

    def _item(
        self, item: str, people: dict[str, str], topics: dict[str, str], leads: dict[str, str]
    ) -> None:
        """Put an item, with what it needs declared, into this file or the next. Raises Refused if it fits into none."""
        needed = (item, *people.values(), *topics.values(), *leads.values())
        new = sum(len(piece.encode()) for piece in needed) + 64
        if self.limit:
            check_size(len(self._head(self.number + 1).encode()) + new, self.limit)
        declared = sum(
            len(piece.encode())
            for piece in (*self.people.values(), *self.topics.values(), *self.leads.values())
        )
        if self.file and self.limit and self.size + declared + new > self.limit:
            self._close()
        if self.file is None:
            self._open()
        self.people |= people
        self.topics |= topics
        self.leads |= leads
        self.written.update(leads, topics)
        self._put(item)

    # -- records ---------------------------------------------------------------------------------

    def entry(self, bundle: Bundle) -> Iterable[Problem]:
        """One item, with its comments in it."""
        entry, speech = bundle.entry, self.speech
        guid = entry.guid or entry.permalink or bundle.new_address
        pieces = [
            f"<item>\n<title>{text(entry.title)}</title>\n<link>{text(bundle.new_address)}</link>\n"
            f'<guid isPermaLink="false">{text(guid)}</guid>\n'
        ]
        if entry.published:
            pieces.append(f"<pubDate>{_mail_date(entry.published)}</pubDate>\n")
        pieces += [
            f"<dc:creator>{text(speech.author_name(author))}</dc:creator>\n"
            for author in bundle.authors
        ]
        pieces += [speech.category(term) for term in bundle.terms]
        pieces += [_enclosure(media) for media in bundle.enclosures]
        if entry.summary:
            pieces.append(f"<description>{cdata(entry.summary)}</description>\n")
        pieces.append(f"<content:encoded>{cdata(entry.body.text)}</content:encoded>\n")
        own, dropped = speech.facts(entry, bundle)
        pieces += [own, speech.comments(bundle.comments), "</item>\n"]
        if speech.dialect.comment is None or not speech.dialect.comment.element:
            pieces += [_reply(comment, guid, bundle) for comment in bundle.comments]
            dropped += _not_in_a_reply(bundle.comments)
        people = {
            author.key: made for author in bundle.authors if (made := speech.author(author))
        }
        topics = {term.key: made for term in bundle.terms if (made := speech.term(term))}
        self._item("".join(pieces), people, topics, self._lead(bundle))
        if dropped:
            message = f"The host's RSS has no place for: {', '.join(dropped)}."
            advice = "Set it by hand on the new host."
            yield Problem.about(entry, "dropped", message=message, advice=advice)

    def _lead(self, bundle: Bundle) -> dict[str, str]:
        """The item of the picture that stands for an entry: a host that reads part by part must find both in one."""
        lead = bundle.lead_picture
        if self.limit and lead and lead.key and (made := self.speech.media(lead)):
            return {lead.key: made}
        return {}

    def media(self, media: Media) -> Iterable[Problem]:
        """An item that is a file, where the dialect has those."""
        if media.key in self.written:
            return
        item = self.speech.media(media)
        if item:
            self._item(item, {}, {}, {})
        elif media.alternative_text:
            message = "Plain RSS has no place for a file's alternative text."
            yield Problem.about(media, "dropped-detail", message=message)

    def finish(self) -> None:
        """Declare the terms that no entry has, and close the last file; a site without entries has one too."""
        for term in self.terms:
            if term.key not in self.written and (made := self.speech.term(term)):
                self._item("", {}, {term.key: made}, {})
        if self.number == 0:
            self._open()
        self._close()


def _mail_date(moment: datetime) -> str:
    """RFC 5322 section 3.3, as RSS 2.0 asks."""
    return format_datetime(moment)


def _enclosure(media: Media) -> str:
    kind = attribute(media.media_type or "application/octet-stream")
    return f'<enclosure url={attribute(media.address)} length="{media.size}" type={kind}/>\n'


def _not_in_a_reply(comments: Iterable[Comment]) -> list[str]:
    """What items in reply have no place for, by its name."""
    found = {
        f"{name} of a comment"
        for comment in comments
        for name, element_value in (
            ("e-mail address", comment.email),
            ("web address", comment.address),
            ("state", comment.status != "approved"),
            ("kind", comment.kind != "comment"),
            ("thread", comment.parent),
        )
        if element_value
    }
    return sorted(found)


def _reply(comment: Comment, guid: str, bundle: Bundle) -> str:
    """A comment as an item in reply to its entry (RFC 4685), where the dialect has no place for comments."""
    place = f"{bundle.new_address}#comment-{bare(comment.key)}"
    if comment.published:
        date = f"<pubDate>{_mail_date(comment.published)}</pubDate>\n"
    else:
        date = ""
    return (
        f"<item>\n<title>{text(comment.author_name or 'Comment')}</title>\n<link>{text(url.safe(place))}</link>\n"
        f'<guid isPermaLink="false">{text(place)}</guid>\n{date}<dc:creator>{text(comment.author_name)}</dc:creator>\n'
        f"<thr:in-reply-to ref={attribute(guid)} href={attribute(bundle.new_address)}/>\n"
        f"<content:encoded>{cdata(comment.body.text)}</content:encoded>\n</item>\n"
    )
