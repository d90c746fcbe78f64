"""Front matter: named facts before a text, as YAML between `---`, TOML between `+++`, or a JSON object."""

from __future__ import annotations

import tomllib
from typing import Any

from newburrow.formats import equal_names
from newburrow.formats.json_stream import decoded

_FENCES = {"---": "yaml", "+++": "toml"}
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

    class Loader(yaml.BaseLoader):
        def compose_node(self, parent: Any, index: Any) -> Any:
            # a few aliases can expand to more than memory holds
            if self.check_event(yaml.AliasEvent):
                raise yaml.composer.ComposerError(None, None, "aliases are not read", None)
            return super().compose_node(parent, index)

        def construct_mapping(self, node: Any, deep: bool = False) -> dict[Any, Any]:
            pairs = ((self.construct_object(name, True), value) for name, value in node.value)
            return equal_names.kept(
                (str(name), self.construct_object(value, True)) for name, value in pairs
            )

    try:
        return _without_nulls(yaml.load(text, Loader))
    except yaml.MarkedYAMLError as error:
        mark = error.problem_mark or error.context_mark
        raise BrokenFrontMatter(
            str(error.problem or "it is not valid YAML"), mark.line + 2 if mark else 1
        ) from None
    except yaml.YAMLError as error:
        raise BrokenFrontMatter(str(error).splitlines()[0], 1) from None


def _without_nulls(value: Any) -> Any:
    if isinstance(value, dict):
        return {str(name): _without_nulls(member) for name, member in value.items()}
    if isinstance(value, list):
        return [_without_nulls(member) for member in value]
    if value in ("null", "~"):
        return None
    return value
