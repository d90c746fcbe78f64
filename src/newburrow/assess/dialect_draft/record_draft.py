"""A first dialect for plain records that nobody has described: tables, fields and what refers to what, guessed.

A guess goes by names, by the shape of values, and by whose ids a field holds. What was not guessed is a comment.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator

from newburrow.assess.dialect_draft.guesses import (
    DATES,
    EPOCHS,
    TYPES,
    VOCABULARY,
    WORDS,
    ids_of,
    key_and_value,
    mark_between,
    markup_of,
    pair_of,
    score,
    singular,
    type_by_name,
    vocabulary_of,
)
from newburrow.assess.dialect_draft.observations import (
    MAYBE_STATE,
    Observed,
    all_known,
    comment_on,
    could_be_state,
    line,
    quoted,
    value_map,
    words_in,
)
from newburrow.assess.dialect_draft.tables import ExportTables, Table, named
from newburrow.dialects.record_facts import FACTS

# (what has the reference, or any; what it is to) -> the fact
_REFERS = {
    ("comment", "entry"): "entry",
    ("media", "entry"): "entry",
    ("relation", "entry"): "entry",
    ("", "entry"): "parent",
    ("", "author"): "author",
    ("relation", "term"): "term",
    ("", "term"): "terms",
    ("", "media"): "lead_picture",
}
# Facts that are recognised by their values alone.
_BY_VALUE: dict[str, Callable[[Observed], bool]] = {
    "published": lambda seen: seen.dates() and not seen.all(r"\d+"),
    "email": lambda seen: seen.all(r"[^\s@]+@[^\s@]+\.[^\s@]+"),
    "permalink": lambda seen: (
        seen.all(r"https?://\S+") and not seen.all(_PICTURE) and not seen.many
    ),
    "lead_picture": lambda seen: seen.all(_PICTURE) and not seen.many,
    "status": lambda seen: all_known(seen, "status") or all_known(seen, "comment_status"),
    "slug": lambda seen: seen.all(r"[a-z0-9]+(?:-[a-z0-9]+)+") and seen.mostly_different,
}
_PICTURE = r"\S+\.(?:png|jpe?g|gif|webp|svg|avif)"
_MACHINES = frozenset(("uuid", "guid", "uid", "hash", "token", "id"))  # no reader sees these
_ENOUGH = 0.8  # share of a field's values that are ids of what it refers to


def draft(found: ExportTables) -> str:
    """The text of a dialect file."""
    return "\n".join(_Draft(found).lines()) + "\n"


class _Draft:
    def __init__(self, found: ExportTables) -> None:
        self.found = found
        self.tables = list(found.tables.values())
        self.all = list(named(self.tables))
        self.of = {id(table): type_by_name(table.name) for table in self.all}
        self.ids = {id(table): ids_of(table) for table in self.all}
        self.refers = {id(table): dict(self._references(table)) for table in self.all}
        for table in self.all:
            self.of[id(table)] = self._type(table)
        self.took = {id(table): self._facts(table) for table in self.all}
        entry = next((table for table in self.tables if self.of[id(table)] == "entry"), None)
        self.main = (
            entry
            or next(iter(self.tables), None)
            or next(iter(found.site.values()), Table("", "json"))
        )

    # -- what is what ------------------------------------------------------------------------

    def _type(self, table: Table) -> str:
        refers = set(self.refers[id(table)].values())
        others = [
            name
            for name in table.columns
            if name not in self.refers[id(table)]
            and name != "id"
            and not ("order" in words_in(name) and table.columns[name].all(r"-?\d+"))
        ]
        if "entry" in refers and len(refers) > 1 and not others:
            return "relation"
        if refers == {"entry"} and len(others) == 2 and key_and_value(others):
            return "relation"  # rows of named metadata
        by_name = self.of[id(table)]
        words = {word for column in table.columns for word in words_in(column)}
        has = {fact for fact in ("title", "body", "email") if words & set(WORDS[fact])}
        if by_name:
            return by_name
        if "body" in has and "entry" in refers:
            return "comment"
        if "title" in has or "body" in has:
            return "entry"
        if "email" in has:
            return "author"
        return ""

    def _references(self, table: Table) -> Iterator[tuple[str, str]]:
        """Fields that hold ids of another table: selector -> type of that."""
        for selector, seen in table.columns.items():
            words = {singular(word) for word in words_in(selector)}
            distinct = {value for value in seen.values if value not in ("", "0")}
            if selector in ("id", "@id") or not distinct:
                continue
            for other in self.all:
                known, of = self.ids[id(other)], self.of[id(other)]
                if other is table or not known or not of:
                    continue
                hinted = bool(words & {*TYPES[of], *map(singular, words_in(other.name))})
                telling = hinted or (
                    len(distinct) > 2 and not any(value.isdigit() for value in distinct)
                )
                if telling and len(distinct & known) >= _ENOUGH * len(distinct):
                    yield selector, of
                    break

    def _facts(self, table: Table) -> dict[str, str]:
        """Fact -> selector. A fact is given to the field whose name and values say most clearly that it is that."""
        of = self.of[id(table)]
        refers = self.refers[id(table)]
        assigned: dict[str, str] = {}
        for selector, target in refers.items():
            fact = _REFERS.get((of, target)) or _REFERS.get(("", target), "")
            if fact in FACTS.get(of, ()):
                assigned.setdefault(fact, selector)
        pair = key_and_value([name for name in table.columns if name not in refers])
        if of == "relation" and pair:
            assigned |= {"name": pair[0], "value": pair[1]}
        scored = sorted(
            (-points, place, fact, selector)
            for fact in FACTS.get(of, ())
            if fact in WORDS
            for place, (selector, seen) in enumerate(table.columns.items())
            if (points := score(fact, selector, seen)) and selector not in refers
        )
        for *_rank, fact, selector in scored:
            free = fact not in assigned and selector not in assigned.values()
            if free and not self._vocabulary_of(table, selector):
                assigned[fact] = selector
        for fact, shape in _BY_VALUE.items():
            if fact in FACTS.get(of, ()) and fact not in assigned:
                fitting = [
                    name
                    for name, seen in table.columns.items()
                    if name not in assigned.values()
                    and shape(seen)
                    and not (fact == "slug" and _MACHINES & set(words_in(name)))
                ]
                if fitting:
                    assigned[fact] = fitting[0]
        return {fact: assigned[fact] for fact in FACTS.get(of, ()) if fact in assigned}

    def _vocabulary_of(self, table: Table, selector: str) -> str:
        """The vocabulary whose terms a field of an entry names; empty for none."""
        words = [singular(word) for word in words_in(selector)]
        if self.of[id(table)] != "entry" or "id" in words[:1]:
            return ""
        return next(
            (
                ours
                for ours, theirs in VOCABULARY.items()
                if any(word in theirs for word in words)
            ),
            "",
        )

    def _vocabulary_referred(self, seen: Observed) -> str:
        """The vocabulary of the table of terms whose ids a field holds; empty where its records say it themselves."""
        values = {value for value in seen.values if value.strip()}
        for table in self.all:
            is_it = self.of[id(table)] == "term" and values <= self.ids[id(table)]
            if is_it and "vocabulary" not in self.took[id(table)]:
                return vocabulary_of(table.name)
        return ""

    # -- writing ------------------------------------------------------------------------------

    def lines(self) -> Iterator[str]:
        """The whole file, line by line."""
        main = self.main
        yield "# A first draft of a dialect, guessed from an export. Read it through, correct it, and give it a name."
        yield f'name = "draft"\ntitle = "A platform that somebody knows"\nformat = "{main.format}"'
        yield "\n# To have such exports recognised, name what only they have:\n# [recognise]"
        keys = [f'"{name}"' for name in main.columns if re.fullmatch(r"[\w-]+", name)][:3]
        yield f"# keys = [{', '.join(keys)}]"
        if self.found.prefixes:
            yield "\n[namespaces]"
            yield from (
                f'{prefix} = "{quoted(space)}"' for space, prefix in self.found.prefixes.items()
            )
        yield from self._about_all()
        for file, site in self.found.site.items():
            self.of[id(site)], self.refers[id(site)] = "site", {}
            self.took[id(site)] = self._facts(site)
            if self.took[id(site)]:
                yield from self._records(site, "records", file)
        for table in sorted(self.tables, key=lambda table: self.of[id(table)] == ""):
            yield from (
                self._records(table, "records", table.file)
                if self.of[id(table)] and self.took[id(table)]
                else self._unknown(table)
            )

    def _about_all(self) -> Iterator[str]:
        """What holds for all records: forms of dates, markup of bodies, words for kinds and states."""
        dates = [self._seen(table, fact) for table in self.all for fact in DATES]
        forms = [
            form
            for form, shape in EPOCHS.items()
            if any(seen and seen.all(shape) for seen in dates)
        ]
        if forms:
            yield "\n[dates]\nforms = [" + ", ".join(f'"{form}"' for form in forms) + "]"
        for of in ("entry", "comment"):
            bodies = [
                seen
                for table in self.all
                if self.of[id(table)] == of and (seen := self._seen(table, "body"))
            ]
            if bodies:
                yield f'\n[{of}]\nmarkup = "{markup_of(bodies)}"'
            for fact, ours in (("kind", "kind"), ("status", "status")):
                for table in self.all:
                    if self.of[id(table)] == of:
                        seen = self._seen(table, fact)
                    else:
                        seen = None
                    if seen:
                        yield from value_map(ours if of == "entry" else f"comment_{ours}", seen)
                        break

    def _seen(self, table: Table, fact: str) -> Observed | None:
        return table.columns.get(self.took[id(table)].get(fact, ""))

    def _records(self, table: Table, header: str, file: str = "") -> Iterator[str]:
        of, assigned = self.of[id(table)], self.took[id(table)]
        yield "\n" + line(f"[[{header}]]", f"{table.count or 1} of them")
        yield f'of = "{of}"'
        yield from [f'file = "{quoted(file)}"'] if file else ()
        yield from [f'each = "{quoted(table.each)}"'] if table.each else ()
        yield from (
            [f'format = "{table.format}"']
            if header == "records" and table.format != self.main.format
            else ()
        )
        for fact, selector in assigned.items():
            seen = table.columns[selector]
            if fact == "terms" and (vocabulary := self._vocabulary_referred(seen)):
                setting = f"terms.{vocabulary}"
            else:
                setting = f"take.{fact}"
            yield line(f'{setting} = "{quoted(selector)}"', comment_on(seen))
        done = set(assigned.values())
        if of == "term" and "vocabulary" not in assigned:
            yield f'always.vocabulary = "{vocabulary_of(table.name)}"'
        for selector, seen in table.columns.items():
            if selector not in done and header == "records":
                vocabulary = self._vocabulary_of(table, selector)
            else:
                vocabulary = ""
            if vocabulary:
                done.add(selector)
                yield line(f'terms.{vocabulary} = "{quoted(selector)}"', comment_on(seen))
                mark = mark_between(seen)
                yield from [f'split.{vocabulary} = "{mark}"'] if mark else ()
        yield from filter(
            None,
            (self._terms_within(table, inner_table) for inner_table in table.inner.values()),
        )
        other_columns = [selector for selector in table.columns if selector not in done]
        yield from (
            ["# Not guessed; without a place these are kept in the content store and listed:"]
            if other_columns
            else ()
        )
        for selector in other_columns:
            seen = table.columns[selector]
            if of == "entry" and could_be_state(seen):
                yield MAYBE_STATE
            yield line(f"# {quoted(selector)}", comment_on(seen))
        yield from self._inner(table, header)

    def _inner(self, table: Table, header: str) -> Iterator[str]:
        """Named metadata as pairs, and records, within a record."""
        pairs = [
            (inner_table, pair)
            for inner_table in table.inner.values()
            if (pair := pair_of(inner_table))
        ]
        for inner_table, (name, value) in pairs:
            yield f'\n[[{header}.pairs]]\nelement = "{quoted(inner_table.each)}"\nname = "{name}"\nvalue = "{value}"'
        for inner_table in table.inner.values():
            if pair_of(inner_table) or self._terms_within(table, inner_table):
                continue
            known = self.of[id(inner_table)] in ("comment", "media", "author", "term")
            yield from (
                self._records(inner_table, f"{header}.inner")
                if known
                else self._unknown(inner_table)
            )

    def _terms_within(self, table: Table, inner: Table) -> str:
        """Terms that are records within an entry, when a name or slug is all they have."""
        if (
            self.of[id(table)] != "entry"
            or self.of[id(inner)] != "term"
            or len(inner.columns) > 1
        ):
            return ""
        selector = next(iter(inner.columns), "")
        if inner.each.startswith("$"):
            joined = f"{inner.each}.{selector}"
        else:
            joined = f"{inner.each}/{selector}"
        return f'terms.{vocabulary_of(inner.name)} = "{quoted(joined)}"'

    def _unknown(self, table: Table) -> Iterator[str]:
        yield "\n" + line(
            f"# Not guessed: {quoted(table.name)}",
            f"{table.count} records, at {table.each or table.file}",
        )
        for selector, seen in table.columns.items():
            yield line(f"#   {quoted(selector)}", comment_on(seen))
