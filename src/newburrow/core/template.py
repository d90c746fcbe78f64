"""Templates that a user writes: Jinja2, in a sandbox, with bounds on time and size."""

from __future__ import annotations

from collections.abc import Iterator
from functools import lru_cache
from typing import TYPE_CHECKING, Any

from newburrow.core.memory_limit import memory_limit
from newburrow.core.time_limit import TimeLimitReached, time_limit

if TYPE_CHECKING:
    from jinja2 import Environment, Template

_SECONDS = 3.0  # for one use; an honest template needs a thousandth of it
_MEMORY = 256 * 1024 * 1024  # bytes, for one use
_LARGEST = 20_000_000  # characters of what a template gives
_LONGEST = 1_000_000  # characters of a text that an operator makes
# They make a text as long as a number says, or read a format that does.
_LENGTHENING = frozenset(
    ("ljust", "rjust", "center", "zfill", "expandtabs", "format", "format_map")
)
_FILTERS = ("format", "center", "indent")


class TemplateFailed(Exception):
    """A template gave nothing for these values; the words say why."""


@lru_cache(maxsize=64)
def compiled(text: str, escaped: bool = True) -> Template:
    """The compiled template of a text; placeholders are Jinja2's, in a sandbox.

    With `escaped`, values are escaped for HTML. A name without a value shows nothing. Raises ValueError, with
    the reason and the line, if the text is not a template.
    """
    from jinja2 import TemplateError  # heavy: imported where it is used

    try:
        return _environment(escaped).from_string(text)
    except TemplateError as error:
        line = getattr(error, "lineno", 1)
        raise ValueError(f"{error.message} (line {line} of it)") from None
    except (RecursionError, MemoryError, OverflowError, SyntaxError):
        raise ValueError("it is nested too deep, or too large") from None


def rendered(text: str, facts: dict[str, Any], escaped: bool = True) -> str:
    """What a template gives for these values.

    Raises TemplateFailed where it runs into an error, takes longer than a bound, or makes a text without end.
    """
    template = compiled(text, escaped)
    try:
        with time_limit(_SECONDS), memory_limit(_MEMORY):
            return _joined(template.generate(facts))
    except TimeLimitReached:
        raise TemplateFailed(f"it takes longer than {_SECONDS:g} seconds") from None
    except (MemoryError, OverflowError):
        raise TemplateFailed("it makes a text without end") from None
    except Exception as error:  # whatever an expression of a user runs into
        raise TemplateFailed(str(error).rstrip(".") or type(error).__name__) from None


def _joined(pieces: Iterator[str]) -> str:
    made, size = list[str](), 0
    for piece in pieces:
        size += len(piece)
        if size > _LARGEST:
            raise MemoryError
        made.append(piece)
    return "".join(made)


def names_in(text: str) -> frozenset[str]:
    """The names of the values that a template uses."""
    from jinja2.meta import find_undeclared_variables  # heavy: imported where it is used

    return frozenset(find_undeclared_variables(_environment(False).parse(text)))


@lru_cache(maxsize=2)
def _environment(escaped: bool) -> Environment:
    from jinja2.exceptions import SecurityError
    from jinja2.sandbox import SandboxedEnvironment

    class BoundedEnvironment(SandboxedEnvironment):
        """A sandbox in which no operator and no method makes a text or number without end."""

        intercepted_binops = frozenset(("*", "**", "%"))

        def call_binop(self, context: Any, operator: str, left: Any, right: Any) -> Any:
            if operator == "%" and isinstance(left, str):
                raise SecurityError("% with a text is not allowed; use ~")
            if operator == "**" and (abs(left) > _LONGEST or abs(right) > 100):
                raise SecurityError("a power is too large")
            if operator == "*":
                for many, piece in ((left, right), (right, left)):
                    if not isinstance(piece, int | float) and len(piece) * many > _LONGEST:
                        raise SecurityError("a text or list is repeated too often")
            return super().call_binop(context, operator, left, right)

        def is_safe_attribute(self, obj: Any, attr: str, value: Any) -> bool:
            return attr not in _LENGTHENING and super().is_safe_attribute(obj, attr, value)

    # Folding constants takes quadratic time on a long chain of operators.
    environment = BoundedEnvironment(autoescape=escaped, optimized=False)
    for name in _FILTERS:
        del environment.filters[name]
    return environment
