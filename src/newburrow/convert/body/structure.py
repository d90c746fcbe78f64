"""What a markup cannot express of how a text is built: its lists, tables, headings and blocks of code."""

from __future__ import annotations

import re
from collections import Counter

from newburrow.markup.html import Fragment
from newburrow.markup.html_tags import HEADINGS

_TAG = re.compile(r"<(h[1-6]|ul|ol|dl|li|dt|dd|table|tr|td|th|pre|blockquote)\b")
# What is counted for a person, by its elements.
_NAMES = {
    "headings": HEADINGS,
    "lists": ("ul", "ol", "dl"),
    "items of lists": ("li", "dt", "dd"),
    "tables": ("table",),
    "cells": ("td", "th"),
    "blocks of code": ("pre",),
    "quotations": ("blockquote",),
}


def changes(before: str, after: str) -> str:
    """How many of each there were in one HTML text, and how many there are in another; empty if as many.

    Both are as a parser or a markup writes them, with tags in small letters.
    """
    old, new = Counter(_TAG.findall(before)), Counter(_TAG.findall(after))
    if old == new:
        return ""
    said = []
    for name, tags in _NAMES.items():
        was, now = sum(old[tag] for tag in tags), sum(new[tag] for tag in tags)
        if was != now:
            said.append(f"{name}: {was:,} before, {now:,} now")
    return "; ".join(said) or "levels of headings, or kinds of lists"


def links_in_code(before: str, after: str) -> list[str]:
    """The addresses of links within blocks of code in one HTML text, if another has fewer links."""
    if "<pre" not in before or before.count("<a ") <= after.count("<a "):
        return []
    return [
        address
        for node in Fragment.of_any(before).select("pre a[href]")
        if not (address := node.attributes.get("href") or "").startswith("#")
    ]


def wordless_links(before: str, after: str) -> list[str]:
    """The addresses of links without words or a picture in one HTML text, if another has fewer links.

    Those to a place on the same page are not among them: they mark headings.
    """
    if before.count("<a ") <= after.count("<a "):
        return []
    return [
        address
        for node in Fragment.of_any(before).select("a[href]")
        if not (node.text() or "").strip() and node.css_first("img") is None
        if not (address := node.attributes.get("href") or "").startswith("#")
    ]
