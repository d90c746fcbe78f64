"""HTML texts whose addresses do not depend on where they stand."""

from __future__ import annotations

import html
import re

from newburrow.core import url
from newburrow.markup.html_tags import changed_in_tags

_ADDRESS = re.compile(r'(?<=\s)(src|href|poster)="([^"]*)"')


def resolved(text: str, base: str) -> str:
    """An HTML text with its relative addresses resolved against `base`; places within the page stay."""

    def whole(found: re.Match[str]) -> str:
        address = html.unescape(found[2])
        if not address or address.startswith("#"):
            return found[0]
        return f'{found[1]}="{html.escape(url.resolve(base, address))}"'

    return changed_in_tags(_ADDRESS, whole, text)
