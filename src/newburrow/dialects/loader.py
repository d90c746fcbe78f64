"""Finding a dialect by name or file, and refusing one with a mistake at its line."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from newburrow import registry, tomlfile
from newburrow.formats.dialect import Dialect, Starter
from newburrow.formats.selector import Selector
from newburrow.intake.part import Head
from newburrow.model import Where
from newburrow.problem import stop, suggest
from newburrow.shelf import Shelf

SHELF = Shelf(Path(__file__).parent, "dialect")
VALUES = ("kind", "status", "comment_status", "comment_kind", "vocabulary")


def load(name: str) -> Dialect:
    """A dialect by name or by path. Raises BurrowError with file and line where it has a mistake."""
    path = SHELF.path_of(name)
    text = SHELF.text_of(path)
    dialect = tomlfile.load(text, str(path), Dialect)
    _check(dialect, text, str(path))
    return dialect


def _check(dialect: Dialect, text: str, file: str) -> None:
    """What the types cannot say: formats and markups that exist, selectors that compile."""

    def refuse(path: list[str], message: str, advice: str) -> Exception:
        return stop("wrong-value", message, advice, Where(file, tomlfile.line_of(text, path)))

    if dialect.format not in registry.names(registry.FORMATS):
        raise refuse(
            ["format"],
            f"There is no format named {dialect.format!r}.",
            suggest(dialect.format, registry.names(registry.FORMATS), "The formats are"),
        )
    for name in dialect.values:
        if name not in VALUES:
            raise refuse(
                ["values", name], f"There is no value map {name!r}.", suggest(name, VALUES, "The value maps are")
            )
    for table in ("entry", "comment"):
        markup = getattr(getattr(dialect, table), "markup", "html")
        if markup not in registry.names(registry.MARKUPS):
            raise refuse(
                [table, "markup"],
                f"There is no markup named {markup!r}.",
                suggest(markup, registry.names(registry.MARKUPS), "The markups are"),
            )
    for path, selector in _selectors(dialect):
        try:
            Selector(selector, dialect.namespaces)
        except ValueError as error:
            raise refuse(path, f"In [{'.'.join(path)}], {error}.", "Correct the selector.") from None


def _selectors(dialect: Dialect) -> Iterator[tuple[list[str], str]]:
    """Every selector of a dialect with its key path."""
    apart = {
        "feeds",
        "id_addresses",
        "fields",
        "markup",
        "archive",
        "archives",
        "default_vocabulary",
        "kind",
        "resized",
    }
    for table in ("site", "entry", "comment", "author", "term", "media"):
        group = getattr(dialect, table)
        for key in group.__struct_fields__ if group is not None else ():
            if key in apart and (table, key) not in (("entry", "kind"), ("comment", "kind")):
                continue
            value = getattr(group, key)
            for text in [value] if isinstance(value, str) else value:
                if text or (table, key) == ("comment", "element"):
                    yield [table, key], text
    for number, field in enumerate(dialect.entry.fields):
        for key in ("element", "name", "value"):
            yield ["entry", "fields", str(number), key], getattr(field, key)


def recognise(format_name: str, head: Head) -> Dialect:
    """The dialect of a part: the shipped one whose mark it bears, else the plain form of the format."""
    declared = head.prolog.namespaces if head.prolog else ()
    for name in SHELF.names():
        dialect = load(name)
        if dialect.format == format_name and dialect.recognise.namespace in declared:
            return dialect
    return Dialect(name="plain", format=format_name, title="no dialect: the format as it stands")


def is_starter(dialect: Dialect, kind: str, slug: str, title: str) -> bool:
    """Whether an entry is one that the host puts on every new site."""
    return any(_matches(starter, kind, slug, title) for starter in dialect.starters)


def _matches(starter: Starter, kind: str, slug: str, title: str) -> bool:
    given = [(starter.kind, kind), (starter.slug, slug), (starter.title, title)]
    return any(wanted for wanted, _ in given) and all(wanted in ("", found) for wanted, found in given)
