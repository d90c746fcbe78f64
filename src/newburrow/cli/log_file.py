"""The log that `--log FILE` writes: as text, or as JSON Lines where the file is named `.jsonl`."""

from __future__ import annotations

import json
import logging
from datetime import UTC, datetime
from pathlib import Path

from newburrow.core.log_facts import FACTS
from newburrow.core.problem import refusal

_TEXT = "%(asctime)s %(levelname)s %(name)s %(message)s"


class JsonLineFormatter(logging.Formatter):
    """One JSON object a line: time (RFC 3339, UTC), level, logger, message, and the facts that go with it."""

    def format(self, record: logging.LogRecord) -> str:
        """The line of a record."""
        facts = dict(getattr(record, FACTS, {}))
        line = {
            "time": datetime.fromtimestamp(record.created, UTC).isoformat(),
            "level": record.levelname.lower(),
            "logger": record.name,
            "message": facts.pop("about", None) or record.getMessage(),
            **facts,
        }
        if record.exc_info:
            line["traceback"] = self.formatException(record.exc_info)
        return json.dumps(line, ensure_ascii=False, default=str)


def start(file: str | None, level: str) -> None:
    """Begin to write the log; without a file there is none. Raises BurrowError where it cannot be written."""
    if not file:
        return
    try:
        handler = logging.FileHandler(file, encoding="utf-8", errors="replace")
    except OSError as error:
        raise refusal(
            "cannot-write",
            f"The log {file!r} cannot be written: {error.strerror}.",
            "Name another file for --log.",
        ) from None
    is_json = Path(file).suffix.lower() == ".jsonl"
    handler.setFormatter(JsonLineFormatter() if is_json else logging.Formatter(_TEXT))
    log = logging.getLogger("newburrow")
    log.setLevel(level.upper())
    log.addHandler(handler)
