"""What a sample of pages shows of the whole site: its name, its address, its language, its front page."""

from __future__ import annotations

import posixpath
import re
from collections import Counter
from collections.abc import Collection, Sequence
from urllib.parse import unquote

from newburrow.core import mirrored, url
from newburrow.core.problem import BurrowError
from newburrow.formats.html import moved_page, schema_facts
from newburrow.formats.html.document import SITE_BETWEEN, SITE_IN_BRACKETS, Document, text_of
from newburrow.formats.html.linked_site import LinkedSite
from newburrow.intake.encodings import page_text
from newburrow.intake.part import Part
from newburrow.model import Site
from newburrow.model.site import LINKED_ADDRESS

_SAMPLE = 40  # pages
_LONGEST = 4_000_000  # bytes of a page that is looked at
_SHARE = 0.6  # of the titles that must have the same end to be the name of the site
_IN_LANGUAGE = re.compile(r"\A(\w+)\.[a-z]{2,3}(?:[-_][a-z]{2,4})?(\.x?html?)\Z")
_HOST = re.compile(r"[a-z0-9-]+(?:\.[a-z0-9-]+)*\.[a-z]{2,}", re.IGNORECASE | re.ASCII)
# How a page names the first one of its site (HTML 4.01 section 6.12, and the usual word).
_STARTS = 'link[rel~="start"][href], link[rel~="home"][href], a[rel~="home"][href]'


def site_of(parts: Sequence[Part], files: Collection[str]) -> Site | None:
    """The site, as far as a sample shows it; its address is empty where nothing shows it.

    `files` are the names of the files beside them.
    """
    step = max(1, len(parts) // _SAMPLE)
    names, languages, addresses = Counter[str](), Counter[str](), Counter[str]()
    titles, descriptions, starts = list[str](), list[str](), Counter[str]()
    linked = LinkedSite()
    for part in list(parts)[::step][:_SAMPLE]:
        document = _document(part)
        if document is None:
            continue
        things = schema_facts.named(schema_facts.things(document), "WebSite")
        stated = [str(thing["name"]) for thing in things if isinstance(thing.get("name"), str)]
        names.update((document.meta("og:site_name", "application-name") or stated)[:1])
        languages.update(
            (node.attributes.get("lang") or "").strip() for node in document.all("html[lang]")
        )
        addresses.update(_site_address(document, part.name, part.address))
        linked.add(document)
        starts.update(_starts(document, part.name))
        titles += filter(None, [text_of(node) for node in document.all("head > title")[:1]])
    front, of_front = _front_page(parts) or _named_by_most(starts, parts), ""
    if front and (document := _document(front)) is not None:
        descriptions = document.meta("description", "og:description")
        of_front = next((text_of(node) for node in document.all("head > title")), "")
    address = next((address for address, _number in addresses.most_common(1)), "")
    address = address or _mirrored_site(parts[::step][:_SAMPLE], parts)
    by_links = "" if address else linked.site([*(part.name for part in parts), *files])
    name = next((name for name, _number in names.most_common(1)), "") or _shared_end(titles)
    name = name or of_front
    return Site(
        key="site",
        title=name,
        address=address or by_links,
        language=next((language for language, _number in languages.most_common(1)), ""),
        description=next(iter(descriptions), ""),
        front_page=_key_of(front) if front else "",
        extra={LINKED_ADDRESS: [by_links]} if by_links else {},
    )


def _key_of(part: Part) -> str:
    """The key of the entry that a page is: its place below the site."""
    if part.address:
        return mirrored.place_of(part.address)
    return part.name


def _document(part: Part) -> Document | None:
    """A page, parsed; None for one that cannot be read, which its reader says."""
    if part.size > _LONGEST:
        return None
    try:
        with part.open() as stream:
            text = page_text(stream.read()).text
    except BurrowError:
        return None
    return Document(text, part.name, "", "")


def _site_address(document: Document, name: str, stood_at: str) -> list[str]:
    """The address of the site by that of a page, where this ends in the path of its file."""
    if stood_at:
        return [url.resolve(stood_at, "/")]
    link = document.first('link[rel~="canonical"][href]')
    address = (link.attributes.get("href") or "") if link is not None else ""
    address = address or next(iter(document.meta("og:url")), "") or document.saved_from
    if not url.site_key(address):  # none, or a place on somebody's disk
        return []
    bare = address.partition("#")[0].partition("?")[0]
    path = re.sub(r"(?:(?:^|/)index)?\.x?html?$", "", name)
    if path in ("index", ""):
        return [bare if bare.endswith("/") else bare.rpartition("/")[0] + "/"]
    origin = url.site_of(bare)
    trimmed = re.sub(r"(?:/index)?(?:\.x?html?)?/?$", "", unquote(bare.removeprefix(origin)))
    steps = path.split("/")
    for number in range(len(steps)):  # folders around the pages may be the export's own
        tail = "/".join(steps[number:])
        if trimmed.endswith(f"/{tail}"):
            return [origin + trimmed.removesuffix(tail)]
    return [url.resolve(bare, "/")]


def _mirrored_site(sample: Sequence[Part], parts: Sequence[Part]) -> str:
    """The address of a site in a folder named for its host, as mirrors make it, where a page has an address there."""
    host = parts[0].name.partition("/")[0]
    if not _HOST.fullmatch(host) or any(not part.name.startswith(f"{host}/") for part in parts):
        return ""
    there = re.compile(rb"(https?)://%s(?![\w.-])" % re.escape(host.encode()), re.IGNORECASE)
    for part in sample:
        try:
            with part.open() as stream:
                found = there.search(stream.read(_LONGEST))
        except BurrowError:
            continue
        if found:
            return f"{found[1].decode().lower()}://{host.lower()}/"
    return ""


def _shared_end(titles: Sequence[str]) -> str:
    """What most titles end in, or begin with, after a sign that parts it: the name of the site."""
    if len(titles) < 3:
        return ""
    parted = [re.split(SITE_BETWEEN, title) for title in titles]
    in_brackets = [SITE_IN_BRACKETS.fullmatch(title) for title in titles]
    for ends in (
        Counter(pieces[-1] for pieces in parted if len(pieces) > 1),
        Counter(pieces[0] for pieces in parted if len(pieces) > 1),
        Counter(found[1] for found in in_brackets if found),
    ):
        for name, number in ends.most_common(1):
            if number >= _SHARE * len(titles) and name:
                return name.strip()
    return ""


def _front_page(parts: Sequence[Part]) -> Part | None:
    """The page that a visitor sees first: the index or home page that lies highest."""
    at_root = [part for part in parts if part.address and _key_of(part) == "index.html"]
    if at_root:
        return at_root[0]
    found = [
        (part.name.count("/"), rank, part.name, part)
        for part in parts
        if (rank := _rank(part.name.rpartition("/")[2].lower())) is not None
    ]
    if not found:
        return None
    depth, rank, _name, part = min(found, key=lambda candidate: candidate[:3])
    shallowest = min(part.name.count("/") for part in parts)
    # Of several in folders side by side none is first.
    is_only = [candidate[:2] for candidate in found].count((depth, rank)) == 1
    if depth <= shallowest and is_only:
        return _led_on(part, parts)
    return None


def _starts(document: Document, name: str) -> set[str]:
    """The names of the files that a page calls the start of its site."""
    paths = {
        unquote((node.attributes.get("href") or "").partition("#")[0]).strip()
        for node in document.all(_STARTS)
    }
    return {
        posixpath.normpath(posixpath.join(posixpath.dirname(name), path))
        for path in paths
        if path
    }


def _named_by_most(starts: Counter[str], parts: Sequence[Part]) -> Part | None:
    """The page that more than any other, and more than one, call the start."""
    for name, number in starts.most_common(1):
        if number > 1:
            return next((part for part in parts if part.name == name), None)
    return None


def _rank(name: str) -> int | None:
    """How likely a file of this name is a front page, the most likely 0; one in a language comes after all others."""
    if name in url.FRONT_FILES:
        return url.FRONT_FILES.index(name)
    plain = _IN_LANGUAGE.sub(r"\1\2", name)
    if plain in url.FRONT_FILES:
        return len(url.FRONT_FILES) + url.FRONT_FILES.index(plain)
    return None


def _led_on(part: Part, parts: Sequence[Part]) -> Part:
    """The page that a front page leads on to, if that is among them; else the front page itself."""
    document = _document(part)
    target = moved_page.target(document) if document else ""
    path = unquote(target.partition("#")[0]).strip("/")
    if path:
        places = (path, *(f"{path}/{name}" for name in url.FRONT_FILES))
    else:
        places = ()
    return next((other for other in parts if other.name in places), part)
