"""Finding a dialect by name or file, and refusing one with a mistake at its line."""

from __future__ import annotations

import re
from collections.abc import Iterator
from functools import lru_cache, partial
from pathlib import Path
from typing import Any

from newburrow.core import plugins, tomlfile
from newburrow.core.dates import EPOCHS, is_zone
from newburrow.core.problem import refusal
from newburrow.core.shipped_files import ShippedFiles
from newburrow.core.suggestions import suggest
from newburrow.core.template import compiled
from newburrow.core.url_pattern import unknown_variables
from newburrow.dialects.element_pattern import ElementPattern
from newburrow.dialects.file_pattern import matches_file
from newburrow.dialects.record_mistakes import WITH_RECORDS, Mistake, record_mistakes
from newburrow.dialects.schema import Dialect, Preset, Recognise
from newburrow.dialects.selector import Selector
from newburrow.intake.encodings import encoding_named
from newburrow.intake.head import Head
from newburrow.model.record import Where

DIALECTS = ShippedFiles(Path(__file__).parent, "dialect")
ZONED = ("published", "updated", "comment")
VALUES = ("kind", "markup", "status", "comment_status", "comment_kind", "vocabulary")


def load(name: str) -> Dialect:
    """A dialect by the name of one that ships, or by the path of a TOML file.

    Raises BurrowError, with file and line, if there is no such dialect or file, or it has a mistake:
    an unknown key, a selector (XPath 1.0, RFC 9535) or a pattern (RFC 6570) that is wrong.
    """
    path = DIALECTS.path_of(name)
    text = DIALECTS.text_of(path)
    tables = _extended(path, text, (path.resolve(),))
    dialect = tomlfile.converted(tables, text, str(path), Dialect)
    if (
        path.parent != DIALECTS.folder
    ):  # tests check what ships, which takes as long as reading it
        _check(dialect, text, str(path))
    return dialect


def _extended(path: Path, text: str, seen: tuple[Path, ...]) -> dict[str, Any]:
    """The tables of a dialect file, added to those of the dialect that it extends."""
    tables = tomlfile.parse(text, str(path))
    name = tables.get("extends")
    if not name or not isinstance(name, str):
        return tables
    where = Where(str(path), tomlfile.line_of(text, ["extends"]))
    if name.endswith(".toml"):
        name = str(path.parent / name)
    base = DIALECTS.path_of(name)
    if base.resolve() in seen:
        raise refusal(
            "wrong-value",
            "The dialect extends itself, by way of others.",
            "Remove one `extends`.",
            where,
        )
    base_text = DIALECTS.text_of(base)
    return _added(_extended(base, base_text, (*seen, base.resolve())), tables)


def _added(base: dict[str, Any], more: dict[str, Any]) -> dict[str, Any]:
    """Tables with others added to them: values replace values, rows of arrays of tables come after those there."""
    merged = dict(base)
    for key, value in more.items():
        known = base.get(key)
        if isinstance(value, dict) and isinstance(known, dict):
            merged[key] = _added(known, value)
        elif _is_rows(value) and _is_rows(known):
            merged[key] = [*known, *value]  # type: ignore[misc]
        else:
            merged[key] = value
    return merged


def _is_rows(value: Any) -> bool:
    return isinstance(value, list) and all(isinstance(row, dict) for row in value)


def _check(dialect: Dialect, text: str, file: str) -> None:
    """What the types cannot say: formats and markups that exist, selectors that compile."""
    for path, message, advice in _mistakes(dialect):
        raise refusal("wrong-value", message, advice, Where(file, tomlfile.line_of(text, path)))


def _mistakes(dialect: Dialect) -> Iterator[Mistake]:
    formats = plugins.names(plugins.FORMATS)
    if dialect.format not in formats:
        message = f"There is no format named {dialect.format!r}."
        yield ["format"], message, suggest(dialect.format, formats, "The formats are")
        return
    if dialect.encoding and not encoding_named(dialect.encoding):
        message = f"There is no encoding named {dialect.encoding!r}."
        yield (
            ["encoding"],
            message,
            "Use a name of the Encoding Standard, such as windows-1252.",
        )
    yield from _wrong_replacements(dialect)
    yield from _wrong_zones(dialect)
    yield from _wrong_values(dialect)
    yield from _wrong_patterns(dialect)
    yield from _unknown_markups(dialect)
    yield from _wrong_macros(dialect)
    yield from record_mistakes(dialect, partial(plugins.get, plugins.FORMATS))
    if dialect.format in WITH_RECORDS:
        return
    for path, selector in _selectors(dialect):
        try:
            if path[-1] == "element" and path[0] in ("author", "term", "menu"):
                ElementPattern(selector, dialect.namespaces)
            else:
                Selector(selector, dialect.namespaces)
        except ValueError as error:
            yield path, f"In [{'.'.join(path)}], {error}.", "Correct the selector."


def _wrong_values(dialect: Dialect) -> Iterator[Mistake]:
    for name in dialect.values:
        if name not in VALUES:
            message = f"There is no value map {name!r}."
            yield ["values", name], message, suggest(name, VALUES, "The value maps are")
    for form in dialect.dates.forms:
        if form not in EPOCHS and "%" not in form:
            advice = "Write it as strptime does, like %d.%m.%Y, or say unix or unix-ms."
            yield ["dates", "forms"], f"{form!r} is not a form of a date.", advice


def _wrong_replacements(dialect: Dialect) -> Iterator[Mistake]:
    for word, new in dialect.replace.items():
        if not word.strip() or re.search(r"[&<>\"\\\n]", word + new):
            message = f"{word!r} cannot be replaced by {new!r}."
            advice = "Both are plain words, without &, <, >, quotes and backslashes."
            yield ["replace", word], message, advice


def _wrong_zones(dialect: Dialect) -> Iterator[Mistake]:
    named = [(["dates", "zone"], dialect.dates.zone)]
    named += [(["dates", "zones", fact], name) for fact, name in dialect.dates.zones.items()]
    for path, name in named:
        if name and not is_zone(name):
            message = f"There is no time zone named {name!r}."
            yield path, message, "Use an IANA name, such as Europe/London."
    for fact in dialect.dates.zones:
        if fact not in ZONED:
            message = f"No date is called {fact!r}."
            yield ["dates", "zones", fact], message, suggest(fact, ZONED, "The dates are")


def _wrong_patterns(dialect: Dialect) -> Iterator[Mistake]:
    lists, wiki = dialect.addresses, dialect.wiki
    for path, patterns, known in (
        (["addresses", "dates"], lists.dates, ("year", "month", "day")),
        (["addresses", "further"], [lists.further], ("list", "page")),
        (["addresses", "feed"], [lists.feed], ("list",)),
        (["addresses", "comment"], [lists.comment], ("id",)),
        (["author", "archive"], [dialect.author.archive], ("login", "slug")),
        (["term", "archives"], list(dialect.term.archives.values()), ("slug", "path", "id")),
        (["entry", "id_addresses"], dialect.entry.id_addresses, ("id",)),
        (
            ["course", "addresses"],
            list(dialect.course.addresses.values()),
            ("path", "name", "id"),
        ),
        (["wiki", "other_wikis"], list(wiki.other_wikis.values()), ("name",)),
        (["wiki", "files"], [wiki.files], ("page", "file")),
        (["wiki", "discussion"], [wiki.discussion], ("name",)),
        (["wiki", "category"], [wiki.category], ("name",)),
        (["wiki", "versions"], [wiki.versions], ("page", "number")),
    ):
        for pattern in patterns:
            yield from unknown_variables(path, pattern, known)


def _wrong_macros(dialect: Dialect) -> Iterator[Mistake]:
    for number, macro in enumerate(dialect.macros):
        path = ["macros", str(number), "template"]
        if (macro.do == "template") != bool(macro.template):
            yield (
                path,
                f'The macro {macro.name!r} needs both: do = "template" and a template.',
                "Add what is missing.",
            )
        try:
            compiled(macro.template)
        except ValueError as error:
            yield (
                path,
                f"The template of the macro {macro.name!r} is wrong: {error}.",
                "Correct it.",
            )


def _unknown_markups(dialect: Dialect) -> Iterator[Mistake]:
    markups = plugins.names(plugins.MARKUPS)
    for table in ("entry", "comment"):
        markup = getattr(getattr(dialect, table), "markup", "html")
        if markup not in markups:
            message = f"There is no markup named {markup!r}."
            yield [table, "markup"], message, suggest(markup, markups, "The markups are")


def _selectors(dialect: Dialect) -> Iterator[tuple[list[str], str]]:
    """Every selector of a dialect with its key path."""
    apart = {
        "feeds",
        "id_addresses",
        "fields",
        "markup",
        "heading_ids",
        "items",
        "archive",
        "archives",
        "default_vocabulary",
        "join",
        "split",
        "kind",
        "resized",
    }
    for table in ("site", "entry", "comment", "author", "term", "media", "menu"):
        group = getattr(dialect, table)
        for key in group.__struct_fields__ if group is not None else ():
            if key in apart and (table, key) not in (("entry", "kind"), ("comment", "kind")):
                continue
            value = getattr(group, key)
            for text in [value] if isinstance(value, str) else value:
                if text:
                    yield [table, key], text
    for number, field in enumerate(dialect.entry.fields):
        for key in ("element", "name", "value"):
            yield ["entry", "fields", str(number), key], getattr(field, key)


@lru_cache(maxsize=1)  # each part of an export is compared with all of its format
def _shipped() -> dict[str, list[Dialect]]:
    """The dialects that ship, by format."""
    found: dict[str, list[Dialect]] = {}
    for dialect in map(load, DIALECTS.names()):
        found.setdefault(dialect.format, []).append(dialect)
    return found


def recognise(format_name: str, head: Head) -> list[Dialect]:
    """The shipped dialects of a format whose marks a part bears, the one with most marks first.

    There are several only if they bear equally many: then nothing says which it is.
    """
    marks = [
        (count, dialect)
        for dialect in _shipped().get(format_name, ())
        if (count := _marks(dialect.recognise, head))
    ]
    most = max((count for count, _dialect in marks), default=0)
    return [dialect for count, dialect in marks if count == most]


def _marks(mark: Recognise, head: Head) -> int:
    """How many marks of a dialect a part bears; none where it lacks one of them."""
    prolog = head.prolog
    tests = [
        (mark.namespace, prolog and mark.namespace in prolog.namespaces),
        (mark.root, prolog and prolog.root.rpartition("}")[2] == mark.root),
        (mark.generator, mark.generator.encode() in head.start),
        (mark.file, matches_file(head.name, mark.file)),
        *((key, _named(key, head.start)) for key in mark.keys),
    ]
    given = [bool(found) for condition, found in tests if condition]
    if all(given):
        return len(given)
    return 0


def _named(key: str, start: bytes) -> bool:
    """Whether the beginning of a file holds a word as the name of a member, column, element or front matter."""
    return (
        re.search(rb"(?<![\w-])" + re.escape(key.encode()) + rb"(?![\w-])", start) is not None
    )


def is_preset(dialect: Dialect, kind: str, slug: str, title: str) -> bool:
    """Whether an entry is preset content: what the host puts on every new site.

    It is if one of the dialect's `[[presets]]` has its kind, slug and title; what a preset does not state is
    not compared.
    """
    return any(_matches(preset, kind, slug, title) for preset in dialect.presets)


def _matches(preset: Preset, kind: str, slug: str, title: str) -> bool:
    given = [(preset.kind, kind), (preset.slug, slug), (preset.title, title)]
    return any(condition for condition, _ in given) and all(
        condition in ("", found) for condition, found in given
    )
