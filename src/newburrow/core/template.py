"""Templates that a user writes: Jinja2, in a sandbox."""

from __future__ import annotations

from functools import lru_cache
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from jinja2 import Template


@lru_cache(maxsize=64)
def compiled(text: str, escaped: bool = True) -> Template:
    """The compiled template of a text; placeholders are Jinja2's, in a sandbox.

    With `escaped`, values are escaped for HTML. A name without a value shows nothing. Raises ValueError, with
    the reason and the line, if the text is not a template.
    """
    from jinja2 import TemplateSyntaxError  # heavy: imported where it is used
    from jinja2.sandbox import SandboxedEnvironment

    try:
        return SandboxedEnvironment(autoescape=escaped).from_string(text)
    except TemplateSyntaxError as error:
        raise ValueError(f"{error.message} (line {error.lineno} of it)") from None


def names_in(text: str) -> frozenset[str]:
    """The names of the values that a template uses."""
    from jinja2.meta import find_undeclared_variables  # heavy: imported where it is used
    from jinja2.sandbox import SandboxedEnvironment

    return frozenset(find_undeclared_variables(SandboxedEnvironment().parse(text)))
