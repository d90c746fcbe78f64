"""The small files of a cartridge, written: pages, web links, discussion topics and assignments.

Common Cartridge 1.3, sections 4.4 and 4.5, and the assignment extension.
"""

from __future__ import annotations

import html
import re
from collections.abc import Iterator

from newburrow.core.dates import iso
from newburrow.formats.xml_names import number
from newburrow.formats.xml_output import attribute, text
from newburrow.model import Entry, Site
from newburrow.model.bundle import Bundle

_XML = '<?xml version="1.0" encoding="UTF-8"?>\n'
_SCHEMA = 'xmlns:xsi="http://www.w3.org/2001/XMLSchema-instance" xsi:schemaLocation="{0} {1}"'
_LINK = "http://www.imsglobal.org/xsd/imsccv1p3/imswl_v1p3"
_TOPIC = "http://www.imsglobal.org/xsd/imsccv1p3/imsdt_v1p3"
_ASSIGNMENT = "http://www.imsglobal.org/xsd/imscc_extensions/assignment"
_PROFILE = "http://www.imsglobal.org/profile/cc/"
_WEB = re.compile(r'<a [^>]*?href="(https?://[^"]+)"')
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
    found = _WEB.search(entry.body.text)
    if not found:
        return ""
    schema = _SCHEMA.format(_LINK, f"{_PROFILE}ccv1p3/ccv1p3_imswl_v1p3.xsd")
    address = attribute(html.unescape(found[1]))
    title = f"<title>{text(entry.title)}</title>"
    return f'{_XML}<webLink xmlns="{_LINK}" {schema}>\n{title}\n<url href={address}/>\n</webLink>\n'


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
    possible = f' points_possible="{points:.12g}"' if points is not None else ""
    formats = "".join(
        f'<format type="{name}"/>\n'
        for name in map(str.strip, fields.get("hand_in", "").split(","))
        if name in _FORMATS
    )
    teachers = fields.get("for_teachers", "")
    notes = (
        f'<instructor_text texttype="text/html">{text(teachers)}</instructor_text>\n'
        if teachers
        else ""
    )
    taken = f"<submission_formats>\n{formats}</submission_formats>\n" if formats else ""
    head = f'<assignment xmlns="{_ASSIGNMENT}" identifier="{identifier}" {schema}>'
    return (
        f"{_XML}{head}\n<title>{text(entry.title)}</title>\n"
        f'<text texttype="text/html">{text(body)}</text>\n{notes}<gradable{possible}>{text(graded)}</gradable>\n{taken}'
        "</assignment>\n"
    )
