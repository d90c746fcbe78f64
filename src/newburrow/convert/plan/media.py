"""Media: each file moves once, under a name made of its own bytes, so that names cannot collide."""

from __future__ import annotations

import fnmatch
import mimetypes
from collections.abc import Iterator
from urllib.parse import quote

from slugify import slugify

from newburrow.assess import file_kinds
from newburrow.assess.site_of_file import site_of_file
from newburrow.convert.context import Context
from newburrow.convert.plan import existing
from newburrow.core import url, url_pattern
from newburrow.core.file_names import without_query
from newburrow.core.problem import Problem
from newburrow.model import Media
from newburrow.model.media import UNREADABLE_FILE
from newburrow.model.record_types import FILE_KIND
from newburrow.store.journal.rows import Fate, LedgerRow

_DIGITS = 10  # of the digest in a name; the whole digest if that is not enough


def title_of(media: Media) -> str:
    """The name by which a person knows the file."""
    return media.title or media.path.rpartition("/")[2] or media.address or media.named_path


def plan(context: Context) -> None:
    """Give each file its name and address on the new host.

    A name is made of the file's own name and its digest, so that names cannot collide and files with the
    same bytes move once. Files that the host does not accept, that are missing from the export or that
    are on another site are settled here with the reason.
    """
    for media in context.store.all(Media):
        if not media.path and url.site_key(media.address) not in (
            "",
            *(url.site_key(site.address) for site in context.sites),
        ):
            _elsewhere(media, context)
            continue
        if not media.path:
            _missing(media, context)
            continue
        if refused := _refused(media, context):
            context.journal.ledger.add(_settled(media, Fate.FAILED, refused))
            context.journal.follow_ups.add(_not_taken(media, refused))
            continue
        new = _named(media, context)
        if not media.address:
            site, path = site_of_file(media.path, context.sites)
            context.planning.files.add_unaddressed(
                url.full_path(url.resolve(site, quote(path))), new
            )
    for name, why in context.store.left_out_files():
        context.journal.ledger.add(
            LedgerRow(FILE_KIND, f"{FILE_KIND}:{name}", FILE_KIND, Fate.LEFT_OUT, why, name)
        )


def _named(media: Media, context: Context) -> str:
    """The new address of a file, under a name that nothing else has; one of the same bytes gives way to the first."""
    for name in _names(media, context):
        owner, digest = context.journal.files.with_name(name)
        is_other = owner and digest != media.digest
        if not is_other and existing.has_file(name, media, context) != "other":
            break
    same = owner or context.planning.files.with_digest(media.digest)[0]
    if same:
        name, new = context.journal.files.get(same)
        context.journal.ledger.add(
            _settled(media, Fate.MERGED, f"has the same bytes as {same}", new)
        )
    else:
        new = url.resolve(
            context.new.address,
            url_pattern.expand_names(context.host.media.address, {"name": name}),
        )
        if existing.has_file(name, media, context) == "same":
            context.journal.ledger.add(
                _settled(media, Fate.MERGED, "is on the new host already", new)
            )
    context.planning.files.add(media.key, name, new, media.digest)
    return new


def _refused(media: Media, context: Context) -> str:
    """Why the host does not take a file; empty for one that it takes."""
    rules, host = context.host.media, context.host.title or context.host.name
    if rules.file_bytes and media.size > rules.file_bytes:
        return (
            f"it has {media.size:,} bytes; {host} accepts files of {rules.file_bytes:,} at most"
        )
    type_ = (
        media.media_type
        or mimetypes.guess_type(without_query(media.path))[0]
        or "application/octet-stream"
    )
    if rules.types and not any(
        fnmatch.fnmatchcase(type_.lower(), pattern) for pattern in rules.types
    ):
        return f"{host} accepts no files of the type {type_}"
    return ""


def _not_taken(media: Media, why: str) -> Problem:
    return Problem.about(media, "file-not-taken", file=media.path, reason=why)


def leave_unshown(context: Context, media: Media) -> bool:
    """Leave out a file that nothing shows or links to, if that was decided. Gives whether it was left out."""
    _name, new = context.journal.files.get(media.key)
    choice = context.decisions.media.files
    if choice == "all" or context.planning.shown.has(new):
        return False
    why = "nothing that moves shows it or links to it (move.toml, media.files)"
    if choice == "content":
        if file_kinds.is_content(media):
            return False
        why = "it belongs to software or is an archive, and nothing shows it (move.toml, media.files)"
        context.tally["file-not-content"] += 1
    context.journal.ledger.add(_settled(media, Fate.LEFT_OUT, why))
    context.planning.drop_file(media.key, why)
    return True


def _elsewhere(media: Media, context: Context) -> None:
    """A file on another site stays there, and what names it goes on to do so."""
    context.planning.files.add(media.key, "", media.address, "")
    context.journal.ledger.add(
        _settled(media, Fate.MOVED, "is on another site, and stays there", media.address)
    )


def _missing(media: Media, context: Context) -> None:
    if reason := media.extra.get(UNREADABLE_FILE):
        context.journal.ledger.add(
            _settled(media, Fate.FAILED, f"the file cannot be read: {reason[0]}")
        )
        return  # the finding of the reader is the follow-up
    context.journal.ledger.add(_settled(media, Fate.FAILED, "the file is not in the export"))
    named = media.named_path or media.address
    context.journal.follow_ups.add(Problem.about(media, "missing-file", file=named))


def _settled(media: Media, fate: Fate, reason: str = "", new: str = "") -> LedgerRow:
    return LedgerRow(
        "media",
        media.key,
        "media",
        fate,
        reason,
        title_of(media),
        media.address or media.path,
        new,
    )


def moved(old: Media, new: Media) -> LedgerRow:
    """The ledger's row for a file that went to the new host."""
    return _settled(old, Fate.MOVED, new=new.address)


def failed(media: Media, reason: str) -> LedgerRow:
    """The ledger's row for a file whose record the writer could not write."""
    return _settled(media, Fate.FAILED, reason)


def _names(media: Media, context: Context) -> Iterator[str]:
    """Names for a file, the best first; the last is of these bytes alone."""
    folder = _folder_of(media, context)
    stem, extension = _parts(media)
    if folder:
        yield f"{folder}/{stem}{extension}"
    for mark in (media.digest[:_DIGITS], media.digest):
        yield f"{folder}/{stem}-{mark}{extension}".lstrip("/")


def _folder_of(media: Media, context: Context) -> str:
    """The folder for the files of an entry, on a host that has such: the path of its address after what all share."""
    if not context.host.media.by_entry or not media.entry:
        return ""
    place = context.journal.plan.get(media.entry)
    if place is None:
        return ""
    pattern = (
        context.decisions.addresses.get(place.kind) or context.host.kinds[place.kind].address
    )
    shared = f"{url.path_of(context.new.address)}/{pattern.partition('{')[0]}".replace(
        "//", "/"
    )
    path = url.path_of(place.new).removeprefix(shared.lstrip("/"))
    steps = [step for step in path.split("/") if step not in ("", ".", "..")]
    return "/".join(steps).removesuffix(".html")


def _parts(media: Media) -> tuple[str, str]:
    """The name of a file in letters that every server takes, and its extension with the dot."""
    last = without_query(media.path).rpartition("/")[2]
    stem, dot, extension = last.rpartition(".")
    if dot and stem:
        stem, extension = (stem, slugify(extension))
    else:
        stem, extension = (last, "")
    plain = slugify(stem, max_length=60) or "file"
    return plain, f".{extension}" if extension else ""
