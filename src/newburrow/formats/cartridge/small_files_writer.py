"""The small files of a cartridge, written: pages, web links, tools, discussion topics and assignments.

Common Cartridge 1.3, sections 4.4, 4.5 and 4.8, and the assignment extension.
"""

from __future__ import annotations

import html
from collections.abc import Iterator

from newburrow.core import url
from newburrow.core.dates import iso
from newburrow.formats.xml_names import number
from newburrow.formats.xml_output import attribute, text
from newburrow.markup.html import Fragment
from newburrow.model import Entry, Site
from newburrow.model.bundle import Bundle

_XML = '<?xml version="1.0" encoding="UTF-8"?>\n'
_SCHEMA = 'xmlns:xsi="http://www.w3.org/2001/XMLSchema-instance" xsi:schemaLocation="{0} {1}"'
_LINK = "http://www.imsglobal.org/xsd/imsccv1p3/imswl_v1p3"
_TOPIC = "http://www.imsglobal.org/xsd/imsccv1p3/imsdt_v1p3"
_ASSIGNMENT = "http://www.imsglobal.org/xsd/imscc_extensions/assignment"
_PROFILE = "http://www.imsglobal.org/profile/cc/"
_TOOL = "http://www.imsglobal.org/xsd/imslticc_v1p3"
_TOOL_PARTS = {
    "blti": "http://www.imsglobal.org/xsd/imsbasiclti_v1p0",
    "lticm": "http://www.imsglobal.org/xsd/imslticm_v1p0",
    "lticp": "http://www.imsglobal.org/xsd/imslticp_v1p0",
}
TOOL_FACT = "tool_"  # before the name of a parameter of a tool, as a field
_PLAIN = ("p", "div", "span", "br", "a")  # of a text that is nothing but a link
_FORMATS = ("html", "text", "url", "file")


def page(bundle: Bundle, body: str, site: Site) -> str:
    """An HTML page; what is known of it besides its text stands in its head."""
    language = bundle.entry.language or site.language
    lang = f' lang="{html.escape(language)}"' if language else ""
    title = html.escape(bundle.entry.title, quote=False)
    return (
        f'<!DOCTYPE html>\n<html{lang}>\n<head>\n<meta charset="utf-8">\n<title>{title}</title>\n'
        f"{''.join(_facts(bundle))}</head>\n<body>\n{body}\n</body>\n</html>\n"
    )


def _facts(bundle: Bundle) -> Iterator[str]:
    """What the head of a page says of it (HTML standard section 4.2.5; `link` with `enclosure` as in feeds)."""
    entry = bundle.entry
    facts = [
        ("description", entry.summary),
        *(("author", author.name) for author in bundle.authors),
        ("date", iso(entry.published)),
        ("last-modified", iso(entry.updated)),
        *(("keywords", term.name) for term in bundle.terms),
    ]
    for name, value in facts:
        if value:
            yield f'<meta name="{name}" content="{html.escape(value)}">\n'
    for author in bundle.authors:
        mail = f"mailto:{author.email}" if author.email else ""
        for address in filter(None, (mail, author.address)):
            named = f'href="{html.escape(address)}" title="{html.escape(author.name)}"'
            yield f'<link rel="author" {named}>\n'
    for name, value in entry.fields.items():
        yield f'<meta name="field" property="{html.escape(name)}" content="{html.escape(value)}">\n'
    for file in bundle.enclosures:
        yield f'<link rel="enclosure" href="{html.escape(file.address)}">\n'


def web_link(entry: Entry) -> str:
    """A web link: what the first link in the text leads to. Empty where there is none to another site."""
    address = next(filter(url.site_key, _addresses(Fragment.of_any(entry.body.text))), "")
    if not address:
        return ""
    schema = _SCHEMA.format(_LINK, f"{_PROFILE}ccv1p3/ccv1p3_imswl_v1p3.xsd")
    title = f"<title>{text(entry.title)}</title>"
    return (
        f'{_XML}<webLink xmlns="{_LINK}" {schema}>\n{title}\n<url href={attribute(address)}/>\n'
        "</webLink>\n"
    )


def words_beside_link(entry: Entry) -> str:
    """The text of an entry that is a web link, which has no place for it; empty where it only names the link."""
    fragment = Fragment.of_any(entry.body.text)
    words = " ".join(fragment.words().split())
    if words in (" ".join(entry.title.split()), *_addresses(fragment)):
        return ""
    return words


def _addresses(fragment: Fragment) -> list[str]:
    return [node.attributes.get("href") or "" for node in fragment.select("a[href]")]


def tool(entry: Entry) -> str:
    """A tool of another server (section 4.8); empty for an entry that is more than that, or none."""
    address, words = _only_link(entry.body.text)
    if not address or address != entry.fields.get("tool"):
        return ""
    given = "".join(
        f"<lticm:property name={attribute(name.removeprefix(TOOL_FACT))}>{text(value)}</lticm:property>\n"
        for name, value in entry.fields.items()
        if name.startswith(TOOL_FACT)
    )
    custom = f"<blti:custom>\n{given}</blti:custom>\n" if given else ""
    parts = "".join(f' xmlns:{prefix}="{name}"' for prefix, name in _TOOL_PARTS.items())
    schema = _SCHEMA.format(_TOOL, "http://www.imsglobal.org/xsd/lti/ltiv1p3/imslticc_v1p3.xsd")
    host = text(url.site_key(address))
    secure = "secure_" if address.startswith("https:") else ""
    if words:
        about = f"<blti:description>{text(words)}</blti:description>\n"
    else:
        about = ""
    return (
        f'{_XML}<cartridge_basiclti_link xmlns="{_TOOL}"{parts} {schema}>\n'
        f"<blti:title>{text(entry.title)}</blti:title>\n{about}{custom}"
        f"<blti:{secure}launch_url>{text(address)}</blti:{secure}launch_url>\n"
        f"<blti:vendor>\n<lticp:code>{host}</lticp:code>\n<lticp:name>{host}</lticp:name>\n</blti:vendor>\n"
        "</cartridge_basiclti_link>\n"
    )


def _only_link(markup: str) -> tuple[str, str]:
    """The address to which a text leads that is one link to another site, and its other words; else empty."""
    fragment = Fragment.of_any(markup)
    links = fragment.select("a")
    if len(links) != 1 or any(node.tag not in _PLAIN for node in fragment.elements()):
        return "", ""
    address = links[0].attributes.get("href") or ""
    if not url.site_key(address):
        return "", ""
    links[0].decompose()
    return address, " ".join(Fragment(fragment.html()).words().split())


def topic(entry: Entry, body: str) -> str:
    """A discussion topic."""
    schema = _SCHEMA.format(_TOPIC, f"{_PROFILE}ccv1p3/ccv1p3_imsdt_v1p3.xsd")
    return (
        f'{_XML}<topic xmlns="{_TOPIC}" {schema}>\n<title>{text(entry.title)}</title>\n'
        f'<text texttype="text/html">{text(body)}</text>\n</topic>\n'
    )


def assignment(entry: Entry, body: str, identifier: str) -> str:
    """An assignment of the extension."""
    fields = entry.fields
    schema = _SCHEMA.format(
        _ASSIGNMENT, f"{_PROFILE}cc_extensions/cc_extresource_assignmentv1p0_v1p0.xsd"
    )
    points = number(fields.get("points", ""))
    graded = fields.get("graded") or ("true" if points is not None else "false")
    if points is not None:
        possible = f' points_possible="{points:.12g}"'
    else:
        possible = ""
    formats = "".join(
        f'<format type="{name}"/>\n'
        for name in map(str.strip, fields.get("hand_in", "").split(","))
        if name in _FORMATS
    )
    teachers = fields.get("for_teachers", "")
    if teachers:
        notes = f'<instructor_text texttype="text/html">{text(teachers)}</instructor_text>\n'
    else:
        notes = ""
    if formats:
        taken = f"<submission_formats>\n{formats}</submission_formats>\n"
    else:
        taken = ""
    head = f'<assignment xmlns="{_ASSIGNMENT}" identifier="{identifier}" {schema}>'
    return (
        f"{_XML}{head}\n<title>{text(entry.title)}</title>\n"
        f'<text texttype="text/html">{text(body)}</text>\n{notes}<gradable{possible}>{text(graded)}</gradable>\n{taken}'
        "</assignment>\n"
    )
