"""Finding a host profile by name or file, and refusing one with a mistake at its line."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from pathlib import Path

import msgspec

from newburrow import address, registry, tomlfile
from newburrow.dialects import loader as dialects
from newburrow.formats.base import Format
from newburrow.formats.template import compiled
from newburrow.hosts.profile import Profile
from newburrow.model import COMMENT_KINDS, COMMENT_STATES, ENTRY_KINDS, ENTRY_STATES, Where
from newburrow.problem import stop, suggest
from newburrow.shelf import Shelf

SHELF = Shelf(Path(__file__).parent, "host")
_TEMPLATE = ".json.j2"
ENTRY_VARIABLES = ("slug", "year", "month", "day", "id")


def load(name: str) -> Profile:
    """A profile by name or by path. Raises BurrowError with file and line where it has a mistake."""
    path = SHELF.path_of(name)
    text = SHELF.text_of(path)
    profile = tomlfile.load(text, str(path), Profile)
    for keys, message, advice in _mistakes(profile):
        raise stop("wrong-value", message, advice, Where(str(path), tomlfile.line_of(text, keys)))
    return profile


def templates(name: str) -> dict[str, str]:
    """The templates of a host that has some, by kind of record: the files KIND.json.j2 in the folder that it names.

    Raises BurrowError where the folder or one of them is missing, or is no template.
    """
    profile, path = load(name), SHELF.path_of(name)
    folder = profile.write.get("templates")
    if not isinstance(folder, str):
        return {}
    found: dict[str, str] = {}
    for file in sorted((path.parent / folder).glob(f"*{_TEMPLATE}")):
        found[file.name.removesuffix(_TEMPLATE)] = text = SHELF.text_of(file)
        try:
            compiled(text, escaped=False)
        except ValueError as error:
            raise stop("template", f"This is no template: {error}.", "Correct it (Jinja2).", Where(str(file))) from None
    missing = [kind for kind in profile.kinds if kind not in found]
    if missing:
        where = Where(str(path), tomlfile.line_of(SHELF.text_of(path), ["write", "templates"]))
        message = f"The folder {folder!r} has no template {missing[0]}{_TEMPLATE} for the kind {missing[0]!r}."
        raise stop("template", message, suggest(missing[0], found, "There are"), where)
    return found


def _mistakes(profile: Profile) -> Iterator[tuple[list[str], str, str]]:
    """What the types cannot say: key path, message, advice."""
    writers = [name for name in registry.names(registry.FORMATS) if registry.get(registry.FORMATS, name).writes]
    if profile.format not in writers:
        yield (
            ["format"],
            f"There is no format named {profile.format!r} that can be written.",
            suggest(profile.format, writers, "These can"),
        )
    else:
        yield from _wrong_options(profile)
    if not profile.kinds:
        yield ["kinds"], "The host has no kinds.", "Add at least [kinds.post] with an address."
    for name, kind in profile.kinds.items():
        yield from unknown_variables(["kinds", name, "address"], kind.address, ENTRY_VARIABLES)
        yield from _unknown(["kinds", name, "takes"], kind.takes, ENTRY_KINDS)
    yield from unknown_variables(["terms", "address"], profile.terms.address, ("slug",))
    yield from unknown_variables(["authors", "address"], profile.authors.address, ("slug",))
    yield from unknown_variables(["media", "address"], profile.media.address, ("name",))
    yield from _unknown(["states", "takes"], profile.states.takes, ENTRY_STATES)
    yield from _unknown(["states", "otherwise"], [profile.states.otherwise], profile.states.takes)
    yield from _unknown(["comments", "states"], profile.comments.states, COMMENT_STATES)
    yield from _unknown(["comments", "kinds"], profile.comments.kinds, COMMENT_KINDS)
    written = [name for name in registry.names(registry.MARKUPS) if _can_be_written(name)]
    for keys, name in ((["markup", "name"], profile.markup.name), (["comments", "markup"], profile.comments.markup)):
        if name and name not in written:
            yield keys, f"Bodies cannot be written as {name!r}.", suggest(name, written, "They can be written as")
    if ".." in profile.media.folder.split("/") or profile.media.folder.startswith("/"):
        yield ["media", "folder"], "The folder leads out of what is handed over.", "Name one below it."


def _wrong_options(profile: Profile) -> Iterator[tuple[list[str], str, str]]:
    """What the format's writer says against the [write] table."""
    format_: Format = registry.get(registry.FORMATS, profile.format)
    try:
        format_.check_options(profile.write)
    except msgspec.ValidationError as error:
        yield ["write"], f"In [write]: {error}.".replace("`", "'"), "Correct that key of the host profile."
    named = profile.write.get("dialect")
    if isinstance(named, str) and named and not named.endswith(".toml") and named not in dialects.SHELF.names():
        message = f"There is no dialect named {named!r}."
        yield ["write", "dialect"], message, suggest(named, dialects.SHELF.names(), "The dialects are")
    if "file" in profile.write and not _plain_name(profile.write["file"]):
        yield ["write", "file"], "A file name is one name, without folders.", "Take the folders out."


def _can_be_written(markup: str) -> bool:
    return hasattr(registry.get(registry.MARKUPS, markup), "from_html")


def _plain_name(value: object) -> bool:
    return (
        isinstance(value, str) and bool(value) and "/" not in value and "\\" not in value and value not in (".", "..")
    )


def _unknown(keys: list[str], values: Sequence[str], known: Sequence[str]) -> Iterator[tuple[list[str], str, str]]:
    for value in values:
        if value not in known:
            yield keys, f"{value!r} is not one that can stand here.", suggest(value, known, "These can")


def unknown_variables(keys: list[str], pattern: str, known: tuple[str, ...]) -> Iterator[tuple[list[str], str, str]]:
    """The mistakes in a permalink pattern: variables that nothing fills, and no variable at all."""
    for name in address.variables(pattern):
        if name not in known:
            yield (
                keys,
                f"The pattern {pattern!r} has an unknown variable {{{name}}}.",
                suggest(name, known, "The variables here are"),
            )
    if pattern and not address.variables(pattern):
        yield (
            keys,
            f"The pattern {pattern!r} gives every object the same address.",
            "Put a variable such as {slug} into it.",
        )
