"""Names of a wiki's pages that say what a page is, such as "Pears (talk)" for the page that talks about "Pears"."""

from __future__ import annotations

from newburrow.core import url_pattern


def name_in(pattern: str, title: str) -> str:
    """The name that `{name}` stands for in a title; empty where the pattern is empty or does not match.

    A name may hold any character, a slash or a question mark too.
    """
    if not pattern:
        return ""
    found = url_pattern.matcher(pattern.replace("{name}", "{+name}")).fullmatch(title)
    if not found:
        return ""
    return str(found["name"]).strip()
