"""Files that go with an item apart from its body: enclosures of RSS and Atom, and the media module.

They are mentions: where the export has a media item of the same address, that one counts.
"""

from __future__ import annotations

from collections.abc import Iterator

from lxml import etree
from msgspec import Struct

from newburrow.core import url
from newburrow.dialects.selector import Index, index, text_of
from newburrow.formats.feed.feed_map import ATOM, MEDIA
from newburrow.model import Media, Where

ENCLOSURE, GROUP, CONTENT, THUMBNAIL = (
    "enclosure",
    MEDIA + "group",
    MEDIA + "content",
    MEDIA + "thumbnail",
)
TAGS = (ENCLOSURE, GROUP, CONTENT, THUMBNAIL)
_TOLD = ("url", "href", "type", "rel", "title", "length", "fileSize")


class AttachedFile(Struct):
    """The files of one item."""

    files: list[Media] = []
    thumbnail: str = ""  # address of a thumbnail


def attached(children: Index, base: str, where: Where) -> AttachedFile:
    """The files that an item of a feed names, and its picture.

    These are RSS enclosures, Atom links of that relation (RFC 4287 4.2.7.2) and `media:content`, also within
    groups; the picture is the first `media:thumbnail`. Addresses are made absolute from `base`.
    """
    found: dict[str, Media] = {}
    links = [link for link in children.get(ATOM + "link", ()) if link.get("rel") == "enclosure"]
    for element in (*children.get(ENCLOSURE, ()), *links):
        _keep(found, _file(element, {}, base, where))
    for group in (
        children,
        *(index(group_element) for group_element in children.get(GROUP, ())),
    ):
        for element in group.get(CONTENT, ()):
            _keep(found, _file(element, group, base, where))
    pictures = list(_thumbnails(children))
    return AttachedFile(
        list(found.values()), url.resolve(base, pictures[0]) if pictures else ""
    )


def _keep(found: dict[str, Media], media: Media) -> None:
    if media.address:
        found.setdefault(media.address, media)


def _file(element: etree._Element, around: Index, base: str, where: Where) -> Media:
    own = index(element)
    named = (element.get("url") or element.get("href") or "").strip()
    length = element.get("length") or element.get("fileSize") or ""
    if named:
        new = url.resolve(base, named)
    else:
        new = ""

    def words(name: str) -> str:
        elements = own.get(MEDIA + name) or around.get(MEDIA + name) or ()
        return next((text for element in elements if (text := text_of(element).strip())), "")

    more = {
        str(name): [str(value)] for name, value in element.attrib.items() if name not in _TOLD
    }
    more |= {
        str(tag): [text_of(element) for element in many]
        for tag, many in own.items()
        if tag not in (MEDIA + "title", MEDIA + "description", THUMBNAIL)
    }
    return Media(
        key=new,
        address=new,
        media_type=element.get("type", ""),
        size=int(length) if length.isdecimal() else 0,
        title=element.get("title", "") or words("title"),
        alternative_text=words("text"),
        caption=words("description"),
        extra=more,
        source=where,
    )


def _thumbnails(children: Index) -> Iterator[str]:
    groups = (
        children,
        *(
            index(group_element)
            for tag in (GROUP, CONTENT)
            for group_element in children.get(tag, ())
        ),
    )
    for group in groups:
        for thumbnail in group.get(THUMBNAIL, ()):
            if url := thumbnail.get("url", "").strip():
                yield url
