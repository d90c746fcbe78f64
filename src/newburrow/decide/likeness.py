"""The decisions of an earlier move, taken over into a new one as far as they fit: one site after another."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import tomlkit
from msgspec import Struct

from newburrow.decide.author_proposals import AuthorProposal
from newburrow.decide.condition import Condition
from newburrow.decide.conditions import author_named, unknown
from newburrow.decide.decisions import Decisions, FieldChoice, Rule
from newburrow.decide.move_folder import AUTHORS, ENTRIES, MOVE, TERMS, MoveFolder
from newburrow.decide.term_names import TermNames
from newburrow.hosts.profile import Profile
from newburrow.model import ENTRY_KINDS, Author, Term
from newburrow.store.content_store import Store

UNFIT, UNFIT_COLUMNS = "not-taken-over.csv", ("file", "decision", "reason")
_TABLES = ("choose", "dates", "authors", "terms", "comments", "media", "ids", "redirects")
_OF_ONE_SITE = (("choose", "only"), ("choose", "leave"), ("dates", "latest"))


class Unfit(Struct, frozen=True, array_like=True):
    """A decision of the earlier move that was not taken over, and why."""

    file: str
    decision: str
    reason: str


class Likeness:
    """An earlier move as the model of a new one. `unfit` has what was not taken over."""

    def __init__(self, folder: MoveFolder, host: Profile, content: Store) -> None:
        """Raises BurrowError, with the line, where the decisions of the earlier move are wrong."""
        self.folder, self.host, self.content = folder, host, content
        self.decisions: Decisions = folder.decisions()
        self.unfit: list[Unfit] = []

    # -- move.toml -----------------------------------------------------------------------------

    def settings(self, document: tomlkit.TOMLDocument) -> None:
        """Put the settings of the earlier move into a new `move.toml`."""
        earlier = tomlkit.parse((self.folder.path / MOVE).read_text("utf-8-sig")).unwrap()
        for table in _TABLES:
            for key, value in earlier.get(table, {}).items():
                if (table, key) not in _OF_ONE_SITE:
                    document.setdefault(table, {})[key] = value
        document["new"]["already_there"] = self.decisions.new.already_there
        for table, allowed in self._allowed().items():
            self._named(document, table, earlier.get(table, {}), allowed)
        self._chosen(document, earlier.get("choose", {}))
        self._fields(document, earlier.get("fields", []))
        rules = list(self._rules(earlier.get("rules", [])))
        if rules:
            document["rules"] = tomlkit.item(rules)
        for name, given in (
            ("old.known", self.decisions.old.known),
            ("new.holds", self.decisions.new.holds),
        ):
            if given:
                self._leave(MOVE, name, "it is about the other site")
        if self.folder.has(ENTRIES):
            self._leave(
                ENTRIES, "the whole table", "it is about single entries of the other site"
            )

    def _allowed(self) -> dict[str, tuple[str, ...] | None]:
        """What the values of a table may be on the new host; None where that is anything."""
        terms = self.host.terms
        return {
            "kinds": tuple(self.host.kinds),
            "states": self.host.states.takes,
            "vocabularies": None
            if "*" in terms.vocabularies
            else (terms.name, *terms.vocabularies),
            "addresses": None,
        }

    def _named(
        self,
        document: tomlkit.TOMLDocument,
        table: str,
        earlier: dict[str, str],
        allowed: tuple[str, ...] | None,
    ) -> None:
        for name, value in earlier.items():
            if allowed is not None and value not in allowed:
                self._leave(
                    MOVE, f"{table}.{name} = {value!r}", "the new host has none of that name"
                )
            elif table == "addresses" and name not in self.host.kinds:
                self._leave(MOVE, f"{table}.{name}", "the new host has no such kind")
            else:
                document.setdefault(table, {})[name] = value

    def _chosen(self, document: tomlkit.TOMLDocument, earlier: dict[str, Any]) -> None:
        """What moves, and what of it is left: a condition that would choose more by what it loses is kept whole."""
        choose = document.setdefault("choose", {})
        only, decided = earlier.get("only", {}), self.decisions.choose
        fitting = self._fitting(only, decided.only, "choose.only")
        choose.setdefault("only", {}).update(only if fitting is None else fitting)
        left = []
        for number, (table, condition) in enumerate(
            zip(earlier.get("leave", []), decided.leave, strict=True), 1
        ):
            fitting = self._fitting(table, condition, f"choose.leave {number}")
            if fitting is not None:
                left.append(fitting)
        if left:
            choose["leave"] = tomlkit.item(left)

    def _fitting(
        self, table: dict[str, Any], condition: Condition, name: str
    ) -> dict[str, Any] | None:
        """A condition without the names that this export lacks; None where it can then match nothing."""
        fitting = {
            key: list(value) if isinstance(value, list) else value
            for key, value in table.items()
        }
        for key, word, _known in unknown(condition, self.content):
            self._leave(MOVE, f"{name}: {key} {word!r}", "the export has none of that name")
            fitting[key].remove(word)
        if all(value != [] for value in fitting.values()):
            return fitting
        return None

    def _fields(self, document: tomlkit.TOMLDocument, earlier: list[dict[str, Any]]) -> None:
        used = self.content.uses()
        decided = {field.old for field in self.decisions.fields if field.old}
        proposed = document.get("fields", [])
        rows = [dict(row) for row in proposed if row.get("old") not in decided]
        for row, field in zip(earlier, self.decisions.fields, strict=True):
            if _is_known(field, used):
                rows.append(row)
            else:
                self._leave(MOVE, f"the field {field.old!r}", "the export has no such field")
        if rows:
            document["fields"] = tomlkit.item(rows)

    def _rules(self, earlier: list[dict[str, Any]]) -> Iterator[dict[str, Any]]:
        for number, (table, rule) in enumerate(
            zip(earlier, self.decisions.rules, strict=True), 1
        ):
            name = f"rule {number}" + (f" ({rule.about})" if rule.about else "")
            why = self._wrong(rule)
            if why:
                self._leave(MOVE, name, why)
                continue
            when = self._fitting(table.get("when", {}), rule.when, name)
            if when is not None:
                yield {**table, "when": when}

    def _wrong(self, rule: Rule) -> str:
        """Why what a rule sets cannot be here; empty where it can."""
        if rule.set.kind and rule.set.kind not in (*self.host.kinds, *ENTRY_KINDS):
            return f"the new host has no kind {rule.set.kind!r}"
        if rule.set.author and author_named(rule.set.author, self.content) is None:
            return f"the export has no author {rule.set.author!r}"
        return ""

    # -- the tables ----------------------------------------------------------------------------

    def authors(self) -> dict[str, AuthorProposal]:
        """What was decided of persons who are in this export too, by their key here."""
        by_word: dict[str, str] = {}  # e-mail address or name -> key
        for author in self.content.all(Author):
            for word in (author.email, author.name):
                by_word.setdefault(word.strip().casefold(), author.key)
        found = dict[str, AuthorProposal]()
        for (
            _key,
            name,
            email,
            _entries,
            action,
            new_name,
            why,
        ) in self.folder.author_rows().values():
            if action.strip() in ("", "keep") and not new_name.strip():
                continue
            words = [word.strip().casefold() for word in (email, name) if word.strip()]
            key = next((by_word[word] for word in words if word in by_word), "")
            if key:
                found[key] = AuthorProposal(
                    action.strip(), new_name.strip(), why or "as in the earlier move"
                )
            else:
                self._leave(
                    AUTHORS,
                    f"{name}: {action} {new_name}".strip(),
                    "the export has no such author",
                )
        return found

    def terms(self) -> dict[str, tuple[str, ...]]:
        """What was decided of terms that are here too, by their key here: the last four cells of a row."""
        known = TermNames(self.content.all(Term))
        by_name = {
            (term.vocabulary, term.name.casefold()): term.key for term in known.by_key.values()
        }
        found = dict[str, tuple[str, ...]]()
        for (
            _key,
            vocabulary,
            name,
            _parent,
            _entries,
            *cells,
        ) in self.folder.term_rows().values():
            action, new_name, _new_vocabulary, new_parent = (cell.strip() for cell in cells)
            if action in ("", "keep") and not any(cells[1:]):
                continue
            key = by_name.get((vocabulary, name.casefold()), "")
            words = [new_parent, new_name if action == "merge" else ""]
            lost = next(
                (word for word in words if word not in ("", "-") and known.find(word) is None),
                "",
            )
            if key and not lost:
                found[key] = tuple(cells)
                continue
            if key:
                reason = f"the export has no term {lost!r}"
            else:
                reason = f"the export has no such {vocabulary}"
            self._leave(TERMS, f"{vocabulary} {name}: {action} {new_name}".strip(), reason)
        return found

    def _leave(self, file: str, decision: str, reason: str) -> None:
        self.unfit.append(Unfit(file, decision, reason))


def _is_known(field: FieldChoice, used: Any) -> bool:
    return not field.old or field.old.startswith("entry.") or bool(used[f"field {field.old}"])
