"""A page of a package: an HTML file, whose body is the lesson."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import BinaryIO
from urllib.parse import quote

from msgspec.structs import replace
from selectolax.lexbor import LexborHTMLParser

from newburrow.core import url
from newburrow.core.problem import Problem, refusal
from newburrow.formats.cartridge.manifest import Resource
from newburrow.formats.qti1.material import FILE_BASE
from newburrow.intake.encodings import encoding_of
from newburrow.markup.html import DEEPEST, deeper_than, flattened, with_few_attributes
from newburrow.model import Body, Entry, Where

_LONGEST = 64 * 1024 * 1024  # bytes of a page


def lesson_of(
    resource: Resource, entry: Entry, site: str, opened: Callable[[str], BinaryIO]
) -> Iterator[Entry | Problem]:
    """The lesson in the file of a resource. Raises FileNotFoundError, and BurrowError where it is too large."""
    with opened(resource.path) as stream:
        data = stream.read(_LONGEST + 1)
    if len(data) > _LONGEST:
        advice = "Remove it from the export."
        message = f"The page is larger than {_LONGEST:,} bytes."
        raise refusal("too-large-text", message, advice, Where(resource.path))
    text, _cut = with_few_attributes(_decoded(data))
    if deeper_than(text, DEEPEST):
        text = flattened(text)
        yield Problem.at(Where(resource.path), "too-deep")
    page = LexborHTMLParser(FILE_BASE.sub("", text))
    body = page.body
    title = page.css_first("head > title")
    html = page.css_first("html")
    shown = " ".join((title.text() if title else "").split())
    language = (html.attributes.get("lang") or "") if html else ""
    inner = (body.inner_html or "").strip() if body else ""
    yield replace(
        entry,
        kind="lesson",
        title=entry.title or shown or resource.path.rpartition("/")[2].rpartition(".")[0],
        language=language,
        body=Body(inner, base=url.resolve(site, quote(resource.path))),
        source=Where(resource.path),
    )


def _decoded(data: bytes) -> str:
    """The page as text: UTF-8, or what it declares or begins with."""
    encoding = encoding_of(data[:4096])
    return data.decode(encoding.name if encoding else "utf-8", "replace")
