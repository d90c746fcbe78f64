"""Atom 1.0 (RFC 4287): the writer.

Comments are entries in reply to something (RFC 4685), drafts carry `app:control` (RFC 5023 section 13.1),
files are media link entries (RFC 5023 section 9.6). What Atom itself cannot say (the kind of an entry,
named fields, a picture's alternative text) goes into elements of the host's own namespace; where the host
profile gives none, it is dropped and said.
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from datetime import datetime
from urllib.parse import quote

import msgspec
from msgspec import Struct

from newburrow.core import url
from newburrow.core.problem import Problem
from newburrow.formats.base import Job, Output
from newburrow.formats.output_parts import Parts
from newburrow.formats.xml_output import attribute, text
from newburrow.model import Author, Comment, Entry, Media, Site, Term
from newburrow.model.bundle import Bundle

ATOM = "http://www.w3.org/2005/Atom"
THREAD = "http://purl.org/syndication/thread/1.0"
APP = "http://www.w3.org/2007/app"

_IRI = re.compile(r"[A-Za-z][A-Za-z0-9+.-]*:\S+")
_MAIL = re.compile(r"\S+@\S+")
_NO_DATE = "1970-01-01T00:00:00Z"


class AtomOptions(Struct, frozen=True, forbid_unknown_fields=True):
    """The [write] table of a host that takes Atom."""

    file: str = "entries.atom"
    namespace: str = ""  # of the host's own elements: kind, state, parent, position, field


def date(value: datetime) -> str:
    """RFC 3339, as RFC 4287 section 3.3 asks."""
    return value.isoformat().replace("+00:00", "Z")


def entry_id(entry: Entry, site: Site) -> str:
    """The lasting identifier of an entry: the old host's, which a move must not change (RFC 4287 4.2.6)."""
    for known in (entry.guid, entry.permalink):
        if known and _IRI.fullmatch(known):
            return url.as_iri(known)
    return url.as_iri(f"{site.address}#entry-{quote(entry.key)}")


def _quoted(key: str) -> str:
    # most are numbers, and quoting takes long
    if key.isalnum() and key.isascii():
        return key
    return quote(key)


class AtomWriter:
    """One Atom document being written."""

    def __init__(self, output: Output, job: Job) -> None:
        self.options = msgspec.convert(job.options, AtomOptions)
        self.site, self.updated = job.site, job.updated or _NO_DATE
        self._parts = Parts(output, self.options.file, job.file_bytes, self._head, "</feed>\n")
        self._pieces: list[str] = []  # of the entry that is being made
        self._put = self._pieces.append

    def _write_pieces(self) -> None:
        """Write what was made; an entry goes into one part with its comments."""
        made = "".join(self._pieces)
        self._pieces.clear()
        self._parts.put(made)

    def _head(self, _number: int) -> str:
        site, own = self.site, self.options.namespace
        spaces = f' xmlns:thr="{THREAD}" xmlns:app="{APP}"' + (
            f" xmlns:x={attribute(own)}" if own else ""
        )
        if site.language:
            language = f" xml:lang={attribute(site.language)}"
        else:
            language = ""
        head = (
            f'<?xml version="1.0" encoding="UTF-8"?>\n<feed xmlns="{ATOM}"{spaces}{language}>\n'
            f"<id>{text(url.as_iri(site.address))}</id>\n<title>{text(site.title)}</title>\n"
        )
        if site.description:
            head += f"<subtitle>{text(site.description)}</subtitle>\n"
        return head + (
            f'<updated>{self.updated}</updated>\n<link rel="alternate" href={attribute(site.address)}/>\n'
            "<generator>New Burrow</generator>\n"
        )

    def entry(self, bundle: Bundle) -> Iterable[Problem]:
        """One entry element, then one for each comment."""
        entry = bundle.entry
        identifier = entry_id(entry, self.site)
        if entry.language:
            language = f" xml:lang={attribute(entry.language)}"
        else:
            language = ""
        self._put(
            f"<entry{language}>\n<id>{text(identifier)}</id>\n<title>{text(entry.title)}</title>\n"
        )
        self._dates(entry.published, entry.updated)
        for author in bundle.authors or (Author(key="", name=self.site.title or "unknown"),):
            self._person(author.name, author.email, author.address)
        self._put(
            f'<link rel="alternate" type="text/html" href={attribute(bundle.new_address)}/>\n'
        )
        if bundle.comments:
            self._put(
                f'<link rel="replies" thr:count="{len(bundle.comments)}" '
                f"href={attribute(bundle.new_address + '#comments')}/>\n"
            )
        if bundle.lead_picture:
            self._enclosure(bundle.lead_picture)
        for media in bundle.enclosures:
            self._enclosure(media)
        for term in bundle.terms:
            self._category(term)
        if entry.summary:
            self._put(f'<summary type="html">{text(entry.summary)}</summary>\n')
        self._put(f'<content type="html">{text(entry.body.text)}</content>\n')
        problems = self._own_elements(entry)
        self._put("</entry>\n")
        ids = {
            comment.key: f"{identifier}#comment-{_quoted(comment.key)}"
            for comment in bundle.comments
        }
        for comment in bundle.comments:
            self._comment(comment, ids, identifier, bundle.new_address)
        self._write_pieces()
        return problems

    def _own_elements(self, entry: Entry) -> list[Problem]:
        """What Atom has no words for, in the host's namespace."""
        if entry.status != "published":
            # A plain reader knows no states: to it, what is not yet public must be a draft.
            self._control(entry.status != "scheduled" or not self.options.namespace)
        own = [f"<x:kind>{text(entry.kind)}</x:kind>\n"]
        if entry.status not in ("published", "draft"):
            own.append(f"<x:state>{text(entry.status)}</x:state>\n")
        if entry.parent:
            own.append(f"<x:parent>{text(entry.parent)}</x:parent>\n")
        if entry.position is not None:
            own.append(f"<x:position>{entry.position}</x:position>\n")
        own += [
            f"<x:field name={attribute(name)}>{text(value)}</x:field>\n"
            for name, value in entry.fields.items()
        ]
        if self.options.namespace:
            self._put("".join(own))
            return []
        dropped = [
            name
            for name, written_value in (
                ("kind", entry.kind != "post"),
                ("parent", entry.parent),
                ("position", entry.position is not None),
                *((f"field {name}", True) for name in entry.fields),
            )
            if written_value
        ]
        if dropped:
            return [
                Problem.about(
                    entry,
                    "dropped",
                    message=f"Plain Atom has no place for: {', '.join(dropped)}.",
                    advice="Set it by hand on the new host.",
                )
            ]
        return []

    def _comment(self, comment: Comment, ids: dict[str, str], entry: str, page: str) -> None:
        answers = ids.get(comment.parent, entry)
        self._put(
            f"<entry>\n<id>{text(ids[comment.key])}</id>\n<title>{text(comment.author_name or 'Comment')}</title>\n"
        )
        self._dates(comment.published, None)
        self._person(comment.author_name or "anonymous", comment.email, comment.address)
        self._put(
            f'<thr:in-reply-to ref={attribute(answers)} href={attribute(page)} type="text/html"/>\n'
            f'<content type="html">{text(comment.body.text)}</content>\n'
        )
        if comment.status != "approved":
            self._control(True)
        if self.options.namespace:
            self._put(f"<x:kind>{text(comment.kind)}</x:kind>\n")
        self._put("</entry>\n")

    def media(self, media: Media) -> Iterable[Problem]:
        """A media link entry: `content` points to the file, the summary is the caption."""
        self._put(
            f"<entry>\n<id>{text(url.as_iri(media.address))}</id>\n<title>{text(media.title)}</title>\n"
            f"<updated>{self.updated}</updated>\n"
        )
        self._person(self.site.title or "unknown", "", "")
        self._put(
            f'<link rel="alternate" type={attribute(media.media_type)} href={attribute(media.address)}/>\n'
            f"<summary>{text(media.caption)}</summary>\n"
            f"<content type={attribute(media.media_type)} src={attribute(media.path)}/>\n"
        )
        if self.options.namespace:
            self._put("<x:kind>media</x:kind>\n")
            if media.alternative_text:
                self._put(
                    f'<x:field name="alternative-text">{text(media.alternative_text)}</x:field>\n'
                )
        self._put("</entry>\n")
        self._write_pieces()
        if media.alternative_text and not self.options.namespace:
            return [
                Problem.about(
                    media,
                    "dropped-detail",
                    message="Plain Atom has no place for the alternative text of a file.",
                )
            ]
        return []

    def finish(self) -> None:
        """Close the feed and the file."""
        self._parts.close()

    def _dates(self, published: datetime | None, updated: datetime | None) -> None:
        if published:
            first = date(published)
        else:
            first = ""
        if updated:
            last = date(updated)
        else:
            last = first or self.updated
        self._put(
            (f"<published>{first}</published>\n" if first else "")
            + f"<updated>{last}</updated>\n"
        )

    def _person(self, name: str, email: str, uri: str) -> None:
        if _MAIL.fullmatch(email):
            mail = f"<email>{text(email)}</email>"
        else:
            mail = ""
        if uri:
            page = f"<uri>{text(url.as_iri(uri))}</uri>"
        else:
            page = ""
        self._put(f"<author><name>{text(name)}</name>{page}{mail}</author>\n")

    def _category(self, term: Term) -> None:
        self._put(f"<category term={attribute(term.name)}/>\n")

    def _enclosure(self, media: Media) -> None:
        self._put(
            f'<link rel="enclosure" type={attribute(media.media_type)} length="{media.size}" '
            f"href={attribute(media.address)}/>\n"
        )

    def _control(self, draft: bool) -> None:
        self._put(
            f"<app:control><app:draft>{'yes' if draft else 'no'}</app:draft></app:control>\n"
        )
