"""What became of the files of a source, counted: listed = content + media + archives + left out."""

from __future__ import annotations

from collections.abc import Iterable

from msgspec import Struct


class FileCounts(Struct, frozen=True, rename="kebab"):
    """Files that the sources list, and what they were taken for."""

    listed: int = 0  # as folders and archives list them
    content: int = 0  # read for what is in them
    media: int = 0  # files of the site
    archives: int = 0  # opened, so that the files in them stand for them
    left_out: int = 0  # each with a reason in the ledger

    @property
    def sentence(self) -> str:
        """The account in words."""
        parts = [f"{self.content:,} content", f"{self.media:,} media"]
        if self.archives:
            parts.append(f"{self.archives:,} opened archive(s)")
        if self.left_out:
            parts.append(f"{self.left_out:,} left out")
        return f"{self.listed:,} = {' + '.join(parts)}"

    @property
    def balances(self) -> bool:
        """Whether every file was taken for something."""
        return self.listed == self.content + self.media + self.archives + self.left_out


def sum_of(counts: Iterable[FileCounts]) -> FileCounts:
    """The counts of several exports together."""
    total = [0] * len(FileCounts.__struct_fields__)
    for count in counts:
        values = (getattr(count, name) for name in FileCounts.__struct_fields__)
        total = [before + value for before, value in zip(total, values, strict=True)]
    return FileCounts(*total)
