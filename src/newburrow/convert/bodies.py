"""Bodies: any markup to the host's HTML, links and pictures to their new addresses, and what it cannot take out.

What is taken out or left as it stands, and needs a person, is a follow-up that says what stood there.
"""

from __future__ import annotations

import html
import re

from msgspec.structs import replace
from selectolax.lexbor import LexborNode

from newburrow import registry
from newburrow.convert import macroactions
from newburrow.convert.context import Context
from newburrow.convert.links import Leads, Link
from newburrow.convert.macroactions import Say
from newburrow.markup.base import Markup
from newburrow.markup.html import Fragment, TooDeep
from newburrow.markup.html import replace as put_in_place
from newburrow.model import Body, Bundle, Media
from newburrow.problem import Problem, Severity

_ADDRESSES = {
    "a": ("href",),
    "area": ("href",),
    "img": ("src", "longdesc"),
    "source": ("src",),
    "video": ("src", "poster"),
    "audio": ("src",),
    "track": ("src",),
    "blockquote": ("cite",),
    "q": ("cite",),
    "ins": ("cite",),
    "del": ("cite",),
    "link": ("href",),
    "input": ("src",),
    "object": ("data",),
    "embed": ("src",),
    "iframe": ("src",),
    "form": ("action",),
}
_WITH_ADDRESSES = ",".join(_ADDRESSES)  # each element fits one of them alone, so that none is seen twice
_HANDLER = re.compile(r"[\s/\"']on\w+", re.IGNORECASE)  # may find what is none, never misses one
_EMBEDS = ("iframe", "object", "embed", "frame")
_SCRIPTS = ("script", "style", "noscript", "template")
_LINES = frozenset(("p", "br"))
_MORE_THAN_LINES = re.compile(r"<(?!/?(?:p|br)>)")  # paragraphs and lines alone need no parser
_FORM_FIELDS = "input,textarea,select"


def step(bundle: Bundle, context: Context) -> tuple[Bundle, list[Problem]]:
    """Body, summary and comments as the new host takes them; a lead picture without a place goes first."""
    entry, problems = bundle.entry, list[Problem]()
    seen: set[tuple[str, str]] = set()

    def say(severity: Severity, code: str, message: str, advice: str) -> None:
        if (code, message) not in seen:  # the same thing several times in one entry is one thing to do
            seen.add((code, message))
            problems.append(Problem(severity, code, message, advice, entry.source, "entry", entry.key))

    body = convert(
        entry.body, entry.permalink, context, say, None if context.host.media.lead_picture else bundle.lead_picture
    )
    summary = to_host_html(Body(entry.summary), entry.permalink, context, say).text if entry.summary else ""
    written = context.markup_of_comments
    comments = tuple(
        replace(
            one, body=Body(written.from_html(to_host_html(one.body, entry.permalink, context, say).text), written.name)
        )
        for one in bundle.comments
    )
    lead = bundle.lead_picture if context.host.media.lead_picture else None
    entry = replace(entry, body=body, summary=summary)
    return replace(bundle, entry=entry, comments=comments, lead_picture=lead), problems


def convert(body: Body, base: str, context: Context, say: Say, lead: Media | None = None) -> Body:
    """One body as the host takes it; `base` is the old address of its page."""
    text = to_host_html(body, base, context, say, lead).text
    return Body(context.markup.from_html(text), context.host.markup.name)


def to_host_html(body: Body, base: str, context: Context, say: Say, lead: Media | None = None) -> Body:
    """One body as HTML that the host takes."""
    markup: Markup = registry.get(registry.MARKUPS, body.markup)
    base = body.base or base
    text = f"<pre>{html.escape(body.text, quote=False)}</pre>" if body.markup != "html" else body.text
    allowed = context.allowed
    try:
        text = macroactions.to_html(body.text, markup, context, say)
        if not lead and not _MORE_THAN_LINES.search(text) and (not allowed or allowed >= _LINES):
            return Body(text)
        fragment = Fragment(text)
    except TooDeep:
        say(
            Severity.ERROR,
            "too-deep",
            "The body is nested too deep to be read; its links are as they were.",
            "Look at the body on the old site and write it anew.",
        )
        return Body(text)
    page = _Page(fragment, base, context, say)
    page.addresses()
    if _HANDLER.search(text):
        page.handlers()
    page.refused()
    if lead:
        page.lead(lead)
    return Body(fragment.html())


class _Page:
    """One parsed body, and the changes made to it."""

    def __init__(self, fragment: Fragment, base: str, context: Context, say: Say) -> None:
        self.fragment, self.base, self.context, self.say = fragment, base, context, say

    def addresses(self) -> None:
        """Give every address in an attribute its new form."""
        for node in self.fragment.select(_WITH_ADDRESSES):
            attributes = node.attributes
            for name in _ADDRESSES.get(node.tag or "", ()):
                value = attributes.get(name)
                if value:
                    self._address(node, name, value)
            if attributes.get("srcset"):
                self._srcset(node, attributes["srcset"] or "")

    def handlers(self) -> None:
        """Take scripts in attributes out."""
        for node in self.fragment.elements():
            for name in [name for name in node.attributes if name.startswith("on")]:
                del node.attrs[name]
                self.say(Severity.INFO, "script", f"A script in an attribute ({name}) was taken out.", "")

    def _address(self, node: LexborNode, name: str, value: str) -> None:
        link = self.context.links.follow(value, self.base)
        if link.leads is Leads.UNSAFE:
            del node.attrs[name]
            self.say(Severity.INFO, "script", "A link that runs a script was taken out; its words stay.", "")
            return
        if link.address != value:
            node.attrs[name] = link.address
        if node.tag != "form":  # a form does not lead to a page
            self._say_dead(link, "picture" if node.tag in ("img", "source") else "link")

    def _say_dead(self, link: Link, what: str) -> None:
        if link.leads is Leads.GONE:
            self.say(
                Severity.WARNING,
                "link-to-left-out",
                f"A {what} leads to {link.old}, which stays behind.",
                "Take the link out, or let its target move too.",
            )
        elif link.leads is Leads.UNKNOWN and what == "picture":
            self.say(
                Severity.ERROR,
                "missing-picture",
                f"The picture {link.old} is not in the export.",
                "Fetch it from the old site while that stands, and put it in on the new host.",
            )
        elif link.leads is Leads.UNKNOWN:
            self.say(
                Severity.WARNING,
                "dead-link",
                f"A link leads to {link.old}, where nothing in the export stands.",
                "See what stood there; correct the link or take it out.",
            )

    def _srcset(self, node: LexborNode, value: str) -> None:
        """HTML standard section 4.8.4.2.1: candidates that have become one file are written once."""
        candidates = []
        for part in value.split(","):
            words = part.split()
            if words:
                link = self.context.links.follow(words[0], self.base)
                self._say_dead(link, "picture")
                candidates.append((link.address, " ".join(words[1:])))
        if len({address for address, _size in candidates}) > 1 or node.tag == "source":
            node.attrs["srcset"] = ", ".join(f"{address} {size}".strip() for address, size in candidates)
            return
        del node.attrs["srcset"]
        if "sizes" in node.attributes:
            del node.attrs["sizes"]
        if candidates and not node.attributes.get("src"):
            node.attrs["src"] = candidates[0][0]

    def refused(self) -> None:
        """Take out what the host does not take; what held words keeps them."""
        allowed = self.context.allowed
        wholes = [tag for tag in (*_SCRIPTS, *_EMBEDS, "form") if tag == "script" or (allowed and tag not in allowed)]
        # Only the outermost: an element that goes takes what it holds along.
        for node in [node for node in self.fragment.select(",".join(wholes)) if not _within(node, wholes)]:
            if node.tag in _EMBEDS:
                self._embed(node)
            elif node.tag == "form":
                self._form(node)
            else:
                self.say(
                    Severity.INFO,
                    "script",
                    f"A <{node.tag}> was taken out.",
                    "Nothing to do, unless the page needs what it did.",
                )
                node.decompose()
        for node in self.fragment.elements() if allowed else ():
            if node.tag not in allowed:
                self.say(Severity.INFO, "element", f"<{node.tag}> cannot stand on the new host; its words stay.", "")
                if node.child is None:
                    node.decompose()  # the parser unwraps only what holds something
                else:
                    node.unwrap()

    def _embed(self, node: LexborNode) -> None:
        """An embed becomes a link to what it showed."""
        attributes = node.attributes
        source = attributes.get("src") or attributes.get("data") or ""
        if not source:
            node.decompose()
            return
        words = attributes.get("title") or source
        put_in_place(node, f'<p><a href="{html.escape(source)}">{html.escape(words)}</a></p>')
        self.say(
            Severity.WARNING,
            "embed",
            f"An embed of {source} became a link to it.",
            "Put the video or frame in again with what the new host offers.",
        )

    def _form(self, node: LexborNode) -> None:
        names = [
            label
            for field in node.css(_FORM_FIELDS)
            if (label := field.attributes.get("name") or field.attributes.get("type"))
        ]
        self.say(
            Severity.ERROR,
            "form",
            f"A form was taken out of the body; its fields: {', '.join(names) or 'none'}.",
            "Make the form anew with what the new host offers.",
        )
        node.decompose()

    def lead(self, lead: Media) -> None:
        """Put the lead picture before all else, unless the body shows it already."""
        if any(node.attributes.get("src") == lead.address for node in self.fragment.select("img")):
            return
        caption = f"<figcaption>{html.escape(lead.caption, quote=False)}</figcaption>" if lead.caption else ""
        self.fragment.prepend(
            f'<figure><img src="{html.escape(lead.address)}" '
            f'alt="{html.escape(lead.alternative_text)}">{caption}</figure>'
        )


def _within(node: LexborNode, tags: list[str]) -> bool:
    """Whether an element stands in one of these."""
    parent = node.parent
    while parent is not None and parent.tag not in tags:
        parent = parent.parent
    return parent is not None
