"""Making a move folder: the store filled, every decision written down with its proposed answer."""

from __future__ import annotations

import tempfile
from collections import Counter
from collections.abc import Iterator, Sequence
from itertools import islice
from pathlib import Path
from typing import Any

import tomlkit
from jinja2 import Environment, FileSystemLoader, StrictUndefined

from newburrow import address, csvfile, gathering, registry
from newburrow.convert import edits
from newburrow.convert.decisions import Choose
from newburrow.dialects.loader import is_starter
from newburrow.events import Listener, nobody
from newburrow.filling import dialects_of, filled_store
from newburrow.folder import AUTHOR_COLUMNS, AUTHORS, ENTRIES, MOVE, STORE, TERM_COLUMNS, TERMS, MoveFolder
from newburrow.formats.dialect import Dialect
from newburrow.hosts import loader as hosts
from newburrow.hosts.profile import Profile
from newburrow.journal import Journal
from newburrow.model import Author, Entry, Site, Term
from newburrow.problem import BurrowError, stop
from newburrow.store import Store

_STARTERS = 5  # titles of starter content named


def draft(
    paths: Sequence[Path],
    host_name: str,
    out: Path,
    dialect: str = "",
    listener: Listener = nobody,
    entries: bool = False,
) -> MoveFolder:
    """Make the move folder, or bring one up to date: what a person decided stays, what is new is added.

    With `entries` there is a table of all entries too.
    """
    host = hosts.load(host_name)
    exports = gathering.examine_all(paths, dialect)
    folder = MoveFolder.new(out)
    said: dict[str, Any] = {
        "paths": [folder.relative(path) for path in paths],
        "host_name": _kept(host_name, folder),
        "dialect": _kept(dialect, folder),
    }
    if folder.has(MOVE):
        _same_move(folder, said["paths"], said["host_name"])
    try:
        folder.claim(STORE)
        with filled_store(folder.path / STORE, exports, listener) as content:
            if not folder.has(MOVE):
                facts = _facts(content, host, dialects_of(exports))
                with folder.open(MOVE) as stream:
                    stream.write(_move_toml(facts | said).encode("utf-8"))
            _tables(folder, content)
            if entries or folder.has(ENTRIES):
                _entries(folder, content)
    except BurrowError:
        folder.abandon()
        raise
    return folder


def _kept(word: str, folder: MoveFolder) -> str:
    """A host or dialect as `move.toml` keeps it: a name as it is, a file relative to the folder."""
    return folder.relative(Path(word)) if word.endswith(".toml") else word


def _tables(folder: MoveFolder, content: Store) -> None:
    counts = _uses(content)
    authors = ((a.key, a.name, a.email, str(counts[f"author {a.key}"]), "keep", "") for a in content.all(Author))
    _table(folder, AUTHORS, AUTHOR_COLUMNS, folder.author_rows(), authors)
    terms = (
        (t.key, t.vocabulary, t.name, t.parent.partition("/")[2], str(counts[f"term {t.key}"]), "keep", "", "", "")
        for t in content.all(Term)
    )
    _table(folder, TERMS, TERM_COLUMNS, folder.term_rows(), terms)


def _entries(folder: MoveFolder, content: Store) -> None:
    """The table of entries: rows that stand there stay as they are. It is written anew beside itself, as it streams."""
    with tempfile.TemporaryDirectory(prefix="newburrow-") as name, Journal(Path(name) / "edits") as known:
        for line, row in folder.entry_rows():
            known.edit(row["entry"], line, row)
        names = {author.key: author.name for author in content.all(Author)}

        def rows() -> Iterator[tuple[str, ...]]:
            for entry in content.all(Entry):
                row = known.edit_of(entry.key)
                yield tuple(row[column] for column in edits.COLUMNS) if row else edits.cells(entry, names)
            for key, _line in known.edited():
                row = known.edit_of(key)
                if row and content.get(Entry, key) is None:
                    yield tuple(row[column] for column in edits.COLUMNS)

        with folder.claim(ENTRIES).open("wb") as stream:
            csvfile.write(stream, edits.COLUMNS, rows())


def _same_move(folder: MoveFolder, paths: list[str], host_name: str) -> None:
    decisions = folder.decisions()
    if decisions.new.host != host_name:
        raise stop(
            "another-move",
            f"The folder holds a move to {decisions.new.host}, not to {host_name}.",
            "Give another folder for --out.",
            folder.line_in_move(["new", "host"]),
        )
    if decisions.old.paths != paths:
        raise stop(
            "another-move",
            f"The folder holds a move of {', '.join(decisions.old.paths)}.",
            "Give another folder for --out, or change old.paths in its move.toml.",
            folder.line_in_move(["old", "paths"]),
        )


def _table(
    folder: MoveFolder,
    name: str,
    columns: tuple[str, ...],
    known: dict[str, tuple[str, ...]],
    proposed: Iterator[tuple[str, ...]],
) -> None:
    """Write a decision table: rows that a person may have changed stay as they are."""
    rows = {**{row[0]: known.get(row[0], row) for row in proposed}}
    if not known or set(rows) - set(known):
        with folder.claim(name).open("wb") as stream:
            csvfile.write(stream, columns, {**rows, **known}.values())


def _uses(content: Store) -> Counter[str]:
    """How many entries each author wrote and each term is on."""
    counts: Counter[str] = Counter()
    for entry in content.all(Entry):
        counts.update(f"author {key}" for key in set(entry.authors))
        counts.update(f"term {key}" for key in set(entry.terms))
    return counts


def _facts(content: Store, host: Profile, dialects: tuple[Dialect, ...]) -> dict[str, Any]:
    """What the template of move.toml shows."""
    entries, comments = content.states("entry"), content.states("comment")
    kinds = Counter({kind: sum(counts.values()) for kind, counts in entries.items()})
    states = _by_state(entries)
    starters = (
        entry.title or entry.slug
        for entry in content.all(Entry)
        if any(is_starter(dialect, entry.kind, entry.slug, entry.title) for dialect in dialects)
    )
    site = content.site()
    move_states = [state for state in Choose().states if states[state]]
    return {
        "site": site,
        "host": host,
        "kinds": _counted(kinds),
        "states": _counted(states),
        "comment_states": _counted(_by_state(comments)),
        "starters": ", ".join(islice(starters, _STARTERS)) or "none found",
        "move_kinds": [kind for kind in Choose().kinds if kinds[kind]] or ["post"],
        "move_states": move_states or ["published"],
        "changed_states": [state for state in move_states if state not in host.states.takes],
        "address": site.address if address.key(site.address) and not _unsaid(site) else "https://new-site.example/",
        "servers": list(registry.names(registry.SERVERS)),
        "recognised": [dialect.name for dialect in dialects],
    }


def _unsaid(site: Site) -> bool:
    """Whether the address is one that only stands for what the export does not say."""
    return "address" in site.extra


def _by_state(counts: dict[str, dict[str, int]]) -> Counter[str]:
    """Numbers by state, whatever the kind."""
    total: Counter[str] = Counter()
    for numbers in counts.values():
        total.update(numbers)
    return total


def _counted(counts: Counter[str]) -> str:
    return ", ".join(f"{number} {name}" for name, number in sorted(counts.items())) or "none"


def _move_toml(facts: dict[str, Any]) -> str:
    environment = Environment(
        loader=FileSystemLoader(Path(__file__).parent),
        undefined=StrictUndefined,
        keep_trailing_newline=True,
        autoescape=False,
    )
    environment.filters["toml"] = lambda value: tomlkit.string(" ".join(str(value).splitlines())).as_string()
    return environment.get_template("move.toml.j2").render(facts)
