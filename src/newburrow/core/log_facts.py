"""Facts that go with a line of the log, for logs that programs read."""

from __future__ import annotations

import logging
from typing import Any

FACTS = "facts"  # the attribute of a log record that has them


def debug(log: logging.Logger, message: str, **facts: Any) -> None:
    """Log what became of one object, with its facts."""
    if log.isEnabledFor(logging.DEBUG):
        log.debug("%s: %s", message, _words(facts), extra={FACTS: {"about": message, **facts}})


def info(log: logging.Logger, message: str, **facts: Any) -> None:
    """Log a step, a decision or a file, with its facts."""
    if log.isEnabledFor(logging.INFO):
        log.info("%s: %s", message, _words(facts), extra={FACTS: {"about": message, **facts}})


def _words(facts: dict[str, Any]) -> str:
    return " ".join(f"{name}={str(value)!r}" for name, value in facts.items() if value)
