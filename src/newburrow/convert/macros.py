"""Finding a host's placeholders in a text."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from functools import lru_cache

from newburrow.formats.dialect import Macro

_FORMS = {"bracket": (r"\[", r"\]"), "brace": (r"\{\{", r"\}\}")}


@lru_cache(maxsize=32)
def _pattern(form: str, names: tuple[str, ...]) -> re.Pattern[str]:
    opening, closing = _FORMS[form]
    each = "|".join(re.escape(name) for name in names)
    return re.compile(rf"{opening}\s*({each})(?![\w-])[^\[\]{{}}]*{closing}", re.IGNORECASE)


def found_in(text: str, macros: Sequence[Macro]) -> Iterator[tuple[Macro, str]]:
    """Each macro that a text holds, as it is written there."""
    for form, (mark, _closing) in _FORMS.items():
        if mark.replace("\\", "") not in text:
            continue
        known = {macro.name.lower(): macro for macro in macros if macro.form == form}
        if known:
            for found in _pattern(form, tuple(known)).finditer(text):
                yield known[found[1].lower()], found[0]
