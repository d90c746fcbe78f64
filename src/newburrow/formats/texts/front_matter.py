"""Front matter: named facts before a text, as YAML between `---`, TOML between `+++`, or a JSON object."""

from __future__ import annotations

import tomllib
from collections.abc import Iterable
from contextlib import suppress
from typing import Any

from newburrow.formats import equal_names
from newburrow.formats.json_stream import decoded

_FENCES = {"---": "yaml", "+++": "toml"}
_DEEPEST = 200  # levels of YAML
_CLOSES = {"yaml": ("---", "..."), "toml": ("+++",), "json": ("}",)}


class BrokenFrontMatter(Exception):
    """The front matter is not what its fence says. `line` is counted from the top of the file."""

    def __init__(self, message: str, line: int) -> None:
        super().__init__(message)
        self.line = line


def kind_of(first_line: str) -> str:
    """`yaml`, `toml` or `json` by the first line of a file; empty where it begins no front matter."""
    first = first_line.removeprefix("\N{ZERO WIDTH NO-BREAK SPACE}").rstrip()
    if first == "{":
        return "json"
    return _FENCES.get(first, "")


def split(text: str) -> tuple[dict[str, Any], str, int]:
    """The front matter of a text, the text after it, and the line where that text begins.

    Front matter is YAML, TOML or JSON, recognised by its first line. Without any the dict is empty and the
    line is 1. Raises BrokenFrontMatter, with the line, if it is not closed or cannot be parsed.
    """
    text = text.removeprefix("\N{ZERO WIDTH NO-BREAK SPACE}").replace("\r\n", "\n")
    lines = text.split("\n")
    kind = kind_of(lines[0])
    if not kind:
        return {}, text, 1
    end = next((n for n, line in enumerate(lines[1:], 1) if line.rstrip() in _CLOSES[kind]), 0)
    if not end:
        raise BrokenFrontMatter("it is not closed", 1)
    if kind == "json":
        inner = lines[: end + 1]
    else:
        inner = lines[1:end]
    body = lines[end + 1 :]
    # the empty line between front matter and text
    if body and not body[0].strip():
        blank = 1
    else:
        blank = 0
    return _parsed(kind, "\n".join(inner)), "\n".join(body[blank:]), end + 2 + blank


def _parsed(kind: str, text: str) -> dict[str, Any]:
    try:
        if kind == "yaml":
            value = _yaml(text)
        elif kind == "toml":
            value = tomllib.loads(text)
        else:
            value = decoded(text)
    except BrokenFrontMatter:
        raise
    except RecursionError:
        raise BrokenFrontMatter("it is nested too deep", 1) from None
    except ValueError as error:
        raise BrokenFrontMatter(str(error).splitlines()[0], 1) from None
    if value is None:
        return {}
    if not isinstance(value, dict):
        raise BrokenFrontMatter("it has no names with values", 1)
    return value


def _yaml(text: str) -> Any:
    """YAML with every value as text: `2015-03-01`, `no` and `007` stay what they are."""
    import yaml  # heavy: imported where it is used

    # The parser in C needs a tenth of the time, and accepts tabs between words.
    quick = getattr(yaml, "CBaseLoader", None)
    if quick:
        with suppress(yaml.YAMLError):  # the other takes some of what this one does not
            return _value_of(yaml.parse(text, quick))
    try:
        return _value_of(yaml.parse(text, yaml.BaseLoader))
    except yaml.MarkedYAMLError as error:
        mark = error.problem_mark or error.context_mark
        raise BrokenFrontMatter(
            str(error.problem or "it is not valid YAML"), mark.line + 2 if mark else 1
        ) from None
    except yaml.YAMLError as error:
        raise BrokenFrontMatter(str(error).splitlines()[0], 1) from None


def _value_of(events: Iterable[Any]) -> Any:
    """The value of one document, from the events of a parser (YAML 1.1, section 3.1); None where there is none.

    Raises BrokenFrontMatter for aliases, a few of which can expand to more than memory holds, for deep nesting, and
    for several documents.
    """
    import yaml

    documents = list[Any]()
    unfinished = [documents]  # the members so far of what has begun, the outermost first
    for event in events:
        match event:
            case yaml.ScalarEvent():
                unfinished[-1].append(event.value)
            case yaml.AliasEvent():
                raise BrokenFrontMatter("aliases are not read", _line_of(event))
            case yaml.CollectionStartEvent():
                if len(unfinished) > _DEEPEST:
                    raise BrokenFrontMatter("it is nested too deep", _line_of(event))
                unfinished.append([])
            case yaml.SequenceEndEvent():
                members = unfinished.pop()
                unfinished[-1].append(list(map(_without_null, members)))
            case yaml.MappingEndEvent():
                members = unfinished.pop()
                unfinished[-1].append(_mapping(members))
    if len(documents) > 1:
        raise BrokenFrontMatter("it is more than one document", 1)
    if documents:
        return _without_null(documents[0])
    return None


def _line_of(event: Any) -> int:
    """The line of the file; above the first of the YAML stands its fence."""
    return int(event.start_mark.line) + 2


def _mapping(members: list[Any]) -> dict[str, Any]:
    """A mapping, of which the names and the values come in turn."""
    values = map(_without_null, members[1::2])
    return equal_names.kept(zip(map(str, members[::2]), values, strict=True))


def _without_null(value: Any) -> Any:
    if value in ("null", "~"):
        return None
    return value
