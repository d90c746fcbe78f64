"""The limits of the new host on a single entry."""

from __future__ import annotations

from msgspec.structs import replace

from newburrow.convert.context import Context
from newburrow.core import plugins
from newburrow.core.problem import Problem
from newburrow.formats.base import Format
from newburrow.model.bundle import Bundle


def step(bundle: Bundle, context: Context) -> tuple[Bundle, list[Problem]]:
    """The entry with its title cut to the length that the host accepts; one without a title is named."""
    entry, most = bundle.entry, context.host.limits.title
    written: Format = plugins.get(plugins.FORMATS, context.host.format)
    if not entry.title and "title" in written.always_said:
        return bundle, [Problem.about(entry, "untitled")]
    if most is None or len(entry.title) <= most:
        return bundle, []
    cut = entry.title[: max(most - 1, 1)]
    cut = (cut.rpartition(" ")[0] or cut).rstrip() + ("…" if most > 1 else "")
    return replace(bundle, entry=replace(entry, title=cut)), [
        Problem.about(entry, "title-cut", f"{len(entry.title):,}: “{entry.title}”", most=most)
    ]
