"""A site as HTML pages: the writer. Each entry is a page by the template of the host, at the path of its address.

What no page holds goes into pages of its own: `wiki.html` has the facts of the site and its menu, `people.html`
the authors, `labels.html` the terms, `files.html` the facts of the files.
"""

from __future__ import annotations

import hashlib
import html
import re
from collections.abc import Iterable
from typing import Any, BinaryIO

import msgspec
from msgspec import Struct
from msgspec.structs import asdict

from newburrow.core import url
from newburrow.core.dates import iso
from newburrow.core.problem import Problem
from newburrow.core.template import TemplateFailed, names_in, rendered
from newburrow.formats.base import Job, Output, Refused
from newburrow.formats.output_parts import check_size
from newburrow.formats.template_facts import OF_ENTRY, unsaid
from newburrow.model import Author, Comment, Media, MenuItem, Term
from newburrow.model.bundle import Bundle

_NOT_IN_FILES = re.compile(r'[:*"<>|?\\\x00-\x1f]')
_ELSEWHERE = ("parent",)  # facts of an entry that its trail says
_LONGEST_NAME = 120  # bytes of one step of a path


class HtmlOptions(Struct, frozen=True, forbid_unknown_fields=True):
    """The [write] table of a host that takes HTML pages."""

    templates: str  # a folder beside the host profile, with KIND.html.j2 for each kind
    folder: str = "pages"  # where the pages go
    below: str = ""  # the path of addresses for which that folder stands
    zip: str = ""  # name of the zip in which all of it is handed over; empty: a folder


class HtmlWriter:
    """One site as HTML pages."""

    def __init__(self, output: Output, job: Job) -> None:
        self.options = msgspec.convert(job.options, HtmlOptions)
        self.output, self.job, self.limit = output, job, job.file_bytes
        self._lists: dict[str, BinaryIO] = {}  # pages that hold a list, while they are written
        self._listed: set[str] = set()  # authors and terms, which are few
        self._used = {
            kind: {*names_in(text), *_ELSEWHERE} for kind, text in job.templates.items()
        }
        self._unused = {term.key: term for term in job.terms}  # until a page has them
        self._site()

    def entry(self, bundle: Bundle) -> Iterable[Problem]:
        """The page of one entry, with its comments. Raises Refused where the template gives nothing."""
        entry = bundle.entry
        try:
            facts, template = self._facts(bundle), self.job.templates[entry.kind]
            made = rendered(template, facts)
        except TemplateFailed as error:
            advice = "Correct the template in the folder of the host profile."
            raise Refused(f"the template of {entry.kind} fails: {error}", advice) from None
        data = made.encode("utf-8", "replace")
        check_size(len(data), self.limit)
        # `/pear/` and `/pear.html` would be the same file
        name = self.output.free_name(f"{self.options.folder}/{self._path(bundle.new_address)}")
        with self.output.open(name) as stream:
            stream.write(data)
        for author in bundle.authors:
            self._list_once("people", author.name, _member(author))
        for term in bundle.terms:
            self._unused.pop(term.key, None)
            if term.description or term.slug != term.name:
                self._list_once("labels", term.key, _label(term))
        return unsaid(facts, OF_ENTRY, self._used[entry.kind], ("entry", entry.key))

    def media(self, media: Media) -> Iterable[Problem]:
        """A row of `files.html` for a file."""
        self._list("files", _file(media))
        return ()

    def finish(self) -> None:
        """List the terms that no page has, and close the pages that hold lists."""
        for term in self._unused.values():
            self._list("labels", _label(term))
        for name, stream in self._lists.items():
            stream.write(_END[name].encode())
            stream.close()

    def _facts(self, bundle: Bundle) -> dict[str, Any]:
        """What a template can show of an entry; bodies are HTML."""
        from markupsafe import Markup

        entry = bundle.entry
        comments = [
            {
                **asdict(comment),
                "id": _bare(comment, entry.key),
                "parent": comment.parent and _bare_key(comment.parent, entry.key),
                "published": iso(comment.published),
                "body": Markup(comment.body.text),
            }
            for comment in bundle.comments
        ]
        return {
            **asdict(entry),
            "id": entry.key,
            "address": bundle.new_address,
            "language": entry.language or self.job.site.language,
            "published": iso(entry.published),
            "updated": iso(entry.updated),
            "authors": [asdict(author) for author in bundle.authors],
            "terms": [asdict(term) for term in bundle.terms],
            "fields": [{"name": name, "value": value} for name, value in entry.fields.items()],
            "body": Markup(entry.body.text),
            "trail": [asdict(above) for above in bundle.trail],
            "comments": comments,
            "enclosures": [asdict(file) for file in bundle.enclosures],
            "lead_picture": asdict(bundle.lead_picture) if bundle.lead_picture else None,
            "site": asdict(self.job.site),
        }

    def _path(self, new: str) -> str:
        """Where a page lies: at the path of its address, below what the addresses of all pages begin with."""
        path = url.path_of(new).removeprefix(
            f"{self.options.below}/" if self.options.below else ""
        )
        steps = [_safe(step) for step in path.split("/") if step]
        return ("/".join(steps).removesuffix(".html") or "index") + ".html"

    def _site(self) -> None:
        site = self.job.site
        facts = [
            ("description", site.description),
            ("time-zone", site.zone),
            ("front-page", site.front_page),
        ]
        metas = "".join(
            f'<meta name="{name}" content="{html.escape(value)}">\n'
            for name, value in facts
            if value
        )
        name = html.escape(site.title, quote=False)
        page = (
            f'<!DOCTYPE html>\n<html lang="{html.escape(site.language)}">\n<head>\n<meta charset="utf-8">\n'
            f"<title>{name}</title>\n"
            f'<link rel="canonical" href="{html.escape(site.address)}">\n{metas}</head>\n<body>\n'
            f'<h1 class="wiki-name">{name}</h1>\n{_menus(self.job.menus)}</body>\n</html>\n'
        )
        with self.output.open("wiki.html") as stream:
            stream.write(page.encode("utf-8", "replace"))

    def _list_once(self, name: str, key: str, row: str) -> None:
        if row and f"{name} {key}" not in self._listed:
            self._listed.add(f"{name} {key}")
            self._list(name, row)

    def _list(self, name: str, row: str) -> None:
        if name not in self._lists:
            self._lists[name] = self.output.open(f"{name}.html")
            self._lists[name].write(_BEGIN[name].encode())
        self._lists[name].write(f"{row}\n".encode("utf-8", "replace"))


def _safe(step: str) -> str:
    """One step of a path as every disk takes it; one that has to change ends in a mark of what it was."""
    safe = _NOT_IN_FILES.sub("-", step)
    if (
        step in (".", "..")
        or safe != step
        or len(step.encode("utf-8", "replace")) > _LONGEST_NAME
    ):
        mark = hashlib.sha256(step.encode("utf-8", "replace")).hexdigest()[:8]
        short = safe.encode("utf-8", "replace")[: _LONGEST_NAME - 10].decode("utf-8", "ignore")
        return f"{short.strip('.')}-{mark}"
    return step


_HEAD = (
    '<!DOCTYPE html>\n<html>\n<head>\n<meta charset="utf-8">\n<title>{0}</title>\n</head>\n'
    "<body>\n<h1>{0}</h1>\n{1}\n"
)
_BEGIN = {
    "people": _HEAD.format("People", "<ul>"),
    "labels": _HEAD.format("Labels", "<ul>"),
    "files": _HEAD.format("Files", "<table>"),
}
_END = {
    "people": "</ul>\n</body>\n</html>\n",
    "labels": "</ul>\n</body>\n</html>\n",
    "files": "</table>\n</body>\n</html>\n",
}


def _bare(comment: Comment, entry: str) -> str:
    return _bare_key(comment.key, entry)


def _bare_key(key: str, entry: str) -> str:
    """The id of a comment on its page, which is what links to it name."""
    return key.removeprefix(f"{entry}#").removeprefix("remark-")


def _span(name: str, text: str) -> str:
    if text:
        return f'<span class="{name}">{html.escape(text, quote=False)}</span>'
    return ""


def _link(name: str, address: str) -> str:
    if not address:
        return ""
    shown = html.escape(address)
    return f'<a class="{name}" href="{shown}">{shown}</a>'


def _member(author: Author) -> str:
    """A row of `people.html`; empty for an author of whom no more than the name is known."""
    if not (author.login or author.email or author.address or author.about):
        return ""
    if author.about:
        about = f'<div class="about">{author.about}</div>'
    else:
        about = ""
    return (
        f'<li class="member">{_span("name", author.name)} {_span("login", author.login)} '
        f"{_span('mail', author.email)} {_link('home', author.address)}{about}</li>"
    )


def _label(term: Term) -> str:
    """A row of `labels.html`."""
    if term.description:
        about = f'<div class="about">{term.description}</div>'
    else:
        about = ""
    return (
        f'<li class="label" id="{html.escape(term.slug)}" data-vocabulary="{html.escape(term.vocabulary)}">'
        f"{_span('name', term.name)}{about}</li>"
    )


def _file(media: Media) -> str:
    cells = "".join(
        f'<td class="{name}">{html.escape(text, quote=False)}</td>'
        for name, text in (
            ("page", media.entry),
            ("title", media.title),
            ("described", media.alternative_text),
            ("caption", media.caption),
        )
        if text
    )
    return (
        f'<tr class="file" data-type="{html.escape(media.media_type)}"><td>'
        f'<a href="{html.escape(media.address)}" data-path="{html.escape(media.path)}">'
        f"{html.escape(media.path.rpartition('/')[2], quote=False)}</a></td>{cells}</tr>"
    )


def _menus(items: Iterable[MenuItem]) -> str:
    """Each menu as nested lists, under its name."""
    menus: dict[str, list[MenuItem]] = {}
    for item in items:
        menus.setdefault(item.menu or "main", []).append(item)
    return "".join(_menu(name, lines) for name, lines in menus.items())


def _menu(name: str, items: Iterable[MenuItem]) -> str:
    under: dict[str, list[MenuItem]] = {}
    for item in items:
        under.setdefault(item.parent, []).append(item)

    def lines(parent: str) -> str:
        made = "".join(
            f'<li><a href="{html.escape(item.target)}">{html.escape(item.label, quote=False)}</a>'
            f"{lines(item.key)}</li>\n"
            for item in under.get(parent, [])
        )
        if made:
            return f"<ul>\n{made}</ul>\n"
        return ""

    found = lines("")
    if found:
        return f'<nav data-menu="{html.escape(name)}">\n{found}</nav>\n'
    return ""
