"""The hosts that can be moved to."""

from __future__ import annotations

from pathlib import Path

from newburrow.hosts import loader
from newburrow.hosts.profile import Profile


def hosts() -> list[Profile]:
    """The host profiles that ship, in alphabetical order."""
    return [loader.load(name) for name in loader.PROFILES.names()]


def host_text(name: str) -> str:
    """The text of a profile, to copy and change.

    `name` is that of one that ships, or the path of a file ending in .toml. Raises BurrowError,
    naming the nearest, where there is none.
    """
    path: Path = loader.PROFILES.path_of(name)
    return loader.PROFILES.text_of(path)
