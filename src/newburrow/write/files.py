"""Copying the files of an export to where they go."""

from __future__ import annotations

import shutil
from collections.abc import Callable, Sequence

from newburrow.formats.exports import several
from newburrow.formats.exports.export import Export
from newburrow.model import Media
from newburrow.write.output import FolderOutput


def copier(exports: Sequence[Export], output: FolderOutput) -> Callable[[Media, Media], None]:
    """What copies the file of a media record to where its new record says.

    It raises BurrowError where the file has gone since it was read.
    """

    def copy(old: Media, new: Media) -> None:
        with several.file_of(exports, old).open() as stream, output.open(new.path) as target:
            shutil.copyfileobj(stream, target, 1 << 18)

    return copy
