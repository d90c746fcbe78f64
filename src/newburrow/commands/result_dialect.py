"""The dialect in which the result of a move is read back."""

from __future__ import annotations

from newburrow.commands.finished_move import FinishedMove
from newburrow.core import plugins
from newburrow.core.problem import BurrowError, refusal
from newburrow.formats.base import Format
from newburrow.formats.exports import several
from newburrow.formats.exports.export import ExportRequest
from newburrow.model import Where


def dialect_of(move: FinishedMove) -> str:
    """The dialect in which the result is read; empty to recognise it. Raises BurrowError where nothing says that."""
    host = move.host
    named = host.dialect or str(host.write.get("dialect", ""))
    format_: Format = plugins.get(plugins.FORMATS, host.format)
    if named or not format_.needs_dialect:
        return named
    try:
        several.examine_all(ExportRequest([move.path / "new"]))
    except BurrowError as error:
        if error.problem.code != "no-dialect":
            return ""
        raise refusal(
            "no-dialect",
            f"Nothing says how to read what was written for {host.title or host.name}.",
            "Describe it in a dialect (docs/dialects.md) and name that in the host profile: "
            'dialect = "my-dialect.toml".',
            Where(str(move.path / "new")),
        ) from None
    return ""
