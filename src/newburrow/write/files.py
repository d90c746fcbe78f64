"""Copying the files of an export to where they go."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Sequence

from newburrow.core.problem import refusal
from newburrow.formats.exports import several
from newburrow.formats.exports.export import Export
from newburrow.model import Media
from newburrow.write.output import FolderOutput


def copier(exports: Sequence[Export], output: FolderOutput) -> Callable[[Media, Media], None]:
    """What copies the file of a media record to where its new record says.

    It raises BurrowError where the file has gone since it was read.
    """

    def copy(old: Media, new: Media) -> None:
        digest = hashlib.sha256()
        with several.file_of(exports, old).open() as stream, output.open(new.path) as target:
            while block := stream.read(1 << 18):
                digest.update(block)
                target.write(block)
        if old.digest and digest.hexdigest() != old.digest:
            raise refusal(
                "export-changed",
                f"The file {old.path!r} changed while the export was moved.",
                "Run the command again when nothing writes to the export any more.",
                old.source,
            )

    return copy
