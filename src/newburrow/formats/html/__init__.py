"""A site saved as HTML pages: a wiki's export, a documentation tree, a copy of a site as it stood on the web."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterator, Sequence
from typing import Any

import msgspec

from newburrow.core.problem import Problem
from newburrow.dialects.css_selector import CssSelector
from newburrow.dialects.schema import Dialect
from newburrow.formats.base import Format, Input, Job, Output, Writer
from newburrow.formats.html import reader, site_sample
from newburrow.formats.html.writer import HtmlOptions, HtmlWriter
from newburrow.intake.head import Head
from newburrow.intake.part import Part
from newburrow.model import Site
from newburrow.model.reading import Item

_NAMES = (".html", ".htm", ".xhtml", ".xht")
_STARTS = (b"<!doctype html", b"<html", b"<head", b"<body", b"<title", b"<meta")


class HtmlPages(Format):
    """HTML pages, each a file of its own."""

    name = "html"
    title = "HTML pages"
    is_tree = has_menus = is_one_page = True
    always_said = ("title",)  # a page without one is known by its name
    layout_files = (
        ".css", ".js", ".mjs", ".map", ".scss", ".less",
        ".woff", ".woff2", ".ttf", ".eot", ".otf", ".ico", ".inv", ".webmanifest",
    )  # fmt: skip

    def recognise(self, head: Head) -> bool:
        """Whether it begins as an HTML document does, after comments; a name alone needs some markup in it."""
        start = _after_comments(head.start)
        if start.startswith(_STARTS):
            return True
        named = head.name.lower().endswith(_NAMES)
        return named and b"\0" not in start and b"<" in start

    def compiler(self, _dialect: Dialect) -> Callable[[str], Any]:
        """The function that compiles the text of a selector. It raises ValueError if the text is not one."""
        return CssSelector

    def plain(self) -> Dialect:
        """What pages say about themselves in open vocabularies."""
        return reader.PLAIN

    def site_of(self, parts: Sequence[Part], files: Collection[str]) -> Site | None:
        """The site as a sample of its pages shows it."""
        return site_sample.site_of(parts, files)

    def read(self, source: Input) -> Iterator[Item | Problem]:
        """The entry of one page, with what stands on the page beside it: comments, the menu."""
        return reader.read(source)

    def check_options(self, options: dict[str, Any]) -> None:
        """The options are those of HtmlOptions."""
        msgspec.convert(options, HtmlOptions)

    def write(self, output: Output, job: Job) -> Writer:
        """Pages by the template of the host."""
        return HtmlWriter(output, job)


def _after_comments(start: bytes) -> bytes:
    """The beginning of a page in lower case, without what can stand before its first element."""
    start = start.removeprefix(b"\xef\xbb\xbf").lstrip().lower()
    while start.startswith((b"<!--", b"<?xml")):
        _before, mark, start = start.partition(b"-->" if start.startswith(b"<!--") else b"?>")
        start = start.lstrip()
        if not mark:
            break
    return start


FORMAT = HtmlPages()
