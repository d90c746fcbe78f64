"""Writing a manifest: the organisation from the places, the resources from the list."""

from __future__ import annotations

from collections.abc import Iterator
from typing import BinaryIO

from newburrow.formats.cartridge.package_files import PackageList, Standing, identifier
from newburrow.formats.xml_output import BufferedFile, text

_DEEPEST = 100  # levels of the tree
_PIECE = 1 << 16  # characters copied at a time


def write(stream: BinaryIO, head: str, organisation: str, listed: PackageList) -> None:
    """Write a manifest.

    `head` is its beginning with the metadata, `organisation` the attributes of the organisation; what stands under
    nothing that is written stands at the top.
    """
    file = BufferedFile(stream)
    file.put(f"{head}\n<organizations>\n<organization {organisation}>\n")
    file.put(f'<item identifier="{identifier("the course")}">\n')
    for line in _items(listed.tree(), "", 0):
        file.put(line)
    file.put("</item>\n</organization>\n</organizations>\n<resources>\n")
    listed.resources.seek(0)
    while piece := listed.resources.read(_PIECE):
        file.put(piece)
    file.put("</resources>\n</manifest>\n")
    file.close()


def _items(under: dict[str, list[Standing]], parent: str, depth: int) -> Iterator[str]:
    for standing in under.get(parent, ()) if depth < _DEEPEST else ():
        if standing.key in under:
            inner = list(_items(under, standing.key, depth + 1))
        else:
            inner = []
        if not inner:
            yield _item(standing, standing.resource, standing.key)
            continue
        # An item that stands for a resource holds no others, so that a page with pages under it is the first of them.
        yield _item(standing, "", f"{standing.key} and what is under it", closed=False)
        if standing.resource:
            yield _item(standing, standing.resource, standing.key)
        yield from inner
        yield "</item>\n"


def _item(standing: Standing, resource: str, key: str, closed: bool = True) -> str:
    reference = f' identifierref="{resource}"' if resource else ""
    hidden = "" if standing.is_visible else ' isvisible="false"'
    own = identifier(f"item {key}")
    title = f"<title>{text(standing.title)}</title>"
    begun = f'<item identifier="{own}"{reference}{hidden}>\n{title}\n'
    if closed:
        return begun + "</item>\n"
    return begun
