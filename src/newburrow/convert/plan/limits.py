"""The limits of the new host on titles, and on all that is handed over: said before, with what is left out."""

from __future__ import annotations

from newburrow.convert.context import Context
from newburrow.convert.plan.media import failed
from newburrow.core.problem import NOWHERE, Problem
from newburrow.model import Entry, Media


def plan(context: Context) -> None:
    """Keep the whole move within the host's limit on all bytes.

    If texts and files together are more than the limit, the largest files are left out, so that the fewest
    are. Each is settled as failed and is a follow-up; one more names the limit and the totals in bytes.
    """
    most = context.host.limits.total_bytes
    if most is None:
        return
    texts = sum(
        _bytes(entry, context)
        for entry in context.store.all(Entry)
        if context.journal.plan.get(entry.key)
    )
    files = sorted((-media.size, key) for key, media in _files(context))
    total = texts - sum(size for size, _key in files)
    if total <= most:
        return
    host, left = context.host.title or context.host.name, 0
    reason = f"above the limit of {most:,} bytes in all of {host}"
    for size, key in files:
        if total <= most:
            break
        media = context.store.get(Media, key)
        assert media is not None
        context.journal.ledger.add(failed(media, reason))
        context.planning.drop_file(key, reason)
        context.journal.follow_ups.add(
            Problem.about(
                media, "file-not-taken", file=f"{media.path} ({-size:,} bytes)", reason=reason
            )
        )
        total += size
        left += 1
    message = (
        f"{host} accepts {most:,} bytes in all; the texts have about {texts:,}. "
        f"{left:,} of the largest files are left out."
    )
    if total > most:
        message += " The texts alone are too much."
    context.journal.follow_ups.add(Problem.at(NOWHERE, "host-limit", message=message))


def _files(context: Context) -> list[tuple[str, Media]]:
    found = (
        (key, context.store.get(Media, key)) for key, _name in context.planning.files.all()
    )
    return [
        (key, media)
        for key, media in found
        if media is not None and not context.planning.ledger.has("media", key)
    ]


def _bytes(entry: Entry, context: Context) -> int:
    """About how many bytes an entry takes with its comments."""
    texts = (
        entry.title,
        entry.summary,
        entry.body.text,
        *(comment.body.text for comment in context.store.comments_of(entry)),
    )
    return sum(len(text.encode("utf-8", "replace")) + 100 for text in texts)
