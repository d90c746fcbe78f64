"""What a writer is told before the first record."""

from __future__ import annotations

from newburrow.convert.context import Context
from newburrow.convert.plan import menus
from newburrow.core import url
from newburrow.dialects import loader as dialects
from newburrow.formats.base import Job


def job_of(context: Context, updated: str, templates: dict[str, str]) -> Job:
    """The job of the host's writer. Settles the lines of the menus.

    `updated` says when the newest entry was changed (RFC 3339); `templates` are the host's own.
    """
    host = context.host
    name = host.write.get("dialect", "")
    return Job(
        site=context.new,
        options=host.write,
        updated=updated,
        dialect=dialects.load(name) if name else None,
        file_bytes=host.limits.file_bytes or 0,
        templates=templates,
        goes_to=lambda address: _goes_to(address, context),
        menus=menus.plan(context),
        terms=tuple({term.key: term for term in context.terms.values()}.values()),
    )


def _goes_to(address: str, context: Context) -> bool:
    """Whether an entry or a file goes to an address of the new site."""
    journal = context.planning
    return bool(journal.files.key_at(address) or journal.plan.key_at(url.key(address)))
