"""The demo site in the content model, built from `orchard.toml`: the same records every time."""

from __future__ import annotations

import posixpath
import random
import re
import tomllib
from collections.abc import Iterator
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any
from zoneinfo import ZoneInfo

import msgspec
from msgspec import Struct

from newburrow.demo import pictures
from newburrow.model import Author, Body, Comment, Entry, Media, MenuItem, Site, Term

_REFERENCE = re.compile(r"\{(abs|rel|id|num|pic|small|picid):([^}]+)\}")
_FIRST_YEAR = 2021
_FIRST_MONTH, _LAST_MONTH = (2021, 3), (2026, 10)
_COMMENTS = 150


class Picture(Struct, frozen=True):
    """A picture of the demo site with its bytes."""

    media: Media
    data: bytes


class Orchard(Struct, frozen=True):
    """The whole demo site."""

    dialect: str  # that its export is written in
    host: str  # that the demo moves it to
    site: Site
    authors: list[Author]
    terms: dict[str, Term]
    entries: list[tuple[Entry, list[Comment]]]
    pictures: list[Picture]
    lines: list[MenuItem]  # of the menus


def build() -> Orchard:
    """The demo site."""
    data = tomllib.loads(Path(__file__).with_name("orchard.toml").read_text("utf-8"))
    site = Site(key="site", **data["site"])
    drawn = _pictures(data["pictures"], site.address)
    rows = sorted(
        [*data["entries"], *_monthly(data["months"])],
        key=lambda row: datetime.fromisoformat(row["at"]),
    )
    writer = _ExportWriter(site, data["topics"], drawn, rows)
    entries = [writer.entry(row) for row in rows]
    comments = _comments(entries, data["readers"])
    return Orchard(
        dialect=data["export"],
        host=data["host"],
        site=site,
        authors=[Author(key=row["login"], **row) for row in data["authors"]],
        terms=_terms(data["topics"], data["marks"]),
        entries=[(entry, comments.get(entry.key, [])) for entry in entries],
        pictures=drawn,
        lines=_lines(data["lines"], {entry.slug: entry.key for entry in entries}),
    )


def _lines(rows: list[dict[str, str]], keys: dict[str, str]) -> list[MenuItem]:
    numbers = {row["words"]: f"line {number}" for number, row in enumerate(rows)}
    return [
        MenuItem(
            key=numbers[row["words"]],
            menu=row["board"],
            label=row["words"],
            target=keys.get(row["to"], row["to"]),
            parent=numbers.get(row.get("under", ""), ""),
        )
        for row in rows
    ]


def _pictures(motifs: dict[str, list[int]], site: str) -> list[Picture]:
    found = []
    seeds = [
        (f"{motif}-{seed:02}", motif, seed)
        for motif, all_seeds in motifs.items()
        for seed in all_seeds
    ]
    for number, (name, motif, seed) in enumerate([*seeds, ("lantern-again", "lantern", 11)]):
        path = f"{_FIRST_YEAR + seed % 6}/{name}.png"
        words = f"{motif.capitalize()} at Mistle Bank"
        media = Media(
            key=str(501 + number),
            address=f"{site}files/{path}",
            path=f"files/{path}",
            media_type="image/png",
            title=name,
            caption=words if seed % 4 == 0 else "",
            alternative_text="" if seed % 5 == 0 else words,
        )
        found.append(Picture(media, pictures.draw(motif, seed)))
    return found


def _terms(topics: list[dict[str, str]], marks: list[dict[str, str]]) -> dict[str, Term]:
    found = [
        Term(
            key=f"category/{row['slug']}",
            vocabulary="category",
            slug=row["slug"],
            name=row["name"],
            parent=f"category/{row['within']}" if "within" in row else "",
            description=row.get("about", ""),
        )
        for row in topics
    ]
    found += [
        Term(key=f"tag/{row['slug']}", vocabulary="tag", slug=row["slug"], name=row["name"])
        for row in marks
    ]
    return {term.key: term for term in found}


def _monthly(months: list[dict[str, Any]]) -> Iterator[dict[str, Any]]:
    """Two posts in three months, made of what the month has to say."""
    zone = ZoneInfo("Europe/London")
    authors = ("tamsin", "idris", "marta", "ben")
    used: dict[str, int] = {}
    for number in range(12 * 6):
        year, month = _FIRST_YEAR + number // 12, number % 12 + 1
        if number % 3 == 1 or not _FIRST_MONTH <= (year, month) <= _LAST_MONTH:
            continue
        chance = random.Random(f"month {number}")
        about = months[month - 1]
        title = about["titles"][year - _FIRST_YEAR]
        at = datetime(
            year,
            month,
            chance.randint(2, 27),
            chance.randint(7, 20),
            chance.choice((0, 15, 40)),
            tzinfo=zone,
        )
        names = [f"{about['picture']}-{n}" for n in range(4)]
        used[about["picture"]] = used.get(about["picture"], 0) + 1
        yield {
            "title": title,
            "slug": re.sub(r"[^a-z0-9]+", "-", title.lower()).strip("-"),
            "at": at.isoformat(),
            "author": authors[(number + month) % 4],
            "topic": about["topic"],
            "marks": about["marks"][: 1 + number % 2],
            "nth_lead": (about["picture"], used[about["picture"]]) if number % 4 else None,
            "paragraphs": chance.sample(about["paragraphs"], 3 - number % 2),
            "link": number,
            "names": names,
        }


class _ExportWriter:
    """Turns rows of the data file into entries."""

    def __init__(
        self,
        site: Site,
        topics: list[dict[str, str]],
        drawn: list[Picture],
        rows: list[dict[str, Any]],
    ) -> None:
        self.site, self.rows = site, rows
        self.pictures = {picture.media.title: picture.media for picture in drawn}
        self.topics = {row["slug"]: row.get("within", "") for row in topics}
        self.ids = {id(row): str(3 * number + 2) for number, row in enumerate(rows)}
        self.by_slug: dict[str, dict[str, Any]] = {}
        for row in rows:
            self.by_slug.setdefault(row["slug"], row)

    def address(self, row: dict[str, Any]) -> str:
        base = self.site.address.rstrip("/")
        if not row["slug"]:
            return f"{base}/?entry={self.ids[id(row)]}"
        if row.get("permalink"):
            return base + str(row["permalink"])
        if row.get("kind") == "page":
            return f"{base}/{row['parent'] + '/' if row.get('parent') else ''}{row['slug']}"
        return f"{base}/{datetime.fromisoformat(row['at']):%Y-%m-%d}/{row['slug']}"

    def entry(self, row: dict[str, Any]) -> Entry:
        key = self.ids[id(row)]
        lead = self._lead(row)
        if "body" in row:
            body = row["body"]
        else:
            body = self._monthly_body(row, lead)
        if row.get("parent"):
            parent = self.ids[id(self.by_slug[row["parent"]])]
        else:
            parent = ""
        if row.get("topic"):
            terms = [f"category/{row['topic']}"]
        else:
            terms = []
        if row.get("search"):
            fields = {"search-description": row["search"]}
        else:
            fields = {}
        return Entry(
            key=key,
            kind=row.get("kind", "post"),
            title=row["title"],
            slug=row["slug"],
            permalink=self.address(row),
            guid=f"{self.site.address}?entry={key}",
            status=row.get("state", "published"),
            addresses=tuple(
                self.site.address.rstrip("/") + path for path in row.get("formerly", ())
            ),
            published=datetime.fromisoformat(row["at"]),
            updated=datetime.fromisoformat(row["changed"]) if row.get("changed") else None,
            authors=(row["author"],),
            summary=row.get("summary", ""),
            body=Body(self._with_links(body, row)),
            terms=tuple(terms + [f"tag/{mark}" for mark in row.get("marks", ())]),
            lead_picture=lead.key if lead else "",
            parent=parent,
            position=row.get("position"),
            language=row.get("tongue", ""),
            fields=fields,
            extra={"weather": [row["weather"]]} if row.get("weather") else {},
        )

    def _lead(self, row: dict[str, Any]) -> Media | None:
        if row.get("lead"):
            return self.pictures[row["lead"]]
        if not row.get("nth_lead"):
            return None
        motif, nth = row["nth_lead"]
        names = sorted(name for name in self.pictures if name.startswith(f"{motif}-"))
        return self.pictures[names[nth % len(names)]]

    def _monthly_body(self, row: dict[str, Any], lead: Media | None) -> str:
        paragraphs = [f"<p>{text}</p>" for text in row["paragraphs"]]
        if lead and row["link"] % 5 == 0:  # the lead picture is in the body too
            paragraphs.insert(
                1, f'<figure><img src="{lead.address}" alt="{lead.alternative_text}"></figure>'
            )
        earlier = [
            earlier_row
            for earlier_row in self.rows
            if earlier_row["at"] < row["at"] and "paragraphs" in earlier_row
        ]
        if earlier:
            other = earlier[row["link"] * 7 % len(earlier)]
            style = ("abs", "rel", "id")[row["link"] % 3]
            paragraphs.append(
                f'<p>Earlier: <a href="{{{style}:{other["slug"]}}}">{other["title"]}</a>.</p>'
            )
        return "\n".join(paragraphs)

    def _with_links(self, body: str, row: dict[str, Any]) -> str:
        def address(found: re.Match[str]) -> str:
            style, name = found.groups()
            if style in ("pic", "small", "picid"):
                media = self.pictures[name]
                small = media.address.replace("/files/", "/files/sized/320/")
                return {"pic": media.address, "small": small, "picid": media.key}[style]
            target = self.by_slug[name]
            number = self.ids[id(target)]
            if style == "rel":
                return self._relative(self.address(row), self.address(target))
            return {"abs": self.address(target), "id": f"/?entry={number}", "num": number}[
                style
            ]

        return _REFERENCE.sub(address, body.strip())

    def _relative(self, base: str, target: str) -> str:
        start, end = (url.removeprefix(self.site.address.rstrip("/")) for url in (base, target))
        if start.endswith("/"):
            folder = start
        else:
            folder = posixpath.dirname(start)
        if "?" in folder:
            return end
        path = posixpath.relpath(end, folder)
        if end.endswith("/"):
            return path + "/"
        return path


def _comments(entries: list[Entry], readers: dict[str, list[str]]) -> dict[str, list[Comment]]:
    """Comments in threads, _COMMENTS in all, with some spam, some waiting and some pingbacks among them."""
    chance = random.Random("comments")
    open_to_all = [
        entry for entry in entries if entry.kind == "post" and entry.status == "published"
    ]
    found: dict[str, list[Comment]] = {}
    for number in range(1, _COMMENTS + 1):
        entry = chance.choice(open_to_all)
        thread = found.setdefault(entry.key, [])
        if thread and number % 3:
            parent = chance.choice(thread)
        else:
            parent = None
        thread.append(_comment(number, entry, parent, readers, chance))
    return found


def _comment(
    number: int,
    entry: Entry,
    parent: Comment | None,
    readers: dict[str, list[str]],
    chance: random.Random,
) -> Comment:
    assert entry.published
    if parent and parent.published:
        before = parent.published
    else:
        before = entry.published
    name = chance.choice(readers["names"])
    comment = Comment(
        key=str(number),
        entry=entry.key,
        parent=parent.key if parent else "",
        author_name=name,
        email=f"{name.split()[0].lower()}@reader.example" if number % 2 else "",
        published=before + timedelta(minutes=chance.randint(9, 4000)),
        body=Body(chance.choice(readers["answers" if parent else "says"]), "text"),
    )
    if number % 40 == 9:
        return msgspec.structs.replace(
            comment,
            status="spam",
            author_name="Cheap Ladders",
            email="",
            address="https://ladders.example/",
            body=Body("Best ladders! Buy now!", "text"),
        )
    if number % 40 == 21:
        return msgspec.structs.replace(comment, status="pending")
    if number % 40 == 33:
        return msgspec.structs.replace(
            comment,
            kind="pingback",
            author_name="Fenside Growers",
            email="",
            parent="",
            address="https://fenside.example/links/",
            body=Body("We wrote about this on our own page.", "text"),
        )
    return comment
