"""`sitemap.xml` of the new site, in as many parts as the protocol asks for (sitemaps.org 0.9)."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from itertools import islice
from typing import BinaryIO

from newburrow.core import url
from newburrow.formats.xml_output import text

MOST = 50_000  # addresses in one file
_SPACE = "http://www.sitemaps.org/schemas/sitemap/0.9"
_HEAD = '<?xml version="1.0" encoding="UTF-8"?>\n'


def write(
    open_file: Callable[[str], BinaryIO], pages: Iterable[str], site: str, most: int = MOST
) -> None:
    """Write the sitemap of the new site (sitemaps.org protocol 0.9).

    With more addresses than one file may have, `sitemap.xml` is an index of the parts.
    """
    waiting = iter(pages)
    part = list(islice(waiting, most))
    following = list(islice(waiting, most))
    if not following:
        _part(open_file("sitemap.xml"), part)
        return
    number = 0
    while part:
        number += 1
        _part(open_file(f"sitemap-{number}.xml"), part)
        part, following = following, list(islice(waiting, most))
    with open_file("sitemap.xml") as stream:
        parts = (url.resolve(site, f"/sitemap-{n}.xml") for n in range(1, number + 1))
        inner = "".join(
            f"<sitemap><loc>{text(url.safe(part))}</loc></sitemap>\n" for part in parts
        )
        stream.write(
            f'{_HEAD}<sitemapindex xmlns="{_SPACE}">\n{inner}</sitemapindex>\n'.encode()
        )


def _part(stream: BinaryIO, pages: Iterable[str]) -> None:
    with stream:
        stream.write(f'{_HEAD}<urlset xmlns="{_SPACE}">\n'.encode())
        for page in pages:
            stream.write(f"<url><loc>{text(url.safe(page))}</loc></url>\n".encode())
        stream.write(b"</urlset>\n")
