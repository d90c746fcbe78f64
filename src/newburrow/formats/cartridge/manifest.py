"""The manifest of a package: its resources and its organisation.

IMS Content Packaging 1.1.4 and 1.2 (section 4), and its profile in Common Cartridge 1.0 to 1.3 (section 2).
"""

from __future__ import annotations

import posixpath
import re
from collections.abc import Iterator
from datetime import datetime
from urllib.parse import unquote

from lxml import etree
from msgspec import Struct

from newburrow.core.dates import parse_date
from newburrow.formats import xml_stream
from newburrow.formats.cartridge.metadata import (
    everything,
    in_language,
    is_for_teachers,
    unread,
)
from newburrow.formats.xml_names import (
    attribute,
    child,
    children,
    line_of,
    local,
    namespace,
    words,
    xml_attribute,
)
from newburrow.model import Extra, Site, Where

FILE_NAME = "imsmanifest.xml"
ROOT = "manifest"
# Metadata of a course that the content model has a place for.
_OF_SITE = ("general/title", "general/description", "general/language", "technical/location",
            "lifeCycle/contribute/date/dateTime", "lifecycle/contribute/date/datetime")  # fmt: skip
# Parts of a manifest and of a resource that are read.
_PARTS = ("metadata", "organizations", "resources", "manifest")
_OF_RESOURCE, _IN_RESOURCE = (
    ("identifier", "type", "href", "base"),
    ("metadata", "file", "dependency"),
)
_ROLE = "educational/intendedEndUserRole"
_CARTRIDGE = re.compile(r"http://www\.imsglobal\.org/xsd/imscc(?:v1p(\d)|/imscp_v1p1)")


class Resource(Struct, frozen=True):
    """One resource of a package."""

    identifier: str
    type: str
    path: str  # of its file within the package; empty where it names none
    files: tuple[str, ...]  # paths of all its files
    depends: tuple[str, ...]  # identifiers of other resources
    line: int = 0
    title: str = ""  # this and the next two: of its file, where the metadata say it
    caption: str = ""
    alternative_text: str = ""
    is_for_teachers: bool = False
    extra: Extra = {}  # other metadata


class Node(Struct, frozen=True):
    """One item of the organisation."""

    identifier: str
    title: str
    resource: str  # identifier of what it stands for; empty for a heading
    parent: str  # identifier of the item around it; empty at the top
    position: int  # among those of the same parent, counted from 1
    is_visible: bool = True
    parameters: str = ""  # added to the address of what it stands for
    line: int = 0


class Manifest(Struct, frozen=True):
    """What a manifest says. It is held in memory: it names files, and holds none."""

    version: str  # of Common Cartridge, such as "1.3"; empty for another package
    title: str
    description: str
    language: str
    address: str
    resources: dict[str, Resource]
    nodes: tuple[Node, ...]  # each after the one around it
    unknown: tuple[str, ...] = ()  # what it has beside these, such as manifests within it
    schema_version: str = ""  # as it stands there
    organisations: int = 1  # of which only one is read
    extra: Extra = {}  # other metadata
    written: datetime | None = None  # when somebody last had a part in it (LOM section 2.3.3)


def site_of(manifest: Manifest, label: str = "") -> Site:
    """The course as its manifest names it; `label` is the file, for messages."""
    return Site(
        key="site",
        title=manifest.title,
        address=manifest.address,
        language=manifest.language,
        description=manifest.description,
        written=manifest.written,
        extra=manifest.extra,
        source=Where(label),
    )


def read_manifest(opener: xml_stream.Opener, label: str) -> Manifest:
    """The manifest in a file. Raises BurrowError for one that is not well-formed or declares entities."""
    root = xml_stream.root_of(opener, label)
    base = xml_attribute(root, "base")
    resources: dict[str, Resource] = {}
    for holder in children(root, "resources"):
        inner = posixpath.join(base, xml_attribute(holder, "base"))
        for element in children(holder, "resource"):
            resource = _resource(element, inner)
            resources.setdefault(
                resource.identifier or f"resource {line_of(element)}", resource
            )
    metadata = child(root, "metadata")
    lom = child(metadata, "lom")
    language = _text(lom, "general/language") or xml_attribute(root, "lang")
    title, other_titles = in_language(child(lom, "general/title"), language)
    description, other_descriptions = in_language(child(lom, "general/description"), language)
    extra = unread(metadata, _OF_SITE) | _of_root(root)
    for name, others in (("title", other_titles), ("description", other_descriptions)):
        extra |= {f"general/{name} {which}": texts for which, texts in others.items()}
    organisation = _organisation(root)
    nodes = tuple(_nodes(organisation)) if organisation is not None else ()
    if organisation is not None:
        named = words(child(organisation, "title"))
    else:
        named = ""
    return Manifest(
        _version(root),
        title or named,
        description,
        language,
        _text(lom, "technical/location"),
        resources,
        nodes,
        tuple(local(found) for found in children(root, ROOT)),
        words(child(metadata, "schemaversion")),
        len(_organisations(root)),
        extra,
        _written(lom),
    )


def _of_root(root: etree._Element) -> Extra:
    """What a manifest holds beside the parts that are read, such as who may use the package."""
    extra: Extra = {}
    for found in children(root):
        if local(found) not in _PARTS:
            extra |= everything(found, local(found))
    return extra


def _written(lom: etree._Element | None) -> datetime | None:
    """The newest date of those who had a part in a course; none where there is no date."""
    lives = [child(lom, name) for name in ("lifeCycle", "lifecycle")]
    found = [
        when
        for life in lives
        if life is not None
        for contribution in children(life, "contribute")
        for name in ("date/dateTime", "date/datetime")
        if (when := parse_date(words(child(contribution, name))))
    ]
    return max(found, default=None)


def _version(root: etree._Element) -> str:
    """The version of Common Cartridge that a namespace or the schema names."""
    found = _CARTRIDGE.match(namespace(root))
    if found:
        return f"1.{found[1] or 0}"
    metadata = child(root, "metadata")
    if "cartridge" in words(child(metadata, "schema")).lower():
        return ".".join(words(child(metadata, "schemaversion")).split(".")[:2]) or "1.0"
    return ""


def _text(lom: etree._Element | None, path: str) -> str:
    """A text of the metadata: LOM wraps it in `string` or `langstring`."""
    return words(child(lom, path))


def _resource(element: etree._Element, base: str) -> Resource:
    own = posixpath.join(base, xml_attribute(element, "base"))

    def path(href: str) -> str:
        bare = unquote(re.split("[?#]", href)[0])
        if "://" in bare:
            return ""
        if bare:
            return posixpath.normpath(posixpath.join("/", own, bare)).lstrip("/")
        return ""

    files = [path(attribute(found, "href")) for found in children(element, "file")]
    href = path(attribute(element, "href"))
    metadata = child(element, "metadata")
    lom, teachers = child(metadata, "lom"), is_for_teachers(metadata)
    return Resource(
        attribute(element, "identifier"),
        attribute(element, "type").strip(),
        href or next(iter(files), ""),
        tuple(filter(None, dict.fromkeys((href, *files)))),
        tuple(attribute(found, "identifierref") for found in children(element, "dependency")),
        line_of(element),
        _text(lom, "general/title"),
        _text(lom, "general/description"),
        _text(lom, "annotation/description"),
        teachers,
        unread(metadata, (_ROLE,) if teachers else ()) | _attributes(element),
    )


def _attributes(resource: etree._Element) -> Extra:
    """What else a resource says: what it is meant for, whether it is protected, and variants of it."""
    said = {str(name).rpartition("}")[2]: str(value) for name, value in resource.items()}
    extra = {
        name: [value] for name, value in said.items() if name not in _OF_RESOURCE and value
    }
    for found in children(resource):
        if local(found) not in _IN_RESOURCE:
            extra |= everything(found, local(found))
    return extra


def _organisation(root: etree._Element) -> etree._Element | None:
    """The organisation that is the default, else the first."""
    holder, found = child(root, "organizations"), _organisations(root)
    chosen = attribute(holder, "default") if holder is not None else ""
    return next(
        (one for one in found if attribute(one, "identifier") == chosen),
        next(iter(found), None),
    )


def _organisations(root: etree._Element) -> list[etree._Element]:
    holder = child(root, "organizations")
    if holder is not None:
        return list(children(holder, "organization"))
    return []


def _nodes(organisation: etree._Element) -> Iterator[Node]:
    """The items of an organisation; one without title and resource around all others is the tree itself."""
    top = list(children(organisation, "item"))
    if (
        len(top) == 1
        and not attribute(top[0], "identifierref")
        and not words(child(top[0], "title"))
    ):
        top = list(children(top[0], "item"))
    waiting = [(element, "", number) for number, element in enumerate(top, 1)][::-1]
    while waiting:
        element, parent, position = waiting.pop()
        identifier = attribute(element, "identifier") or f"item {line_of(element)}"
        yield Node(
            identifier,
            words(child(element, "title")),
            attribute(element, "identifierref"),
            parent,
            position,
            attribute(element, "isvisible").lower() != "false",
            attribute(element, "parameters"),
            line_of(element),
        )
        inner = list(children(element, "item"))
        waiting += [(found, identifier, number) for number, found in enumerate(inner, 1)][::-1]
