"""The growers' wiki of the demo, built from `growers.toml`: the same pages, history and comments every time."""

from __future__ import annotations

import random
import tomllib
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

from msgspec import Struct

from newburrow.demo import pictures
from newburrow.model import Author, Body, Comment, Entry, Media, Revision, Site

_BEGIN = datetime(2014, 3, 1, 9, 0, tzinfo=UTC)
_DAYS = 4200  # over which the pages were written
_COMMENTS = 60


class WikiPage(Struct, frozen=True):
    """A page of the wiki with all that belongs to it."""

    entry: Entry  # in Creole; its key is the name of the page
    tags: tuple[str, ...]
    history: tuple[Revision, ...]
    comments: tuple[Comment, ...]
    files: tuple[tuple[Media, bytes], ...]


class GrowersWiki(Struct, frozen=True):
    """The whole wiki."""

    exports: dict[
        str, str
    ]  # the dialects that its exports are written in -> the markup of pages there
    host: str  # that the demo moves it to
    site: Site
    members: list[Author]
    pages: list[WikiPage]


def build() -> GrowersWiki:
    """The wiki of the demo."""
    data = tomllib.loads(Path(__file__).with_name("growers.toml").read_text("utf-8"))
    rows = list(_rows(data))
    below: dict[str, list[str]] = {row["name"]: [] for row in rows}
    for row in rows:
        if row.get("under"):
            below[row["under"]].append(row["name"])
    comments = _comments([row["name"] for row in rows], data["remarks"])
    logins = [member["login"] for member in data["members"]]
    pages = [
        _page(number, row, logins, below[row["name"]], comments.get(row["name"], []))
        for number, row in enumerate(rows)
    ]
    return GrowersWiki(
        exports=data["exports"],
        host=data["host"],
        site=Site(key="site", front_page="Home", **data["site"]),
        members=[Author(key=member["login"], **member) for member in data["members"]],
        pages=pages,
    )


def _rows(data: dict[str, Any]) -> Iterator[dict[str, Any]]:
    """All pages: those that are written out, and those of groups, which share a text."""
    yield from data["pages"]
    for group in data["groups"].values():
        for row in group["rows"]:
            text = group["text"]
            for name, value in row.items():
                if isinstance(value, str):
                    text = text.replace(f"{{{name}}}", value)
            yield {"under": group["under"], "tags": group["tags"], **row, "text": text}


def _page(
    number: int,
    row: dict[str, Any],
    logins: list[str],
    below: list[str],
    comments: list[Comment],
) -> WikiPage:
    name, chance = row["name"], random.Random(f"page {row['name']}")
    made = _BEGIN + timedelta(days=chance.randint(0, _DAYS - 900), hours=number % 9)
    versions = row.get("versions", 1 + number % 2)
    moments = [
        made + timedelta(days=chance.randint(1, 200) + 120 * nth, minutes=number)
        for nth in range(versions)
    ]
    moments = [made, *sorted(moments[1:])]
    text = (
        row["text"].strip().replace("<<below>>", "".join(f"\n* [[{child}]]" for child in below))
    )
    authors = [logins[(number + nth) % len(logins)] for nth in range(versions)]
    history = [
        Revision(
            key=f"{name}@{nth + 1}",
            entry=name,
            number=nth + 1,
            author=authors[nth],
            published=moments[nth],
            note=("began the page", "a little more", "tidied", "corrected")[min(nth, 3)],
            minor=nth % 4 == 2,
            body=Body(_earlier(text, nth, versions), "creole"),
        )
        for nth in range(versions - 1)
    ]
    entry = Entry(
        key=name,
        kind="wiki-page",
        title=name,
        published=moments[-1],
        authors=(authors[-1],),
        addresses=tuple(row.get("formerly", ())),
        parent=row.get("under", ""),
        body=Body(text, "creole"),
    )
    return WikiPage(
        entry, tuple(row.get("tags", ())), tuple(history), tuple(comments), _files(row)
    )


def _earlier(text: str, nth: int, versions: int) -> str:
    """What a page said in an earlier version: its beginning."""
    lines = text.split("\n")
    return "\n".join(lines[: max(1, len(lines) * (nth + 1) // versions)])


def _files(row: dict[str, Any]) -> tuple[tuple[Media, bytes], ...]:
    drawn = [(name, pictures.draw(motif, seed)) for name, motif, seed in row.get("files", ())]
    written = [(name, text.encode()) for name, text in row.get("texts", ())]
    return tuple(
        (
            Media(
                key=f"{row['name']}/{name}",
                path=f"{row['name']}/{name}",
                entry=row["name"],
                title=name.rpartition(".")[0].capitalize(),
            ),
            data,
        )
        for name, data in (*drawn, *written)
    )


def _comments(names: list[str], words: dict[str, list[str]]) -> dict[str, list[Comment]]:
    """Comments on pages, some of them answers."""
    chance = random.Random("remarks")
    commented = [name for name in names if name != "Menu" and "(talk)" not in name][:40]
    found: dict[str, list[Comment]] = {}
    for number in range(1, _COMMENTS + 1):
        name = chance.choice(commented)
        thread = found.setdefault(name, [])
        if thread and number % 3 == 0:
            parent = chance.choice(thread)
        else:
            parent = None
        if parent and parent.published:
            before = parent.published
        else:
            before = _BEGIN + timedelta(days=_DAYS)
        thread.append(
            Comment(
                key=str(number),
                entry=name,
                parent=parent.key if parent else "",
                author_name=chance.choice(words["names"]),
                published=before + timedelta(minutes=chance.randint(10, 9000)),
                body=Body(chance.choice(words["answers" if parent else "says"]), "creole"),
            )
        )
    return found
