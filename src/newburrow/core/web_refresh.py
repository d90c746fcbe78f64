"""Answers that lead a visitor on by themselves: the `Refresh` header, and `<meta http-equiv=refresh>`."""

from __future__ import annotations

import re

# The HTML standard, section 4.2.5.3; browsers take the header in the same form.
_REFRESH = re.compile(
    r"\s*(\d*)(?:\.[\d.]*)?\s*[;,\s]\s*(?:url\s*=)?\s*(['\"]?)(.+?)\2\s*",
    re.IGNORECASE | re.DOTALL,
)
_LONGEST_WAIT = 10  # seconds; an answer that stays longer may be meant to be read


def target_of(refresh: str) -> str:
    """The address, as it is written, that a visitor is led on to within ten seconds; empty where there is none."""
    found = _REFRESH.fullmatch(refresh)
    if found is None or int(found[1] or 0) > _LONGEST_WAIT:
        return ""
    return found[3]
