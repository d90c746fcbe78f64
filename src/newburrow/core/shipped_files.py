"""TOML files that ship, found by name, and those of the user, found by path."""

from __future__ import annotations

from pathlib import Path

from newburrow.core.problem import refusal
from newburrow.core.suggestions import suggest
from newburrow.model.record import Where


class ShippedFiles:
    """The files of one sort in one folder. `noun` is what messages call one."""

    def __init__(self, folder: Path, noun: str) -> None:
        self.folder, self.noun = folder, noun

    def names(self) -> list[str]:
        """The names of the files that ship, in alphabetical order."""
        return sorted(path.stem for path in self.folder.glob("*.toml"))

    def path_of(self, name: str) -> Path:
        """The shipped file with this name, or the user's file if it is a path ending in .toml.

        Raises BurrowError if there is none.
        """
        if name.endswith(".toml"):
            if not Path(name).is_file():
                raise refusal(
                    "no-such-file",
                    f"There is no {self.noun} file {name!r}.",
                    "Check the spelling of the path.",
                )
            return Path(name)
        if name not in self.names():
            near = suggest(name, self.names(), f"The {self.noun}s are")
            raise refusal(
                "unknown-name",
                f"There is no {self.noun} named {name!r}.",
                f"{near} A file of your own is given by its path, ending in .toml.",
            )
        return self.folder / f"{name}.toml"

    def text_of(self, path: Path) -> str:
        """The text of a file. Raises BurrowError if it cannot be read as UTF-8."""
        try:
            return path.read_text("utf-8")
        except (OSError, UnicodeDecodeError) as error:
            raise refusal(
                "unreadable",
                f"The {self.noun} file cannot be read: {error}.",
                "Save it as UTF-8.",
                Where(str(path)),
            ) from None
