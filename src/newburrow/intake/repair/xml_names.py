"""What is a name, and what a character, in XML (XML 1.0 sections 2.2 and 2.3; Namespaces in XML 1.0 section 4)."""

from __future__ import annotations

import re

# Namespaces in XML 1.0 section 4
_QNAME = re.compile(rb"(?:[A-Za-z_][\w.-]*:)?[A-Za-z_][\w.-]*")
_LETTER = (
    "A-Za-z_\u00c0-\u00d6\u00d8-\u00f6\u00f8-\u02ff\u0370-\u037d\u037f-\u1fff\u200c-\u200d\u2070-\u218f\u2c00-\u2fef"
    "\u3001-\ud7ff\uf900-\ufdcf\ufdf0-\ufffd\U00010000-\U000effff"
)  # XML 1.0 section 2.3, NameStartChar without the colon
_PART = f"[{_LETTER}][{_LETTER}0-9.\u00b7\u0300-\u036f\u203f\u2040-]*"
_WIDE_QNAME = re.compile(f"(?:{_PART}:)?{_PART}")
REFERENCE = re.compile(rb"&(?:amp|lt|gt|quot|apos|#([0-9]{1,7})|#x([0-9a-fA-F]{1,6}));")
_CHARACTERS = ((0x20, 0xD7FF), (0xE000, 0xFFFD), (0x10000, 0x10FFFF))


def is_name(raw: bytes) -> bool:
    """Whether bytes are a qualified name; those of another encoding than UTF-8 are taken as they are."""
    if raw.isascii():
        return _QNAME.fullmatch(raw) is not None
    try:
        return _WIDE_QNAME.fullmatch(raw.decode("utf-8")) is not None
    except UnicodeDecodeError:
        return True


def is_character(found: re.Match[bytes]) -> bool:
    """Whether a character reference is to a character that XML allows (XML 1.0 section 2.2)."""
    if not found[1] and not found[2]:
        return True
    if found[1]:
        number = int(found[1])
    else:
        number = int(found[2], 16)
    return number in (9, 10, 13) or any(low <= number <= high for low, high in _CHARACTERS)
