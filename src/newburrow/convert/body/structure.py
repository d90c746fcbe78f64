"""What a markup cannot express of how a text is built: its lists, tables, headings and blocks of code."""

from __future__ import annotations

import re
from collections import Counter

_TAG = re.compile(r"<(h[1-6]|ul|ol|dl|li|dt|dd|table|tr|td|th|pre|blockquote)\b")
# What is counted for a person, by its elements.
_NAMES = {
    "headings": ("h1", "h2", "h3", "h4", "h5", "h6"),
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
