"""Addresses: comparing and resolving them (RFC 3986).

Two addresses are the same address when their keys are equal. A key leaves out what no server tells apart
(scheme, `www.`, a default port, the fragment) and what is only spelling (percent-encoding, Unicode
composition, letter case of the host, dot segments, order of query parameters: RFC 3986 section 6.2.2).
"""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterator
from functools import lru_cache
from itertools import combinations
from typing import Literal
from urllib.parse import SplitResult, quote, unquote, unquote_to_bytes, urljoin, urlsplit

# A path in its one spelling, but for dot segments: a space, of all that is encoded, is in the names of most wikis.
_PLAIN = r"/[A-Za-z0-9/_.~!$&'()*+,;=:@-]*+(?:%20[A-Za-z0-9/_.~!$&'()*+,;=:@-]*+)*+"
_PLAIN_PATH = re.compile(rf"{_PLAIN}\Z")
_PLAIN_ADDRESS = re.compile(
    rf"https?://(?:www\.)?((?!www\.)[a-z0-9-]+(?:\.[a-z0-9-]+)+)((?:{_PLAIN})?)"
    r"(\?[A-Za-z0-9_-]+=[A-Za-z0-9_-]+)?(?:#\S*)?\Z"
)
_FROM_ROOT = re.compile(r"/(?![/.])(?:[\w~%#?=&;,+-]|\.(?![./])|/(?![./]))*\Z", re.ASCII)
# An address of plain words without dot segments, relative to the folder of a page; and such a folder.
_BESIDE = re.compile(r"(?=[\w~-])[\w%~-]+(?:[./][\w%~-]+)*(?:#[\w-]+)?\Z", re.ASCII)
_PLAIN_FOLDER = re.compile(
    r"https?://[a-z0-9.-]+(?::\d+)?/(?:[\w%~-]+/)*(?=[^/?#;]*\Z)", re.ASCII
)
_ANY_SCHEME = re.compile(r"[A-Za-z][A-Za-z0-9+.-]*:")  # RFC 3986 section 3.1
_ORIGIN = re.compile(r"https?://[A-Za-z0-9.-]+(?::\d+)?(?=[/?#]|\Z)")
INDEX_FILES = ("index.html", "index.htm", "index.xhtml")  # what a folder shows
# What the first page of a site is called, the likeliest name first.
FRONT_FILES = (
    *INDEX_FILES, "home.html", "home.htm", "start.html", "main.html", "default.html", "default.htm",
)  # fmt: skip
Form = Literal["NFC", "NFD", ""]  # how letters are composed (Unicode Standard Annex 15)
_FORMS: tuple[Form, ...] = ("NFC", "NFD")
_PORTS = {"http": ":80", "https": ":443"}
_UNRESERVED = re.compile(r"[A-Za-z0-9._~-]*")  # RFC 3986 section 2.3
_SEGMENT_SAFE = "!$&'()*+,;=:@"
_QUERY_SAFE = "!$'()*,;:@/?"
_EXTENSION = re.compile(r"\.[A-Za-z]{2,5}\Z")
# Parameters that feeds and letters add to the address of a page.
_VISITED_FROM = re.compile(
    r"(?:(?:utm_\w+|ref|source|src|from|feed|rss|fbclid|gclid)(?:=[^&]*)?(?:&|\Z))+"
)
_SEVERAL_WORDS = re.compile(r"\w[-_ ]\w")
_SAFE = re.compile(r"[A-Za-z0-9._~%/:?#\[\]@!$&'()*+,;=-]*\Z")
# An address of plain words: its path.
_PLAIN_WORDS = re.compile(
    r"https?://[A-Za-z0-9.:-]+(?P<path>(?:/[\w-][\w.~-]{0,200}){1,10}/?)\Z", re.ASCII
)
_WORDS = re.compile(r"(?:/[\w-][\w.~-]{0,200}){1,10}/?")
# Vowels of Hindi and others are marks, which belong to letters (Unicode Standard, section 4.5).
_MARKS = ("Mn", "Mc")
_CONTROL = re.compile(r"[\x00-\x20\x7f]")


@lru_cache(maxsize=4096)  # the same address is used several times in a row
def split(address: str) -> SplitResult | None:
    """The parts of an address (RFC 3986 section 3), or None if it cannot be parsed.

    An address with a wrong port or unbalanced brackets in its host cannot be parsed. Nothing is
    decoded or changed.
    """
    try:
        parts = urlsplit(address.strip())
        _ = parts.port  # raises where the port is no number
    except ValueError:
        return None
    return parts


def resolve(base: str, address: str) -> str:
    """The absolute form of an address that was found on the page `base` (RFC 3986 section 5).

    An address that cannot be resolved (not an address, or `base` is empty) comes back unchanged, so
    that a caller can still show it.
    """
    if "\\" in address:
        address = _with_slashes(address)
    if address.startswith(("https://", "http://")):
        return address.strip()
    # Most are of these two forms; this avoids the general case.
    if _BESIDE.match(address) and (folder := _folder_of(base)):
        return folder + address
    if _FROM_ROOT.match(address) and (origin := site_of(base)):
        return origin + address
    try:
        return urljoin(base, address.strip())
    except ValueError:
        return address


def _with_slashes(address: str) -> str:
    """An address of the web with slashes where it has backslashes before its query (URL Standard section 4.4)."""
    path = re.match(r"[^?#]*", address)
    scheme = _ANY_SCHEME.match(address)
    if path is None or (scheme and scheme[0].lower() not in ("http:", "https:")):
        return address
    return path[0].replace("\\", "/") + address[path.end() :]


@lru_cache(maxsize=64)
def _folder_of(base: str) -> str:
    """An address up to the last slash of its path; empty where that is not plain."""
    found = _PLAIN_FOLDER.match(base)
    if found:
        return found.group()
    return ""


@lru_cache(maxsize=64)
def site_of(base: str) -> str:
    """Scheme and host of an address; empty if it has none."""
    found = _ORIGIN.match(base)
    if found:
        return found.group()
    return ""


def front_page(site: str) -> str:
    """The address of the first page of a site: with the slash that it has at a root, or without the file it shows."""
    folder, _slash, last = site.rpartition("/")
    if not path_of(site):
        return resolve(site, "/")
    if "." in last:
        return f"{folder}/"
    return site


def other_slash(address: str) -> str:
    """The same address with or without the slash at the end of its path.

    Empty for a file, a query, the root, and a path of other than words: of that servers think differently.
    """
    if plain := _PLAIN_WORDS.match(address):  # most are
        if address.endswith("/"):
            return address[:-1]
        if "." in plain["path"].rpartition("/")[2]:
            return ""
        return f"{address}/"
    if "?" not in address:
        parts = split(address)
    else:
        parts = None
    if parts is None or parts.fragment or "%2F" in parts.path.upper():
        return ""
    letters = (sign for sign in unquote(parts.path) if unicodedata.category(sign) not in _MARKS)
    if not _WORDS.fullmatch("".join(letters)):
        return ""
    if parts.path.endswith("/"):
        return address.strip().removesuffix("/")
    if "." in parts.path.rpartition("/")[2]:
        return ""
    return f"{address.strip()}/"


def path_of(address: str) -> str:
    """The decoded path without its first slash; empty if the address cannot be parsed."""
    parts = split(address)
    if parts:
        return unquote(parts.path).lstrip("/")
    return ""


def full_path(address: str) -> str:
    """The site and the decoded path of an address, joined to one path.

    Files are compared by it, so that those of different sites are kept apart. Empty for an empty address.
    """
    if address:
        return f"{site_key(address)}/{path_of(address)}"
    return ""


def host_key(parts: SplitResult) -> str:
    """The host as it is compared: lower case, IDNA, without `www.` and without a default port."""
    return _host_key(parts.scheme, parts.netloc)


@lru_cache(maxsize=1024)  # an export names few sites, many times each
def _host_key(scheme: str, netloc: str) -> str:
    parts = SplitResult(scheme, netloc, "", "", "")
    host = (parts.hostname or "").rstrip(".")
    if not host.isascii():
        host = _ascii_host(host)
    host = host.removeprefix("www.")
    if parts.port and f":{parts.port}" != _PORTS.get(parts.scheme):
        host += f":{parts.port}"
    return host


def _ascii_host(host: str) -> str:
    """A host name in ASCII (IDNA 2008, RFC 5891, mapped by UTS 46); percent-encoded where it is not one."""
    import idna  # seldom needed, and slow to import

    try:
        return idna.encode(host, uts46=True).decode("ascii")
    except idna.IDNAError:
        return quote(host)


def _canonical(text: str, safe: str, form: Form = "NFC") -> str:
    """One segment or query part in its one spelling; bytes that are no UTF-8 stay percent-encoded."""
    if _UNRESERVED.fullmatch(text):
        return text
    raw = unquote_to_bytes(text)
    try:
        decoded = raw.decode("utf-8")
        return quote(unicodedata.normalize(form, decoded) if form else decoded, safe=safe)
    except UnicodeDecodeError:
        return quote(raw, safe=safe)


def _without_dots(segments: list[str]) -> list[str]:
    parameters: list[str] = []
    for place, segment in enumerate(segments):
        if segment not in (".", ".."):
            parameters.append(segment)
            continue
        if segment == ".." and len(parameters) > 1:
            parameters.pop()
        if place == len(segments) - 1:
            parameters.append("")
    return parameters


def path_key(path: str, form: Form = "NFC") -> str:
    """The path as it is compared, percent-encoded in one spelling; an empty path is `/`.

    Without a `form` letters stay composed as they are: so a server sees them, to which the two forms are two addresses.
    """
    if _PLAIN_PATH.match(path) and "/." not in path:
        return path
    segments = [_canonical(segment, _SEGMENT_SAFE, form) for segment in path.split("/")]
    joined = "/".join(_without_dots(segments))
    if joined.startswith("/"):
        return joined
    return "/" + joined


def query_pairs(query: str) -> list[tuple[str, str]]:
    """The parameters of a query, as (name, value) in the order written.

    Each name and value is percent-encoded in one spelling (RFC 3986 section 6.2.2). A parameter without
    `=` has an empty value.
    """
    pairs = []
    for part in query.split("&"):
        if part:
            # A plus sign is a space there (WHATWG URL standard, section 5.1).
            name, _, value = part.replace("+", "%20").partition("=")
            pairs.append((_canonical(name, _QUERY_SAFE), _canonical(value, _QUERY_SAFE)))
    return pairs


def query_key(pairs: list[tuple[str, str]]) -> str:
    """Parameters in the form in which they are compared: sorted by name and value."""
    return "&".join(f"{name}={value}" for name, value in sorted(pairs))


@lru_cache(maxsize=256)  # the same address is used several times in a row
def key(address: str) -> str:
    """The form in which addresses are compared: two are the same if their keys are equal.

    The scheme, `www.`, a default port, the fragment, the order of parameters and the way of writing
    letters (percent-encoding, Unicode composition) do not count. Host names are compared by IDNA 2008.
    Empty if the text is not a web address with a host.
    """
    plain = _PLAIN_ADDRESS.match(address)  # most are; this takes a tenth of the time
    if plain:
        host, path, query = plain.groups("")
        if "/." not in path:
            return f"{host}{path or '/'}{query}"
    parts = split(address)
    if parts is None or not parts.hostname or parts.scheme not in ("http", "https"):
        return ""
    if parts.query:
        query = query_key(query_pairs(parts.query))
    else:
        query = ""
    return host_key(parts) + path_key(parts.path) + (f"?{query}" if query else "")


def spelled_key(address: str) -> str:
    """The key of an address, with its letters composed (Unicode Annex 15) as they are in the address."""
    if address.isascii() and "%" not in address:
        return key(address)
    before_query, mark, query = key(address).partition("?")
    parts = split(address)
    if not before_query or parts is None:
        return ""
    return before_query.partition("/")[0] + path_key(parts.path, "") + mark + query


def compositions(address: str) -> Iterator[str]:
    """The address, and the same address with the letters of its path in each other Unicode composition."""
    yield address
    if address.isascii() and "%" not in address:
        parts = None
    else:
        parts = split(address)
    if parts is not None:
        seen = {path_key(parts.path, "")}
        for form in _FORMS:
            path = path_key(parts.path, form)
            if path not in seen:
                seen.add(path)
                yield parts._replace(path=path).geturl()


_MOST_CHOSEN = 4  # parameters of an address of which all choices are looked up


def lookup_keys(parts: SplitResult) -> Iterator[tuple[str, tuple[int, ...]]]:
    """Keys under which an address may be known, the most exact first, each with the places of its parameters.

    `?entry=35&from=mail` may be known as itself, as `?entry=35`, or as its path alone. Of more than four
    parameters all, those that do not only say where a visitor comes from, and each one alone are tried.
    """
    base = host_key(parts) + path_key(parts.path)
    pairs = query_pairs(parts.query) if parts.query else []
    for places in _choices(pairs):
        query = query_key([pairs[place] for place in places])
        yield (f"{base}?{query}" if places else base), places


def _choices(pairs: list[tuple[str, str]]) -> Iterator[tuple[int, ...]]:
    """The parameters that may belong to an address, by their places: all of them first, none last."""
    places = range(len(pairs))
    if len(pairs) <= _MOST_CHOSEN:
        for number in reversed(range(len(pairs) + 1)):
            yield from combinations(places, number)
        return
    own = [
        place for place in places if not _VISITED_FROM.fullmatch("{}={}".format(*pairs[place]))
    ]
    singles = [(place,) for place in places]
    yield from dict.fromkeys((tuple(places), tuple(own), *singles, ()))


def left_over(query: str, places: tuple[int, ...]) -> str:
    """The parameters that are not in the key of `lookup_keys` with these places."""
    written = [part for part in query.split("&") if part]
    return "&".join(part for number, part in enumerate(written) if number not in places)


def site_key(address: str) -> str:
    """The form in which the sites of addresses are compared: host and port.

    The scheme, `www.` and a default port do not count; host names are compared by IDNA 2008. Empty if the
    text is not a web address with a host.
    """
    parts = split(address)
    if parts is None or not parts.hostname or parts.scheme not in ("http", "https"):
        return ""
    return host_key(parts)


def is_within(address: str, site: str) -> bool:
    """Whether an address is on the host of a site; one without a host is."""
    host = site_key(address)
    return host in ("", site_key(site))


def last_name(address: str) -> str:
    """The last name in the path of a permalink, which is its slug; empty where that is a number or there is none.

    An extension is left out; percent-encoding is undone where it is that of UTF-8. With a query one word names the
    program that shows all pages, unless the query only says where a visitor comes from.
    """
    parts = split(address)
    if parts and _decodable(parts.path):
        last = unquote(parts.path.rstrip("/").rpartition("/")[2], errors="strict")
    else:
        last = ""
    name = _EXTENSION.sub("", last)
    if name.isdigit():
        return ""
    if parts and parts.query and not _VISITED_FROM.fullmatch(parts.query):
        if name == last and _SEVERAL_WORDS.search(name):
            return name
        return ""
    return name


def _decodable(path: str) -> bool:
    try:
        unquote_to_bytes(path).decode("utf-8")
    except UnicodeDecodeError:
        return False
    return True


def as_iri(text: str) -> str:
    """An identifier that is safe in a document: control characters and spaces percent-encoded."""
    return _CONTROL.sub(lambda found: quote(found.group()), text)


def safe(address: str) -> str:
    """The address in ASCII, fit for a header or a configuration file.

    Every character that RFC 3986 does not allow, control characters among them, is percent-encoded as
    UTF-8. What is encoded already stays as it is.
    """
    if _SAFE.match(address):
        return address
    return quote(
        _CONTROL.sub(lambda found: quote(found.group()), address), safe="%/:?#[]@!$&'()*+,;=~"
    )
