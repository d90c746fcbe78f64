"""Reading a TOML file into a typed record, and saying exactly where it is wrong.

`move.toml`, dialects and host profiles all come in through `load`, so that a wrong key or value is
answered in the same way everywhere: file, line, what is wrong, the nearest right key.
"""

from __future__ import annotations

import re
import tomllib
from typing import Any, TypeVar

import msgspec

from newburrow.core.problem import refusal
from newburrow.core.suggestions import suggest
from newburrow.model.record import Where

T = TypeVar("T", bound=msgspec.Struct)

_AT_LINE = re.compile(r"\(at line (\d+), column (\d+)\)")
_UNKNOWN = re.compile(r"Object contains unknown field `(.+)`")
_PATH = re.compile(r" - at `\$(.*)`$")
_STEP = re.compile(r"\.([^.\[]+)|\[(\d+|\.\.\.)\]")
_HEADER = re.compile(r"\s*(\[\[?)\s*([^\]]+?)\s*\]")
_KEY = re.compile(
    r"""\s*((?:"[^"]*"|'[^']*'|[\w-]+)(?:\s*\.\s*(?:"[^"]*"|'[^']*'|[\w-]+))*)\s*="""
)
_TYPES = {
    "str": "text in quotes",
    "int": "a whole number",
    "float": "a number",
    "bool": "true or false",
    "array": "a list",
    "object": "a table",
    "date": "a date",
    "null": "nothing",
}
_NAME = re.compile(r""""([^"]*)"|'([^']*)'|([\w-]+)""")


def load(text: str, file: str, shape: type[T]) -> T:
    """The record of type `shape`, a msgspec Struct, that a TOML text describes.

    `file` is named in messages. Raises BurrowError, with the line, the allowed values and the nearest
    known key, if the text is not TOML 1.0, has an unknown key, lacks a required one, or a value has the
    wrong type.
    """
    return converted(parse(text, file), text, file, shape)


def converted(tables: dict[str, Any], text: str, file: str, shape: type[T]) -> T:
    """The record of type `shape` that the tables of a TOML text describe; raises BurrowError as `load` does.

    `text` is where lines are looked up: the tables may hold more than it does.
    """
    try:
        return msgspec.convert(tables, shape)
    except msgspec.ValidationError as error:
        raise _explained(str(error), text, file, shape) from None


def parse(text: str, file: str) -> dict[str, Any]:
    """The tables of a TOML 1.0 document, as dicts, lists and plain values.

    `file` is named in messages. Raises BurrowError, with line, column and the line itself, if the text is
    not TOML.
    """
    try:
        return tomllib.loads(text)
    except tomllib.TOMLDecodeError as error:
        place = _AT_LINE.search(str(error))
        if place:
            line, column = (int(place[1]), int(place[2]))
        else:
            line, column = (len(text.splitlines()), 0)
        message = f"This is not valid TOML: {_AT_LINE.sub('', str(error)).strip()}."
        raise refusal(
            "toml",
            message,
            "Correct that line and run the command again.",
            Where(file, line, column),
            _excerpt(text, line, column),
        ) from None
    except (
        ValueError,
        RecursionError,
    ):  # a number of thousands of digits, lists in lists in lists
        raise refusal(
            "toml",
            "This is not valid TOML: a number is too long, or something is nested too deep.",
            "Correct that place and run the command again.",
            Where(file),
        ) from None


def _excerpt(text: str, line: int, column: int) -> str:
    lines = text.splitlines()
    if not 0 < line <= len(lines):
        return ""
    if column:
        marker = "\n" + " " * (column - 1) + "^"
    else:
        marker = ""
    return lines[line - 1] + marker


def _explained(error: str, text: str, file: str, shape: type[msgspec.Struct]) -> Exception:
    """The checker's message in plain words, with the line of the key that it is about."""
    found = _PATH.search(error)
    path = [key if key else index for key, index in _STEP.findall(found[1] if found else "")]
    mistake = _PATH.sub("", error)
    unknown = _UNKNOWN.match(mistake)
    if not unknown:
        line = line_of(text, path)
        return refusal(
            "wrong-value",
            f"{_plain(mistake)} for the key {'.'.join(path) or '(the whole file)'}.",
            _advice(mistake, _allowed_at(shape, path)),
            Where(file, line),
            _excerpt(text, line, 0),
        )
    line = line_of(text, [*path, unknown[1]])
    known = _fields_at(shape, path)
    if known:
        advice = suggest(unknown[1], known, "The keys here are")
    else:
        advice = "Remove the key."
    if path:
        table = f" in [{'.'.join(path)}]"
    else:
        table = ""
    return refusal(
        "wrong-key",
        f"There is no key {unknown[1]!r}{table}.",
        advice,
        Where(file, line),
        _excerpt(text, line, 0),
    )


def _advice(mistake: str, allowed: list[str]) -> str:
    """What to do about a wrong value; names the values that are allowed, where they are few."""
    if "RFC3339" in mistake:
        return "Write it as 2024-05-06, without quotes."
    wrong = re.search(r"^Invalid enum value '(.+)'$", mistake)
    if wrong and allowed:
        return suggest(wrong[1], allowed, "The values here are")
    if allowed:
        return f"The values here are: {', '.join(allowed)}."
    return "Correct it and run the command again."


def _plain(mistake: str) -> str:
    if "RFC3339" in mistake:
        return "This is not a date"
    mistake = re.sub(
        r"^Expected `(.+?)`, got `(.+?)`$",
        lambda found: f"Expected {_in_words(found[1])} but found {_in_words(found[2])}",
        mistake,
    )
    mistake = re.sub(
        r"^Object missing required field `(.+?)`$", r"The key '\1' is missing", mistake
    )
    mistake = re.sub(
        r"^Invalid enum value (.+)$", r"The value \1 is not one of those allowed", mistake
    )
    return mistake.replace("`", "'")


def _in_words(types: str) -> str:
    """Names of types, parted by `|`, in the words of a person."""
    return " or ".join(_TYPES.get(name.strip(), name.strip()) for name in types.split("|"))


def _fields_at(shape: Any, path: list[str]) -> list[str]:
    """The keys that the record type allows at a path."""
    info = _record_in(_info_at(shape, path))
    if isinstance(info, msgspec.inspect.StructType):
        return [field.encode_name for field in info.fields]
    return []


def _allowed_at(shape: Any, path: list[str]) -> list[str]:
    """The values that the record type allows at a path; none where any value of its type is allowed."""
    info = _record_in(_info_at(shape, path))
    if isinstance(info, msgspec.inspect.LiteralType):
        return [str(value) or '""' for value in info.values]
    return []


def _info_at(shape: Any, path: list[str]) -> Any:
    """What the record type says of the place at a path."""
    info = msgspec.inspect.type_info(shape)
    for step in path:
        info = _record_in(info)
        if isinstance(info, msgspec.inspect.StructType):
            info = next(
                (field.type for field in info.fields if field.encode_name == step), info
            )
        elif isinstance(info, msgspec.inspect.DictType):
            info = info.value_type
    return info


def _record_in(info: Any) -> Any:
    """The record or table inside a list or a choice of types."""
    while True:
        if isinstance(info, msgspec.inspect.UnionType):
            info = next((t for t in info.types if hasattr(t, "fields")), info.types[0])
        elif isinstance(info, msgspec.inspect.ListType | msgspec.inspect.VarTupleType):
            info = info.item_type
        else:
            return info


def line_of(text: str, path: list[str]) -> int:
    """The line where the key at a path is set, counted from 1.

    `path` are the names of tables and the key, numbers for members of arrays. If the key itself is not in
    the text, this is the line of its nearest parent; 0 if none is.
    """
    best, best_length, table = 0, 0, list[str]()
    seen_lists: dict[str, int] = {}
    for number, line in enumerate(text.splitlines(), 1):
        header = _HEADER.match(line)
        if header:
            table = here = _table(_names(header[2]), header[1] == "[[", seen_lists)
        else:
            key = _KEY.match(line)
            if not key:
                continue
            here = [*table, *_names(key[1])]
        length = _shared(here, path)
        if length > best_length:
            best, best_length = number, length
    return best


def _table(names: list[str], is_item: bool, seen_lists: dict[str, int]) -> list[str]:
    """The key path of a table's header; within a list of tables it belongs to the last item (TOML 1.0)."""
    path = list[str]()
    for depth, name in enumerate(names, 1):
        path.append(name)
        dotted = ".".join(path)
        if is_item and depth == len(names):
            seen_lists[dotted] = seen_lists.get(dotted, -1) + 1
        if dotted in seen_lists:
            path.append(str(seen_lists[dotted]))
    return path


def _names(dotted: str) -> list[str]:
    return [a or b or c for a, b, c in _NAME.findall(dotted)]


def _shared(here: list[str], path: list[str]) -> int:
    """How much of the path this place reaches; nothing where the place lies elsewhere."""
    count = 0
    for key, other in zip(here, path, strict=False):
        if key != other and other != "...":
            break
        count += 1
    if count == len(here) or count == len(path):
        return count
    return 0
