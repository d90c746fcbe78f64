"""Finding a host profile by name or file, and refusing one with a mistake at its line."""

from __future__ import annotations

from pathlib import Path

from msgspec.structs import replace

from newburrow.core import tomlfile
from newburrow.core.problem import refusal
from newburrow.core.shipped_files import ShippedFiles
from newburrow.core.suggestions import suggest
from newburrow.core.template import compiled
from newburrow.hosts.profile import Profile
from newburrow.model import Where

PROFILES = ShippedFiles(Path(__file__).parent, "host")


def load(name: str) -> Profile:
    """A host profile by the name of one that ships, or by the path of a TOML file.

    Raises BurrowError, with file and line, if there is no such profile or file, or it has a mistake:
    an unknown key, a wrong pattern (RFC 6570), an option that its format does not have.
    """
    path = PROFILES.path_of(name)
    text = PROFILES.text_of(path)
    profile = tomlfile.load(text, str(path), Profile)
    if path.parent != PROFILES.folder:  # tests check what ships
        _check(profile, text, str(path))
    if profile.dialect.endswith(".toml"):
        file = path.parent / profile.dialect
        if not file.is_file():
            where = Where(str(path), tomlfile.line_of(text, ["dialect"]))
            message = f"There is no dialect file {profile.dialect!r} beside this profile."
            raise refusal("wrong-value", message, "Check the spelling of the path.", where)
        profile = replace(profile, dialect=str(file))
    return profile


def _check(profile: Profile, text: str, file: str) -> None:
    """What the types cannot say. Raises BurrowError for the first mistake."""
    from newburrow.hosts.profile_mistakes import mistakes  # heavy: it compiles patterns

    for keys, message, advice in mistakes(profile):
        raise refusal("wrong-value", message, advice, Where(file, tomlfile.line_of(text, keys)))


def templates(name: str) -> dict[str, str]:
    """The templates of a host that has some, by kind of record: the files KIND.FORMAT.j2 in the folder that it names.

    Raises BurrowError where the folder or one of them is missing, or is no template.
    """
    profile, path = load(name), PROFILES.path_of(name)
    folder = profile.write.get("templates")
    if not isinstance(folder, str):
        return {}
    ending = f".{profile.format}.j2"
    found: dict[str, str] = {}
    for file in sorted((path.parent / folder).glob(f"*{ending}")):
        found[file.name.removesuffix(ending)] = text = PROFILES.text_of(file)
        try:
            compiled(text, escaped=False)
        except ValueError as error:
            raise refusal(
                "template",
                f"This is not a valid template: {error}.",
                "Correct it (Jinja2).",
                Where(str(file)),
            ) from None
    missing = [kind for kind in profile.kinds if kind not in found]
    if missing:
        where = Where(
            str(path), tomlfile.line_of(PROFILES.text_of(path), ["write", "templates"])
        )
        message = f"The folder {folder!r} has no template {missing[0]}{ending} for the kind {missing[0]!r}."
        raise refusal("template", message, suggest(missing[0], found, "There are"), where)
    return found
