"""Plain text: blank lines part paragraphs, line ends are kept."""

from __future__ import annotations

import html
import re


class Text:
    """Plain text to HTML."""

    name = "text"

    def to_html(self, text: str) -> str:
        """Paragraphs and line breaks; nothing in the text is taken for markup."""
        blocks = re.split(r"\n[ \t]*\n\s*", text.replace("\r\n", "\n").strip())
        return "".join(
            f"<p>{html.escape(block, quote=False).replace(chr(10), '<br>')}</p>" for block in blocks if block
        )


MARKUP = Text()
