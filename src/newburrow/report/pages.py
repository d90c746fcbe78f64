"""The templates of reports. Everything in them that comes from an export is text: no markup of it is let through."""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path
from typing import Any

from jinja2 import Environment, FileSystemLoader, StrictUndefined


@lru_cache(maxsize=1)
def environment() -> Environment:
    """The templates, with all values escaped."""
    made = Environment(
        loader=FileSystemLoader(Path(__file__).parent),
        autoescape=True,
        undefined=StrictUndefined,
        trim_blocks=True,
        lstrip_blocks=True,
    )
    made.filters["web"] = web_address
    return made


def rendered(name: str, **facts: Any) -> str:
    """A page by its template."""
    return environment().get_template(name).render(**facts)


def web_address(address: str) -> str:
    """The address if it is a web address, which is safe to click on; empty otherwise."""
    if address.lower().startswith(("http://", "https://")):
        return address
    return ""
