"""Records of files, with what the files themselves say: size, digest, media type."""

from __future__ import annotations

import hashlib
import mimetypes
from collections.abc import Iterator

from msgspec.structs import replace

from newburrow.core.file_names import without_query
from newburrow.core.problem import BurrowError, Problem
from newburrow.formats.exports.unsafe_texts import ScriptSearch
from newburrow.intake.part import UNREADABLE, Part
from newburrow.model import Media, Where
from newburrow.model.media import NAMED_PATH, UNREADABLE_FILE


def described(
    media: Media, part: Part | None, page_address: str = ""
) -> Iterator[Media | Problem]:
    """The record with what the file itself says: size, digest, media type.

    One that is not in the export has no path, and that which it names in `extra`; one that is locked or damaged has
    the reason there too, and `page_address`, which it had if it was a page.
    """
    if part is None:
        named = {NAMED_PATH: [media.path]} if media.path else {}
        yield replace(media, path="", extra={**media.extra, **named})
        return
    digest, size, scripts = hashlib.sha256(), 0, ScriptSearch(part.name)
    try:
        with part.open() as stream:
            while block := stream.read(1 << 18):
                digest.update(block)
                scripts.feed(block)
                size += len(block)
    except BurrowError as error:
        if error.problem.code not in UNREADABLE:
            raise
        yield from unreadable(media, part, error, page_address)
        return
    if scripts.found:
        yield Problem.at(Where(part.label), "file-with-script", file=part.name)
    media_type = (
        media.media_type
        or mimetypes.guess_type(without_query(part.name))[0]
        or "application/octet-stream"
    )
    yield replace(
        media, path=part.name, size=size, digest=digest.hexdigest(), media_type=media_type
    )


def unreadable(
    media: Media, part: Part, error: BurrowError, page_address: str
) -> Iterator[Media | Problem]:
    """The record of a file whose bytes cannot be had, and what is wrong with it. See `described`."""
    reason = error.problem.message.rstrip(".")
    yield Problem.at(Where(part.label), "file-unreadable", file=part.name, reason=reason)
    extra = {**media.extra, NAMED_PATH: [part.name], UNREADABLE_FILE: [reason]}
    yield replace(media, path="", address=media.address or page_address, extra=extra)
