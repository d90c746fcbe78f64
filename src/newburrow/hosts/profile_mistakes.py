"""What is wrong with a host profile beyond what its types say."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from zoneinfo import available_timezones

import msgspec

from newburrow.core import plugins
from newburrow.core.suggestions import suggest
from newburrow.core.url_pattern import unknown_variables
from newburrow.dialects import loader as dialects
from newburrow.formats.base import Format
from newburrow.hosts.profile import Kind, Profile
from newburrow.model import COMMENT_KINDS, COMMENT_STATES, ENTRY_KINDS, ENTRY_STATES

DATES = ("year", "month", "day")
ENTRY_VARIABLES = ("slug", "path", *DATES, "id", "category", "author", "parent")


def mistakes(profile: Profile) -> Iterator[tuple[list[str], str, str]]:
    """The mistakes that the types of the profile cannot exclude: key path, message, advice."""
    if not _has_writer(profile.format):
        writers = list(filter(_has_writer, plugins.names(plugins.FORMATS)))
        yield (
            ["format"],
            f"There is no format named {profile.format!r} that can be written.",
            suggest(profile.format, writers, "The allowed values are"),
        )
    else:
        yield from _wrong_options(profile)
    if not profile.kinds:
        yield ["kinds"], "The host has no kinds.", "Add at least [kinds.post] with an address."
    for name, kind in profile.kinds.items():
        yield from unknown_variables(["kinds", name, "address"], kind.address, ENTRY_VARIABLES)
        for pattern in kind.also:
            if pattern != "*":
                yield from unknown_variables(["kinds", name, "also"], pattern, ENTRY_VARIABLES)
        yield from _unknown(["kinds", name, "takes"], kind.takes, ENTRY_KINDS)
    yield from unknown_variables(["terms", "address"], profile.terms.address, ("slug",))
    for pattern in profile.site.dates:
        yield from unknown_variables(["site", "dates"], pattern, DATES)
    yield from unknown_variables(["site", "further"], profile.site.further, ("list", "page"))
    yield from unknown_variables(["comments", "fragment"], profile.comments.fragment, ("id",))
    yield from unknown_variables(["authors", "address"], profile.authors.address, ("slug",))
    yield from unknown_variables(["media", "address"], profile.media.address, ("name",))
    yield from _unknown(["states", "takes"], profile.states.takes, ENTRY_STATES)
    yield from _unknown(
        ["states", "otherwise"], [profile.states.otherwise], profile.states.takes
    )
    yield from _unknown(["comments", "states"], profile.comments.states, COMMENT_STATES)
    yield from _unknown(["comments", "kinds"], profile.comments.kinds, COMMENT_KINDS)
    for keys, name in (
        (["markup", "name"], profile.markup.name),
        (["comments", "markup"], profile.comments.markup),
    ):
        if name and not _can_be_written(name):
            written = list(filter(_can_be_written, plugins.names(plugins.MARKUPS)))
            yield (
                keys,
                f"Bodies cannot be written as {name!r}.",
                suggest(name, written, "They can be written as"),
            )
    yield from _wrong_details(profile)
    if ".." in profile.media.folder.split("/") or profile.media.folder.startswith("/"):
        yield (
            ["media", "folder"],
            "The folder leads out of what is handed over.",
            "Name one below it.",
        )


def _wrong_details(profile: Profile) -> Iterator[tuple[list[str], str, str]]:
    """Zone, fields and embeds."""
    if profile.site.zone and profile.site.zone not in available_timezones():
        advice = suggest(
            profile.site.zone, available_timezones(), "They are named like Europe/London"
        )
        yield ["site", "zone"], f"There is no time zone {profile.site.zone!r}.", advice
    for name, kind in profile.kinds.items():
        yield from _wrong_fields(["kinds", name, "fields"], kind)
    embed = profile.markup.embed
    if (
        embed not in ("", "frame", "address")
        and "{address}" not in embed
        and "{frame}" not in embed
    ):
        advice = 'Write "frame", "address", or a text with {address} in it.'
        yield (
            ["markup", "embed"],
            f"The form of embeds {embed!r} has no place for an address.",
            advice,
        )


def _wrong_fields(path: list[str], kind: Kind) -> Iterator[tuple[list[str], str, str]]:
    """Defaults that are none of the values that a field can have."""
    for name, rule in kind.fields.items():
        if rule.default and rule.values and rule.default not in rule.values:
            message = (
                f"The default {rule.default!r} is not one of the values of the field {name!r}."
            )
            yield (
                [*path, name, "default"],
                message,
                suggest(rule.default, rule.values, "The allowed values are"),
            )


def _wrong_options(profile: Profile) -> Iterator[tuple[list[str], str, str]]:
    """What the format's writer says against the [write] table, and what it cannot do."""
    format_: Format = plugins.get(plugins.FORMATS, profile.format)
    if profile.history.taken and not format_.has_history:
        advice = "Remove it: each earlier version then gets a row in the ledger."
        yield (
            ["history", "taken"],
            "The format has no place for the history of entries.",
            advice,
        )
    if (profile.site.menus or profile.site.front_page) and not format_.has_menus:
        advice = "Remove it: a follow-up will say what to set."
        yield (
            ["site", "menus"],
            f"The format {profile.format} has no place for menus and a front page.",
            advice,
        )
    if profile.limits.file_bytes and not format_.has_parts:
        message = f"What is written as {profile.format} is a single file and cannot be split."
        yield ["limits", "file_bytes"], message, "Remove it, or choose another format."
    try:
        format_.check_options(profile.write)
    except msgspec.ValidationError as error:
        yield (
            ["write"],
            f"In [write]: {error}.".replace("`", "'"),
            "Correct that key of the host profile.",
        )
    for keys, named in (
        (["write", "dialect"], profile.write.get("dialect")),
        (["dialect"], profile.dialect),
    ):
        if (
            isinstance(named, str)
            and named
            and not named.endswith(".toml")
            and named not in dialects.DIALECTS.names()
        ):
            message = f"There is no dialect named {named!r}."
            yield keys, message, suggest(named, dialects.DIALECTS.names(), "The dialects are")
    if "file" in profile.write and not _plain_name(profile.write["file"]):
        yield (
            ["write", "file"],
            "A file name is one name, without folders.",
            "Remove the folders.",
        )


# Asked of one name each: to ask all would import all formats.
def _has_writer(name: str) -> bool:
    known = plugins.names(plugins.FORMATS)
    return name in known and bool(plugins.get(plugins.FORMATS, name).writes)


def _can_be_written(markup: str) -> bool:
    return markup in plugins.names(plugins.MARKUPS) and hasattr(
        plugins.get(plugins.MARKUPS, markup), "from_html"
    )


def _plain_name(value: object) -> bool:
    return (
        isinstance(value, str)
        and bool(value)
        and "/" not in value
        and "\\" not in value
        and value not in (".", "..")
    )


def _unknown(
    keys: list[str], values: Sequence[str], known: Sequence[str]
) -> Iterator[tuple[list[str], str, str]]:
    for value in values:
        if value not in known:
            yield (
                keys,
                f"{value!r} is not allowed here.",
                suggest(value, known, "The allowed values are"),
            )
