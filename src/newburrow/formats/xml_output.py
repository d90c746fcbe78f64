"""XML being written by string building: escaping, and a file that is written in large pieces."""

from __future__ import annotations

import re
from html import escape  # that for XML imports all of what the web needs
from typing import BinaryIO

# XML 1.0 section 2.2
_NOT_XML = re.compile("[^\t\n\r\x20-\ud7ff\ue000-\ufffd\U00010000-\U0010ffff]")
_CONTROLS = bytes(number for number in range(32) if chr(number) not in "\t\n\r")
_NO_CHARACTERS = "\ufffe".encode(), "\uffff".encode()
_BUFFER = 256 * 1024  # characters gathered before they are written


def text(value: str) -> str:
    """Character data for XML 1.0: `&`, `<` and `>` escaped.

    Characters that XML 1.0 section 2.2 does not allow become U+FFFD, one each.
    """
    if value.isprintable():  # printable text is allowed, and most is short
        if "&" in value or "<" in value or ">" in value:
            return escape(value, quote=False)
        return value
    try:
        data = value.encode()  # bytes are searched in a fraction of the time
    except UnicodeEncodeError:
        data = _allowed(value).encode()
    if (
        len(data.translate(None, _CONTROLS)) < len(data)
        or _NO_CHARACTERS[0] in data
        or _NO_CHARACTERS[1] in data
    ):
        data = _allowed(value).encode()
    return data.replace(b"&", b"&amp;").replace(b"<", b"&lt;").replace(b">", b"&gt;").decode()


def _allowed(value: str) -> str:
    return _NOT_XML.sub("\N{REPLACEMENT CHARACTER}", value)


def attribute(value: str) -> str:
    """An attribute value with its quotes."""
    made = text(value)
    if '"' in made or not made.isprintable():
        made = made.replace('"', "&quot;").replace("\n", "&#10;").replace("\t", "&#9;")
    return f'"{made}"'


def cdata(value: str) -> str:
    """A CDATA section, in as many as it takes where the value holds the mark that ends one."""
    return "<![CDATA[" + _allowed(value).replace("]]>", "]]]]><![CDATA[>") + "]]>"


class BufferedFile:
    """A file that is written in large pieces."""

    def __init__(self, file: BinaryIO) -> None:
        self._file = file
        self._held: list[str] = []
        self._size = 0

    def put(self, piece: str) -> None:
        """Write a piece of text."""
        self._held.append(piece)
        self._size += len(piece)
        if self._size > _BUFFER:
            self._flush()

    def close(self) -> None:
        """Write what is held, and close the file."""
        self._flush()
        self._file.close()

    def _flush(self) -> None:
        self._file.write("".join(self._held).encode("utf-8", "replace"))
        self._held.clear()
        self._size = 0
