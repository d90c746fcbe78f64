"""Writing the growers' wiki as the exports of two stand-in platforms: Creole pages, and HTML pages in a tree."""

from __future__ import annotations

import json
import posixpath
import re
import zipfile
from collections.abc import Callable
from pathlib import Path
from typing import Any
from urllib.parse import quote

from jinja2 import Environment, FileSystemLoader, StrictUndefined
from markupsafe import Markup

from newburrow.core.dates import iso
from newburrow.demo.export import add
from newburrow.demo.growers import GrowersWiki, WikiPage
from newburrow.markup.base import MISSING_PAGE, section_id
from newburrow.markup.creole import Creole

_NOT_IN_FILES = re.compile(r'[#?:*"<>|/%]')
_MACRO = re.compile(r"<<(\w+)(?: page=\"([^\"]*)\")?>>")


def write(wiki: GrowersWiki, dialect: str, path: Path) -> None:
    """Write the export of the wiki in a dialect as a zip; the same bytes every time."""
    with zipfile.ZipFile(path, "w") as archive:
        if wiki.exports[dialect] == "creole":
            _write_creole(wiki, archive)
        else:
            _write_pages(wiki, dialect, archive)


def _put(archive: zipfile.ZipFile, name: str, text: str) -> None:
    add(archive, name, text.encode("utf-8"), zipfile.ZIP_DEFLATED)


# -- Creole pages --------------------------------------------------------------------------------


def _write_creole(wiki: GrowersWiki, archive: zipfile.ZipFile) -> None:
    site = {
        name: getattr(wiki.site, name)
        for name in ("title", "address", "language", "zone", "description", "front_page")
    }
    _put(archive, "site.json", json.dumps(site, indent=1))
    for page in wiki.pages:
        name = _encoded(page.entry.key)
        facts = {
            "authors": list(page.entry.authors),
            "date": iso(page.entry.published),
            "formerly": [_pool(old) for old in page.entry.addresses],
        }
        _put(archive, f"pages/{name}.creole", _front(facts) + page.entry.body.text + "\n")
        for revision in page.history:
            facts = {
                "page": page.entry.key,
                "author": revision.author,
                "date": iso(revision.published),
                "note": revision.note,
                "minor": "yes" if revision.minor else "",
            }
            text = _front(facts) + revision.body.text + "\n"
            _put(archive, f"versions/{name}/{revision.number}.creole", text)
        for media, data in page.files:
            add(archive, f"shelf/{media.path}", data, zipfile.ZIP_STORED)
    _put(archive, "facts/comments.jsonl", "".join(map(_comments, wiki.pages)))
    tagged = [{"page": page.entry.key, "tags": page.tags} for page in wiki.pages if page.tags]
    _put(archive, "facts/tagged.jsonl", "".join(map(_line, tagged)))
    members = [
        {"name": member.name, "login": member.login, "about": member.about}
        for member in wiki.members
    ]
    _put(archive, "facts/authors.jsonl", "".join(map(_line, members)))


def _comments(page: WikiPage) -> str:
    return "".join(
        _line(
            {
                "id": comment.key,
                "entry": page.entry.key,
                "parent": comment.parent,
                "name": comment.author_name,
                "date": iso(comment.published),
                "text": comment.body.text,
            }
        )
        for comment in page.comments
    )


def _line(facts: dict[str, Any]) -> str:
    return (
        json.dumps({name: value for name, value in facts.items() if value}, ensure_ascii=False)
        + "\n"
    )


def _front(facts: dict[str, Any]) -> str:
    lines = [
        f"{name}: {json.dumps(value, ensure_ascii=False)}\n"
        for name, value in facts.items()
        if value
    ]
    return f"---\n{''.join(lines)}---\n\n"


def _encoded(name: str) -> str:
    return _NOT_IN_FILES.sub(lambda sign: f"%{ord(sign[0]):02X}", name)


def _pool(name: str) -> str:
    return f"/pool/{quote(name, safe='')}"


# -- HTML pages in a tree ------------------------------------------------------------------------


def _write_pages(wiki: GrowersWiki, dialect: str, archive: zipfile.ZipFile) -> None:
    environment = Environment(
        loader=FileSystemLoader(Path(__file__).parent),
        autoescape=True,
        undefined=StrictUndefined,
        keep_trailing_newline=True,
    )
    template = environment.get_template(f"{dialect}.html.j2")
    places = _places(wiki)
    by_name = {page.entry.key: page for page in wiki.pages}
    names = {member.key: member.name for member in wiki.members}
    for page in wiki.pages:
        place = places[page.entry.key]

        def relative(target: str, place: str = place) -> str:
            return quote(posixpath.relpath(target, posixpath.dirname(place)))

        shown = _Shown(page, by_name, places, relative)
        _put(
            archive,
            place,
            template.render(
                site=wiki.site,
                page=page,
                names=names,
                menu=[
                    (name, relative(places[name]))
                    for name in ("Home", "Apples", "Pears", "Tools")
                ],
                trail=[(name, relative(places[name])) for name in _above(page, by_name)],
                body=Markup(shown.body(page.entry.body.text, 0)),
                files=[(media, relative(_file(media.path))) for media, _data in page.files],
                remark=lambda text, shown=shown: Markup(shown.body(text, 0)),
            ),
        )
        for media, data in page.files:
            add(archive, _file(media.path), data, zipfile.ZIP_STORED)
    _put(
        archive,
        "wiki.html",
        environment.get_template(f"{dialect}-facts.html.j2").render(site=wiki.site),
    )
    _put(
        archive,
        "people.html",
        environment.get_template(f"{dialect}-people.html.j2").render(members=wiki.members),
    )
    _put(archive, "layout/wiki.css", "body { max-width: 60em }\n")


def _file(path: str) -> str:
    folder, _slash, name = path.rpartition("/")
    return f"files/{_slug(folder)}/{name}"


def _slug(name: str) -> str:
    return re.sub(r"[^\w'.()-]+", "-", name).strip("-")


def _above(page: WikiPage, by_name: dict[str, WikiPage]) -> list[str]:
    found: list[str] = []
    while page.entry.parent:
        found.append(page.entry.parent)
        page = by_name[page.entry.parent]
    return found[::-1]


def _places(wiki: GrowersWiki) -> dict[str, str]:
    """Where each page lies: one with others under it is the index of a folder."""
    by_name = {page.entry.key: page for page in wiki.pages}
    parents = {page.entry.parent for page in wiki.pages}
    found, taken = {}, set[str]()
    for page in wiki.pages:
        steps = [
            _slug(name) for name in (*_above(page, by_name), page.entry.key) if name != "Home"
        ]
        path = "/".join(["w", *steps])
        if page.entry.key in parents:
            path += "/index"
        if path in taken:
            path += "-2"
        taken.add(path)
        found[page.entry.key] = f"{path}.html"
    return found


class _Shown:
    """Turns the Creole of a page into the HTML that the other platform exports."""

    def __init__(
        self,
        page: WikiPage,
        by_name: dict[str, WikiPage],
        places: dict[str, str],
        relative: Callable[[str], str],
    ) -> None:
        self.page, self.by_name, self.places, self.relative = page, by_name, places, relative
        self.former = {
            old: other.entry.key for other in by_name.values() for old in other.entry.addresses
        }

    def body(self, text: str, depth: int) -> str:
        made = Creole().to_html(_MACRO.sub("", text), self)
        included = [name for macro, name in _MACRO.findall(text) if macro == "bring"]
        for name in included if depth < 2 else ():
            other = _Shown(self.by_name[name], self.by_name, self.places, self.relative)
            made += other.body(self.by_name[name].entry.body.text, depth + 1)
        return made.replace(
            f'class="{MISSING_PAGE}" href="', 'class="missing-page" href="unwritten.html?name='
        )

    def link(self, target: str) -> str | None:
        """The relative address of what a link names."""
        name, mark, section = target.partition("#")
        name = self.former.get(target, target)
        if name in self.places:
            return self.relative(self.places[name])
        if (short := target.partition("#")[0]) in self.places:
            return f"{self.relative(self.places[short])}{mark}{section_id(section)}"
        if found := self._file(target):
            return found
        if target.startswith("fenside:"):
            return f"https://fenside.example/wiki/{target.partition(':')[2]}"
        return None

    def file(self, name: str) -> str:
        """The relative address of a file of the page."""
        return self._file(name) or name

    def _file(self, name: str) -> str:
        for media, _data in self.page.files:
            if media.path.endswith(f"/{name}"):
                return self.relative(_file(media.path))
        return ""
