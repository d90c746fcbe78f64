"""The new site being written: the host's own files, and what is beside them."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from newburrow.convert.context import Context
from newburrow.convert.plan import menus
from newburrow.core import plugins
from newburrow.core.problem import NOWHERE, Problem
from newburrow.decide.move_folder import MoveFolder
from newburrow.formats.base import Writer
from newburrow.formats.exports.export import Export
from newburrow.store.journal.handed_over import HandedSite
from newburrow.write import beside, packing
from newburrow.write.files import copier
from newburrow.write.job import job_of
from newburrow.write.output import FolderOutput


class NewSite:
    """Where the result of a conversion goes: a writer of the host's format, and copies of files."""

    def __init__(
        self, folder: MoveFolder, rehearse: bool, context: Context, exports: Sequence[Export]
    ) -> None:
        self.context = context
        self.zip = str(
            context.host.write.get("zip") or ""
        )  # the name of what is packed; empty: files
        self.output = FolderOutput(folder, rehearse, bool(self.zip))
        self.copy = copier(exports, self.output)

    def writer(self, updated: str, templates: dict[str, str]) -> Writer:
        """A writer of the host's format. Settles the front page and the menus.

        `updated` says when the newest entry was changed (RFC 3339); `templates` are the host's own.
        """
        context = self.context
        context.new = menus.of_site(context)
        job = job_of(context, updated, templates)
        authors = tuple(context.authors.values())
        context.planning.handed.set_site(HandedSite(job.site, job.menus, job.terms, authors))
        writer: Writer = plugins.get(plugins.FORMATS, context.host.format).write(
            self.output, job
        )
        return writer

    def write_beside(self, unknown: Iterator[tuple[str, int]]) -> None:
        """Write what the host has no place for, the new ids, and the old addresses of which nothing is known."""
        beside.write_data_file(self.context, self.output)
        beside.check_total(self.context, self.output)
        beside.write_ids(self.context, self.output)
        beside.write_unknown(unknown, self.output)

    def pack(self) -> None:
        """Pack what was written into zips, where the host takes those."""
        staging, self.output.staging = (
            self.output.staging,
            None,
        )  # what comes now lies beside it
        if staging is None:
            return
        limit = self.context.host.limits.upload_bytes or 0
        for part in packing.pack(staging, self.zip, limit):
            size = (staging.folder.path / "new" / part).stat().st_size
            if limit and size > limit:
                problem = Problem.at(
                    NOWHERE,
                    "host-limit",
                    message=f"{part} has {size:,} bytes; the host accepts uploads of {limit:,} bytes.",
                )
                self.context.journal.follow_ups.add(problem)
