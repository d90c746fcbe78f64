"""Templates that a user writes into a TOML file: Jinja2, in a sandbox, with what is put in escaped for HTML."""

from __future__ import annotations

from functools import lru_cache
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from jinja2 import Template


@lru_cache(maxsize=64)
def compiled(text: str) -> Template:
    """The template. Raises ValueError, saying why, where the text is none."""
    from jinja2 import TemplateSyntaxError  # heavy: imported where it is used
    from jinja2.sandbox import SandboxedEnvironment

    try:
        return SandboxedEnvironment(autoescape=True).from_string(text)
    except TemplateSyntaxError as error:
        raise ValueError(f"{error.message} (line {error.lineno} of it)") from None
