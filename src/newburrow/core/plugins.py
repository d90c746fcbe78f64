"""What can be plugged in: formats, markups and redirect servers, found through entry points.

Ours are found in the same way as anybody's. To add one, write its module and name its object under
`newburrow.formats`, `newburrow.markups` or `newburrow.servers` in the package's entry points.
"""

from __future__ import annotations

from functools import lru_cache
from importlib.metadata import EntryPoint, entry_points
from typing import Any

from newburrow.core.problem import refusal
from newburrow.core.suggestions import suggest

FORMATS = "newburrow.formats"
MARKUPS = "newburrow.markups"
SERVERS = "newburrow.servers"


@lru_cache(maxsize=8)  # each call reads a file of every package that is installed
def _points(group: str) -> dict[str, EntryPoint]:
    """What is registered in a group by name; of several with one name the first."""
    found: dict[str, EntryPoint] = {}
    for point in entry_points(group=group):
        found.setdefault(point.name, point)
    return found


@lru_cache(maxsize=8)
def names(group: str) -> tuple[str, ...]:
    """The names registered in a group, in alphabetical order."""
    return tuple(sorted(_points(group)))


@lru_cache(maxsize=64)
def get(group: str, name: str) -> Any:
    """The object registered under a name in a group of entry points.

    `group` is `FORMATS`, `MARKUPS` or `SERVERS`. The module is imported now. Raises BurrowError, with the
    nearest name, if there is no such name.
    """
    if point := _points(group).get(name):
        return point.load()
    group_name = group.rpartition(".")[2].rstrip("s")
    raise refusal(
        "unknown-name",
        f"There is no {group_name} named {name!r}.",
        suggest(name, names(group), f"The {group_name}s are"),
    )
