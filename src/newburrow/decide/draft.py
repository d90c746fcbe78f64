"""Making a move folder: the store filled, every decision written down with its proposed answer."""

from __future__ import annotations

import re
import tempfile
from collections import Counter
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Any

import tomlkit
from jinja2 import Environment, FileSystemLoader, StrictUndefined
from msgspec import Struct
from msgspec.structs import astuple, replace

from newburrow.core import csvfile
from newburrow.core.problem import BurrowError, refusal
from newburrow.core.progress import Listener, nobody
from newburrow.decide import (
    author_proposals,
    entry_edits,
    held_paths,
    proposals,
    questions,
)
from newburrow.decide.author_proposals import AuthorProposal
from newburrow.decide.likeness import UNFIT, UNFIT_COLUMNS, Likeness
from newburrow.decide.move_folder import (
    AUTHOR_COLUMNS,
    AUTHORS,
    ENTRIES,
    MOVE,
    STORE,
    TERM_COLUMNS,
    TERMS,
    MoveFolder,
)
from newburrow.decide.questions import Ask
from newburrow.formats.exports import several
from newburrow.formats.exports.export import Export, ExportRequest
from newburrow.hosts import loader as hosts
from newburrow.hosts.profile import Profile
from newburrow.model import Author, Entry, Term
from newburrow.store.build import dialects_of, filled_store
from newburrow.store.content_store import Store
from newburrow.store.journal.journal import Journal

_BARE_KEY = re.compile(r"[A-Za-z0-9_-]+")  # TOML 1.0: one that needs no quotes


class DraftRequest(Struct, frozen=True):
    """What is to be drafted."""

    exports: ExportRequest
    host: str  # a name or a file; empty: that of `like`
    entries: bool = False  # with a table of all entries
    holds: Sequence[Path] = ()  # what the new host has already
    like: Path | None = None  # the folder of an earlier move whose decisions are taken over


def draft(
    plan: DraftRequest,
    out: Path,
    listener: Listener = nobody,
    ask: Ask | None = None,
    jobs: int = 1,
) -> MoveFolder:
    """Make the move folder, or bring one up to date: what a person decided stays, what is new is added.

    `ask` is asked every open question, and answers with the words that a person gave; None takes what is proposed.
    """
    if plan.like:
        earlier = MoveFolder.existing(plan.like)
    else:
        earlier = None
    if earlier:
        plan = _like(plan, earlier)
    host = hosts.load(plan.host)
    held_paths.check(plan.holds, lambda path: several.examine_all(ExportRequest((path,))))
    exports = several.examine_all(plan.exports)
    folder = MoveFolder.new(out, [*plan.exports.paths, *plan.holds])
    try:
        with folder.locked():
            _fill(folder, _Drafting(plan, exports, host, earlier, listener, ask, jobs))
        several.keep_opened(plan.exports, exports)
    except BurrowError:
        folder.remove_if_empty()
        raise
    return folder


class _Drafting(Struct, frozen=True):
    """All that a draft is made of."""

    plan: DraftRequest
    exports: list[Export]
    host: Profile
    earlier: MoveFolder | None
    listener: Listener
    ask: Ask | None
    jobs: int


def _fill(folder: MoveFolder, made_of: _Drafting) -> None:
    """Write the decisions; nothing is left behind where that cannot be done."""
    plan, earlier = made_of.plan, made_of.earlier
    said: dict[str, Any] = {
        "paths": [folder.relative(path) for path in plan.exports.paths],
        "host_name": _name_in_folder(plan.host, folder),
        "dialect": _dialects_in_folder(plan.exports.dialects, folder),
        "old_address": plan.exports.site,
        "content": list(plan.exports.content),
        "reading_limits": plan.exports.limits.raised(),
        "holds": [folder.relative(path) for path in plan.holds],
    }
    if folder.has(MOVE) and earlier:
        raise refusal(
            "another-move",
            f"The folder {str(folder.path)!r} has decisions already; none were taken over.",
            "Give a new folder for --out.",
        )
    if folder.has(MOVE):
        _same_move(folder, said["paths"], said["host_name"])
    try:
        known = _kinds_before(folder)
        folder.claim(STORE)
        with filled_store(
            folder.path / STORE, made_of.exports, made_of.listener, made_of.jobs
        ) as content:
            proposed = proposals.facts(content, made_of.host, dialects_of(made_of.exports))
            if earlier:
                like = Likeness(earlier, made_of.host, content)
            else:
                like = None
            _decisions(folder, proposed | said, known, made_of.ask, like)
            _tables(folder, content, proposed["uses"], made_of.ask, like)
            if like and like.unfit:
                with folder.open(UNFIT) as stream:
                    csvfile.write(stream, UNFIT_COLUMNS, map(astuple, like.unfit))
            if plan.entries or folder.has(ENTRIES):
                _entries(folder, content)
    except BurrowError:
        folder.abandon()
        raise


def _like(plan: DraftRequest, earlier: MoveFolder) -> DraftRequest:
    """The request with what it leaves to the earlier move: its host and its dialects."""
    decisions = earlier.decisions()
    exports = plan.exports
    dialects = list(earlier.exports(decisions.old).dialects)
    if len(dialects) > 1 and len(dialects) != len(exports.paths):
        dialects = []
    named = exports.dialects or [name for name in dialects if name]
    return replace(
        plan,
        host=plan.host or earlier.name_or_path(decisions.new.host),
        exports=replace(exports, dialects=named),
    )


def _kinds_before(folder: MoveFolder) -> set[str]:
    """The kinds of entries in the store of an earlier draft."""
    if not folder.has(MOVE) or not folder.has(STORE):
        return set()
    with Store(folder.path / STORE) as content:
        if content.meta("fingerprint"):
            return set(content.states("entry"))
        return set()


def _decisions(
    folder: MoveFolder,
    proposed: dict[str, Any],
    known: set[str],
    ask: Ask | None,
    like: Likeness | None,
) -> None:
    """Write `move.toml`: anew, or with what is new in the export, or as a person answers."""
    fresh = not folder.has(MOVE)
    if fresh:
        text = _move_toml(proposed)
    else:
        text = (folder.path / MOVE).read_text("utf-8-sig")
    document = tomlkit.parse(text)
    if not fresh and known:
        new = [kind for kind in proposed["move_kinds"] if kind not in known]
        chosen = document.get("choose", {}).get("kinds", [])
        chosen.extend(kind for kind in new if kind not in chosen)
    if proposed["holds"] and not fresh:
        document.setdefault("new", {})["holds"] = proposed["holds"]
    if like:
        like.settings(document)
    if ask:
        for question in questions.questions(proposed):
            table, key = question.key
            document.setdefault(table, {})[key] = question.value(ask(question))
    made = tomlkit.dumps(document)
    if fresh or made != text:
        with folder.replacing(MOVE) as stream:
            stream.write(made.encode("utf-8"))


def _name_in_folder(word: str, folder: MoveFolder) -> str:
    """A host or dialect as `move.toml` keeps it: a name as it is, a file relative to the folder."""
    if word.endswith(".toml"):
        return folder.relative(Path(word))
    return word


def _dialects_in_folder(dialects: Sequence[str], folder: MoveFolder) -> str | list[str]:
    """The dialects as `move.toml` keeps them: one alone as a text."""
    names = [_name_in_folder(name, folder) for name in dialects]
    if len(names) < 2:
        return "".join(names)
    return names


def _tables(
    folder: MoveFolder,
    content: Store,
    counts: Counter[str],
    ask: Ask | None,
    like: Likeness | None,
) -> None:
    entries = {author.key: counts[f"author {author.key}"] for author in content.all(Author)}
    proposed = author_proposals.proposals(content.all(Author), entries)
    if like:
        decided = like.authors()
    else:
        decided = {}
    if like:
        decided_terms = like.terms()
    else:
        decided_terms = {}
    rows = []
    for author in content.all(Author):
        proposal = decided.get(author.key) or proposed[author.key]
        if (
            ask
            and author.key not in decided
            and proposal.action == "assign"
            and author.key not in folder.author_rows()
        ):
            question = questions.one_person(author, proposal)
            if question.value(ask(question)) != "yes":
                proposal = AuthorProposal("keep")
        row = (
            author.key,
            author.name,
            author.email,
            str(entries[author.key]),
            proposal.action,
            proposal.new_name,
            proposal.why,
        )
        rows.append(row)
    _table(folder, AUTHORS, AUTHOR_COLUMNS, folder.author_rows(), iter(rows))
    terms = (
        (
            t.key,
            t.vocabulary,
            t.name,
            t.parent.partition("/")[2],
            str(counts[f"term {t.key}"]),
            *decided_terms.get(t.key, ("keep", "", "", "")),
        )
        for t in content.all(Term)
    )
    _table(folder, TERMS, TERM_COLUMNS, folder.term_rows(), terms)


def _entries(folder: MoveFolder, content: Store) -> None:
    """The table of entries: existing rows stay as they are. A new one is streamed beside it and takes its place."""
    with (
        tempfile.TemporaryDirectory(prefix="newburrow-") as name,
        Journal(Path(name) / "edits") as known,
    ):
        for line, row in folder.entry_rows():
            known.edits.add(row["entry"], line, row)
        names = {author.key: author.name for author in content.all(Author)}

        def rows() -> Iterator[tuple[str, ...]]:
            for entry in content.all(Entry):
                row = known.edits.get(entry.key)
                yield (
                    tuple(row[column] for column in entry_edits.COLUMNS)
                    if row
                    else entry_edits.cells(entry, names)
                )
            for key, _line in known.edits.lines():
                row = known.edits.get(key)
                if row and content.get(Entry, key) is None:
                    yield tuple(row[column] for column in entry_edits.COLUMNS)

        with folder.replacing(ENTRIES) as stream:
            csvfile.write(stream, entry_edits.COLUMNS, rows())


def _same_move(folder: MoveFolder, paths: list[str], host_name: str) -> None:
    decisions = folder.decisions()
    if decisions.new.host != host_name:
        raise refusal(
            "another-move",
            f"The folder holds a move to {decisions.new.host}, not to {host_name}.",
            "Give another folder for --out.",
            folder.line_in_move(["new", "host"]),
        )
    if decisions.old.paths != paths:
        raise refusal(
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
        with folder.replacing(name) as stream:
            csvfile.write(stream, columns, {**rows, **known}.values())


def _move_toml(facts: dict[str, Any]) -> str:
    environment = Environment(
        loader=FileSystemLoader(Path(__file__).parent),
        undefined=StrictUndefined,
        keep_trailing_newline=True,
        autoescape=False,
    )
    environment.filters["key"] = lambda word: (
        word if _BARE_KEY.fullmatch(word) else tomlkit.string(word).as_string()
    )
    environment.filters["toml"] = _toml
    return environment.get_template("move.toml.j2").render(facts)


def _toml(value: object) -> str:
    """A text, or a list of texts, as TOML has it."""
    if isinstance(value, list):
        return f"[{', '.join(map(_toml, value))}]"
    return tomlkit.string(str(value)).as_string()
