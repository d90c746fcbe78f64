"""What the types of `move.toml` cannot say: values that must be those of the host, or of the export."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from zoneinfo import available_timezones

from newburrow.core import plugins, url
from newburrow.core.problem import NOWHERE, Problem, refusal
from newburrow.core.suggestions import suggest
from newburrow.core.url_pattern import unknown_variables
from newburrow.decide import marks
from newburrow.decide.condition import Condition
from newburrow.decide.conditions import unknown
from newburrow.decide.decisions import AuthorChoice, Change, Decisions, TermChoice
from newburrow.decide.field_types import ENTRY_FACTS, typed
from newburrow.decide.move_folder import AUTHORS, ENTRIES, TERMS, MoveFolder
from newburrow.decide.rules import names_in
from newburrow.decide.term_names import unknown_words
from newburrow.hosts import profile_mistakes as hosts
from newburrow.hosts.profile import Profile
from newburrow.model import (
    COMMENT_STATES,
    ENTRY_KINDS,
    ENTRY_STATES,
    Author,
    Entry,
    Question,
    Term,
    Where,
)
from newburrow.store.content_store import Store
from newburrow.store.journal.existing import ExistingReader
from newburrow.store.journal.journal import Journal


def check(folder: MoveFolder, decisions: Decisions, host: Profile) -> None:
    """Refuse decisions that are wrong whatever the export has.

    Addresses, time zones, names of servers, fields and rules are checked. Raises BurrowError with the
    line of `move.toml`, the allowed values and the nearest one.
    """
    marks.check(folder.path)
    known = {"kinds": ENTRY_KINDS, "states": ENTRY_STATES, "comment_states": COMMENT_STATES}
    for key, words in known.items():
        for word in getattr(decisions.choose, key):
            _one_of(folder, word, words, ["choose", key])
    for old, new in decisions.kinds.items():
        _one_of(folder, old, ENTRY_KINDS, ["kinds", old])
        _one_of(folder, new, tuple(host.kinds), ["kinds", old])
    _check_zone_and_terms(folder, decisions, host)
    _check_fields(folder, decisions)
    for old, new in decisions.states.items():
        _one_of(folder, old, ENTRY_STATES, ["states", old])
        _one_of(folder, new, host.states.takes, ["states", old])
    for kind, pattern in decisions.addresses.items():
        _one_of(folder, kind, tuple(host.kinds), ["addresses", kind])
        for keys, message, advice in unknown_variables(
            ["addresses", kind], pattern, hosts.ENTRY_VARIABLES
        ):
            raise refusal("wrong-value", message, advice, folder.line_in_move(keys))
    _check_rules(folder, decisions, host)
    _check_redirects(folder, decisions)
    if not url.key(decisions.new.address):
        raise refusal(
            "wrong-value",
            f"{decisions.new.address!r} is not a web address.",
            "Write it with scheme and host, like https://orchard.example/.",
            folder.line_in_move(["new", "address"]),
        )


def _check_redirects(folder: MoveFolder, decisions: Decisions) -> None:
    for server in decisions.redirects.servers:
        _one_of(folder, server, plugins.names(plugins.SERVERS), ["redirects", "servers"])
    for key in ("left_out", "not_chosen"):
        word = getattr(decisions.redirects, key)
        if word not in ("gone", "stays") and not url.key(word):
            raise refusal(
                "wrong-value",
                f"{word!r} is not one of 'gone' and 'stays', and not a web address.",
                "Write one of these, or the address of a site, like https://orchard.example/.",
                folder.line_in_move(["redirects", key]),
            )


def _check_zone_and_terms(folder: MoveFolder, decisions: Decisions, host: Profile) -> None:
    zone = decisions.dates.zone
    if zone and zone not in available_timezones():
        message = f"There is no time zone {zone!r}."
        advice = suggest(zone, available_timezones(), "They are named like Europe/London")
        raise refusal("wrong-value", message, advice, folder.line_in_move(["dates", "zone"]))
    if not -1_000_000 <= decisions.dates.shift_hours <= 1_000_000:
        message, advice = (
            "Dates cannot be shifted by more than a century.",
            "Write the hours as a smaller number.",
        )
        raise refusal(
            "wrong-value", message, advice, folder.line_in_move(["dates", "shift_hours"])
        )
    if "*" not in host.terms.vocabularies:
        existing_names = tuple(dict.fromkeys((host.terms.name, *host.terms.vocabularies)))
        for old, new in decisions.vocabularies.items():
            _one_of(folder, new, existing_names, ["vocabularies", old])


def _check_fields(folder: MoveFolder, decisions: Decisions) -> None:
    known = tuple(f"entry.{name}" for name in ENTRY_FACTS)
    for number, field in enumerate(decisions.fields):
        for key in ("old", "new"):
            word = getattr(field, key)
            if word.startswith("entry."):
                _one_of(folder, word, known, ["fields", str(number), key])
        if (field.new == "-" and not field.old) or not (field.old or field.new):
            message, advice = (
                "A field needs a name: old, new, or both.",
                'Write old = "its name".',
            )
            raise refusal(
                "wrong-value", message, advice, folder.line_in_move(["fields", str(number)])
            )
        if field.default and typed(field.default, field.type) is None:
            message = f"The default {field.default!r} is not of the type {field.type}."
            at = folder.line_in_move(["fields", str(number), "default"])
            raise refusal("wrong-value", message, "Write one that is.", at)


def check_created(
    folder: MoveFolder,
    choices: Mapping[str, AuthorChoice],
    store: Store,
    existing: ExistingReader,
) -> None:
    """Check that no author is created who is on the new host already.

    Raises BurrowError, with the row of `authors.csv` and the action to use instead, if one is.
    """
    for row, choice in choices.items():
        author = store.get(Author, row)
        name = choice.new_name or (author.name if author else "")
        if choice.action == "create" and existing.has("author", name):
            line = next(
                (n for n, cells in enumerate(folder.author_rows(), 2) if cells == row), 0
            )
            message = (
                f"The new host has an author {name} already, so none can be made of that name."
            )
            advice = "Use the action assign if it is the same person, or give another new_name."
            raise refusal(
                "wrong-value", message, advice, Where(str(folder.path / AUTHORS), line)
            )


def _check_rules(folder: MoveFolder, decisions: Decisions, host: Profile) -> None:
    for number, rule in enumerate(decisions.rules):
        at = ["rules", str(number), "set"]
        if rule.set.kind:
            _one_of(
                folder,
                rule.set.kind,
                tuple(dict.fromkeys((*host.kinds, *ENTRY_KINDS))),
                [*at, "kind"],
            )
        for name in _named_facts(rule.set):
            _one_of(folder, name, [f"entry.{fact}" for fact in ENTRY_FACTS], at)
        if rule.set.state:
            _one_of(folder, rule.set.state, ENTRY_STATES, [*at, "state"])
    for keys, condition in _conditions(decisions):
        for name, known in (("kinds", ENTRY_KINDS), ("states", ENTRY_STATES)):
            for word in getattr(condition, name):
                _one_of(folder, word, known, [*keys, name])


def _named_facts(change: Change) -> Iterator[str]:
    """The facts of an entry that a change uses, as they are named."""
    for text in (change.title, *change.add_terms, *change.fields.values()):
        yield from (name for name in names_in(text) if name.startswith("entry."))


def _conditions(decisions: Decisions) -> Iterator[tuple[list[str], Condition]]:
    """Every condition of move.toml, with where it is."""
    yield ["choose", "only"], decisions.choose.only
    yield from (
        (["choose", "leave", str(n)], condition)
        for n, condition in enumerate(decisions.choose.leave)
    )
    yield from (
        (["rules", str(n), "when"], rule.when) for n, rule in enumerate(decisions.rules)
    )


def check_exports(folder: MoveFolder, paths: list[str]) -> None:
    """Raises BurrowError where an export that the move folder names is no longer there."""
    for path in paths:
        if not (folder.path / path).exists():
            raise refusal(
                "no-such-file",
                f"The export {path!r} no longer exists.",
                "Put it back, or correct old.paths (relative to the move folder).",
                folder.line_in_move(["old", "paths"]),
            )


def check_words(folder: MoveFolder, decisions: Decisions, store: Store) -> None:
    """Refuse names of authors and terms in conditions and rules that the export does not have.

    Raises BurrowError with the line and the nearest name. Names of fields and addresses are not checked:
    a rule may be ready for the next export.
    """
    for row, word in unknown_words(folder.term_choices(), store.all(Term)):
        line = next((n for n, cells in enumerate(folder.term_rows(), 2) if cells == row), 0)
        advice = suggest(word, (term.name for term in store.all(Term)), "There are")
        raise refusal(
            "wrong-value",
            f"The export has no term {word!r}.",
            advice,
            Where(str(folder.path / TERMS), line),
        )
    set_authors = [
        (["rules", str(n), "set", "author"], Condition(authors=(rule.set.author,)))
        for n, rule in enumerate(decisions.rules)
        if rule.set.author
    ]
    for keys, condition in (*_conditions(decisions), *set_authors):
        for key, word, existing_names in unknown(condition, store):
            message = f"The export has no {key.removesuffix('s')} {word!r}."
            raise refusal(
                "wrong-value",
                message,
                suggest(word, existing_names, "There are"),
                folder.line_in_move([*keys, key]),
            )

    for word in decisions.choose.questions:
        if not _is_question(word, store):
            raise refusal(
                "wrong-value",
                f"The export has no question {word!r}.",
                "Name it by its id, or by its quiz and number as in ledger.csv: “Roots, 3”.",
                folder.line_in_move(["choose", "questions"]),
            )


def _is_question(word: str, store: Store) -> bool:
    """Whether a word is the id of a question, or the title of its quiz and its number."""
    if store.get(Question, word):
        return True
    title, _comma, number = word.rpartition(", ")
    if not number.isdigit():
        return False
    return any(
        entry.title == title and 1 <= int(number) <= len(store.questions_of(entry.key))
        for entry in store.all(Entry)
    )


def say_unknown_rows(
    authors: Mapping[str, AuthorChoice],
    terms: Mapping[str, TermChoice],
    store: Store,
    journal: Journal,
) -> None:
    """Report the rows of the decision tables that have no effect.

    A row has none if its key is not in the export, as after a spelling mistake. Each is a follow-up with
    the table, the key and the nearest key.
    """
    for name, choices, kind in (
        (AUTHORS, authors, Author),
        (TERMS, terms, Term),
    ):
        for key in choices:
            if store.get(kind, key) is None:
                problem = Problem.at(
                    NOWHERE,
                    "unknown-row",
                    table=name,
                    key=key,
                    advice=suggest(
                        key, (record.key for record in store.all(kind)), "The export has"
                    ),
                )
                journal.follow_ups.add(problem)
    for key, line in journal.edits.lines():
        if store.get(Entry, key) is None:
            problem = Problem.at(
                Where(ENTRIES, line),
                "unknown-row",
                table=ENTRIES,
                key=key,
                advice="Remove the row.",
            )
            journal.follow_ups.add(problem)


def _one_of(folder: MoveFolder, word: str, known: Sequence[str], keys: list[str]) -> None:
    if word not in known:
        raise refusal(
            "wrong-value",
            f"{word!r} is not allowed here.",
            suggest(word, known, "The allowed values are"),
            folder.line_in_move(keys),
        )
