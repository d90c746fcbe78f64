"""Packages made for tests: a manifest around resources, and items of QTI 1.2 as other programs write them."""

from collections.abc import Iterable
from xml.sax.saxutils import escape

CC = "http://www.imsglobal.org/xsd/imsccv1p{0}/imscp_v1p1"
VERSIONS = {
    "1.0": "http://www.imsglobal.org/xsd/imscc/imscp_v1p1",
    **{f"1.{n}": CC.format(n) for n in (1, 2, 3)},
}


def manifest(
    resources: str, items: str = "", version: str = "1.1", title: str = "Course"
) -> str:
    space = VERSIONS.get(version, CC.format(version.partition(".")[2]))
    return (
        f'<?xml version="1.0"?><manifest identifier="m" xmlns="{space}" xmlns:lom="http://ltsc.ieee.org/xsd/x">'
        f"<metadata><schema>IMS Common Cartridge</schema><schemaversion>{version}.0</schemaversion><lom:lom><lom:general>"
        f"<lom:title><lom:string>{title}</lom:string></lom:title></lom:general></lom:lom></metadata><organizations>"
        f'<organization identifier="o" structure="rooted-hierarchy"><item identifier="root">{items}</item></organization>'
        f"</organizations><resources>{resources}</resources></manifest>"
    )


def content_package(*resources: str) -> str:
    """A manifest without an outline, as packages of QTI have it."""
    return (
        '<manifest xmlns="http://www.imsglobal.org/xsd/imscp_v1p1" identifier="m"><organizations/><resources>'
        f"{''.join(resources)}</resources></manifest>"
    )


def resource(identifier: str, kind: str, path: str) -> str:
    return f'<resource identifier="{identifier}" type="{kind}" href="{path}"><file href="{path}"/></resource>'


def node(identifier: str, title: str, reference: str = "", inner: str = "") -> str:
    named = f' identifierref="{reference}"' if reference else ""
    return f'<item identifier="{identifier}"{named}><title>{title}</title>{inner}</item>'


def quiz(items: Iterable[str], facts: dict[str, str] | None = None, title: str = "Quiz") -> str:
    return (
        '<questestinterop xmlns="http://www.imsglobal.org/xsd/ims_qtiasiv1p2">'
        f'<assessment ident="a" title="{title}">{metadata(facts or {})}<section ident="s">{"".join(items)}</section>'
        "</assessment></questestinterop>"
    )


def metadata(facts: dict[str, str]) -> str:
    fields = "".join(
        f"<qtimetadatafield><fieldlabel>{name}</fieldlabel><fieldentry>{value}</fieldentry></qtimetadatafield>"
        for name, value in facts.items()
    )
    return f"<qtimetadata>{fields}</qtimetadata>"


def item(
    presentation: str,
    conditions: str,
    facts: dict[str, str] | None = None,
    most: str = "100",
    after: str = "",
) -> str:
    own = f"<itemmetadata>{metadata(facts)}</itemmetadata>" if facts else ""
    return (
        f'<item ident="i">{own}<presentation>{presentation}</presentation><resprocessing><outcomes>'
        f'<decvar varname="SCORE" minvalue="0" maxvalue="{most}"/></outcomes>{conditions}</resprocessing>{after}</item>'
    )


def text(words: str, kind: str = "text/html") -> str:
    return f'<material><mattext texttype="{kind}">{escape(words)}</mattext></material>'


def choices(
    *names: str, cardinality: str = "Single", ident: str = "r", before: str = ""
) -> str:
    labels = "".join(
        f'<response_label ident="{name}">{text(name)}</response_label>' for name in names
    )
    return f'<response_lid ident="{ident}" rcardinality="{cardinality}">{before}<render_choice>{labels}</render_choice></response_lid>'


def equals(value: str, ident: str = "r") -> str:
    return f'<varequal respident="{ident}">{escape(value)}</varequal>'


def condition(tests: str, score: str = "", action: str = "Set", goes_on: str = "No") -> str:
    changed = f'<setvar varname="SCORE" action="{action}">{score}</setvar>' if score else ""
    return f'<respcondition continue="{goes_on}"><conditionvar>{tests}</conditionvar>{changed}</respcondition>'
