"""Where an address found in a body leads on the new site."""

from __future__ import annotations

from enum import StrEnum

from msgspec import Struct

from newburrow import address
from newburrow.convert.context import Context
from newburrow.journal import GONE


class Leads(StrEnum):
    """What an address turned out to be."""

    HERE = "here"  # a fragment of the same page, or nothing
    ELSEWHERE = "elsewhere"  # another site, a mail address, ...
    MOVED = "moved"  # to an address of the new site
    GONE = "gone"  # to something that stays behind
    UNKNOWN = "unknown"  # to the old site, where nothing in the export stands
    UNSAFE = "unsafe"  # a script


class Link(Struct, frozen=True):
    """An address found in a body, and what becomes of it."""

    leads: Leads
    address: str  # to be written
    old: str = ""  # absolute, where it leads into the old site


def follow(found: str, base: str, context: Context) -> Link:
    """What becomes of an address that stands in a body of the page `base`; fragment and query are kept."""
    stripped = found.strip()
    if not stripped or stripped.startswith("#"):
        return Link(Leads.HERE, found)
    scheme = "".join(stripped.partition(":")[0].split()).lower() if ":" in stripped else ""
    if scheme in ("javascript", "vbscript"):
        return Link(Leads.UNSAFE, "")
    old = address.resolve(base or context.old.address, stripped)
    parts = address.split(old)
    if parts is None or not address.same_site(old, context.old.address):
        return Link(Leads.ELSEWHERE, found)
    fragment = f"#{parts.fragment}" if parts.fragment else ""
    for key, rest in address.lookup_keys(parts):
        answer = context.journal.answer_to(key)
        if answer and answer.status == GONE:
            return Link(Leads.GONE, old, old)
        if answer:
            query = ("&" if "?" in answer.new else "?") + rest if rest else ""
            return Link(Leads.MOVED, answer.new + query + fragment, old)
    original = _original(parts.path, context)
    if original:
        return Link(Leads.MOVED, original + fragment, old)
    return Link(Leads.UNKNOWN, old, old)


def _original(path: str, context: Context) -> str:
    """The new address of the file of which a path is a resized variant."""
    for dialect in context.dialects:
        for resized in dialect.media.resized:
            found = address.matcher(resized.variant).fullmatch(path)
            if found:
                original = address.expand(resized.original, found.groupdict())
                answer = context.journal.answer_to(address.key(address.resolve(context.old.address, original)))
                if answer and answer.status != GONE:
                    return answer.new
    return ""
