"""One body as a parsed page, and the changes that make it one of the new host."""

from __future__ import annotations

import html
import re
from collections.abc import Callable, Iterable
from urllib.parse import quote, unquote

from msgspec.structs import replace
from selectolax.lexbor import LexborNode

from newburrow.assess.link_map import Link, LinkTarget
from newburrow.convert.body.embeds import ELEMENTS
from newburrow.convert.body.sections import Places, places_of
from newburrow.convert.body.unwrapping import take_out
from newburrow.convert.context import Context
from newburrow.core import url
from newburrow.core.problem import Say
from newburrow.markup import frames, heading_ids
from newburrow.markup.addresses import PICTURE, TEXT, change_any
from newburrow.markup.base import MISSING_PAGE
from newburrow.markup.html import MOST_ATTRIBUTES, Fragment
from newburrow.markup.html import replace as put_in_place
from newburrow.markup.sanitiser import FORBIDDEN

_TAG = re.compile(r"<([a-z][^\s/>]*)")
_HANDLER = re.compile(r"on[a-z]+\s*=")  # begins with letters, which are found ten times as fast
_EMPTY_LINK = re.compile(
    r"""href(?:\s*=\s*(?:"\s*"|'\s*')|(?=\s*/?>|\s+[a-z]))""", re.IGNORECASE
)
_BEFORE_A_NAME = " \t\n\r\f/\"'"
_SCRIPTS = ("script", "style", "noscript", "template")
_SHOWN = (
    "noscript",
    "template",
)  # what is in them can be seen, with scripts off or by a shadow root
_EMBEDS = (*ELEMENTS, "applet")
_ALONE = re.compile(r"(?:https?)://[^\s<>]+")
_FILMS = ("video", "audio")
_FORM_FIELDS = "input,textarea,select"


class Page:
    """One parsed body, and the changes made to it."""

    def __init__(
        self,
        text: str,
        base: str,
        context: Context,
        say: Say,
        follow: Callable[[str, str], Link],
        allowed: frozenset[str],
    ) -> None:
        """Raises TooDeep where the text is nested beyond reason.

        `base` is the address that links are relative to, `follow` gives what becomes of an address found on the page at
        a base, `allowed` are the elements that the new host accepts (empty: all).
        """
        self.fragment, self.base, self.context, self.say = Fragment(text), base, context, say
        self.follow = follow
        for tag in self.fragment.cut:
            say("attributes-cut", tag=tag, most=MOST_ATTRIBUTES)
        self.allowed = allowed  # empty: all
        # reading them takes less time than asking the parser
        self.text, self.lower = (
            text,
            text.lower(),
        )
        # all elements that the text can hold, except those that are removed without a follow-up
        self.tags = set(_TAG.findall(self.lower))
        if "image" in self.tags:
            self.tags.add("img")  # the parser replaces the one with the other
        self.missing = set[str]()  # addresses of pages that are not there
        self.silent: list[str] = []  # pictures without alternative text
        self._places: Places = {}

    def addresses(self) -> None:
        """Rewrite every address, wherever it stands."""
        if not self.context.markup.keeps_ids and "#" in self.text:
            self._places = places_of(self.fragment)
        if self.base and _EMPTY_LINK.search(self.text):
            for node in self.fragment.select("a[href]"):
                if not (node.attributes["href"] or "").strip():
                    node.attrs["href"] = self.base  # a link to the page itself
        change_any(self.fragment, self.text, self._changed)

    def _missing_page(self, name: str) -> str:
        kind = self.context.kind_for("wiki-page") or self.context.kind_for("page")
        return self.context.new_pages.missing(name, kind)

    def missing_pages(self) -> None:
        """Links to pages that the old wiki did not have: they stay where the new host can say that, else as words."""
        if MISSING_PAGE not in self.text:
            return
        for node in self.fragment.select(f"a.{MISSING_PAGE}"):
            name = node.attributes.get("href") or ""
            address = self._missing_page(name)
            if address:
                node.attrs["href"] = address
                self.missing.add(address)
                self.context.journal.lost.add(name, LinkTarget.UNKNOWN.value)
                continue
            self.context.journal.lost.add(name, LinkTarget.UNKNOWN.value)
            self.say("red-link", page=name)
            put_in_place(node, node.inner_html or "")

    def give_heading_ids(self, markup: str) -> None:
        """Give headings the ids that the old host gave them.

        `markup` is the name of the one in which it kept the text.
        """
        if markup in self.context.with_heading_ids and "<h" in self.lower:
            heading_ids.give(self.fragment)

    def leave_heading_ids(self) -> None:
        """Leave out the ids that the new host gives headings anyway."""
        if self.context.host.markup.heading_ids and "<h" in self.lower:
            heading_ids.leave_out(self.fragment)

    def handlers(self) -> None:
        """Remove scripts in attributes."""
        if not any(
            self.lower[found.start() - 1] in _BEFORE_A_NAME
            for found in _HANDLER.finditer(self.lower)
        ):
            return
        for node in self.fragment.elements():
            for name in [name for name in node.attributes if name.startswith("on")]:
                del node.attrs[name]
                self.say("script-handler", name=name)

    def _present(self, tags: Iterable[str]) -> list[str]:
        """Those of these elements that the text can hold."""
        return [tag for tag in tags if tag in self.tags]

    def _changed(self, value: str, use: str, node: LexborNode) -> str | None:
        """What an address becomes; None for one that runs a script."""
        if value in self.missing:
            return value
        link = self.follow(value, self.base)
        if link.leads is LinkTarget.UNSAFE:
            self.say("script-link")
            return None
        if "#" in link.address and not self.context.markup.keeps_ids:
            link = self._to_section(link)
        self._say_likely(link)
        if link.leads is LinkTarget.MOVED:
            self.context.show(link.address)
        elif link.leads is LinkTarget.ELSEWHERE:
            self._say_remote(link.address, use, node)
        if node.tag == "img" and use == PICTURE and node.attributes.get("alt") is None:
            self._alternative(node, link)
        if use != "form":  # a form does not lead to a page
            self._say_dead(link, "picture" if use == PICTURE else "link")
        if use == TEXT and link.leads is not LinkTarget.MOVED:
            return value
        if link.leads is LinkTarget.ELSEWHERE:
            return self._with_query(link.address)
        return link.address

    def _to_section(self, link: Link) -> Link:
        """A link to a place within a page as the new host can name it; to the page where it has no such place."""
        if link.leads not in (LinkTarget.HERE, LinkTarget.MOVED):
            return link
        address = self.context.sections.renamed(link.address, self._places)
        if address is None:
            self.say("section-lost", detail=link.address)
            address = link.address.partition("#")[0]
        return replace(link, address=address)

    def _say_likely(self, link: Link) -> None:
        """A link that does not lead to what it asked for, but to what is nearest."""
        if link.found_at and self.context.is_package:
            expected = url.path_of(link.old)
            self.say("file-elsewhere", expected=expected, found=link.found_at)
        if link.is_version:
            self.say("older-version", detail=link.old)

    def _with_query(self, address: str) -> str:
        """An address of another site whose query holds one of the old site, as those that share a page do."""
        before, mark, query = address.partition("?")
        if not mark or ("%3A%2F%2F" not in query.upper() and "://" not in query):
            return address
        parts = []
        for part in query.split("&"):
            name, equals, value = part.partition("=")
            inner = unquote(value)
            if "://" in inner:
                link = self.follow(inner, self.base)
            else:
                link = None
            if link and link.leads is LinkTarget.MOVED:
                value = quote(link.address, safe="")
            elif link:
                self._say_dead(link, "link")
            parts.append(f"{name}{equals}{value}")
        return f"{before}?{'&'.join(parts)}"

    def _say_remote(self, address: str, use: str, node: LexborNode) -> None:
        """A picture or film that another site serves is gone when that is, or the account there."""
        shown = use == PICTURE or (
            use == TEXT and node.tag in ("img", "video", "audio", "source")
        )
        host = url.site_key(address)
        if shown and host:
            self.say("remote-file", host=host, detail=address)

    def _alternative(self, node: LexborNode, link: Link) -> None:
        """Alternative text that only the file's own facts tell."""
        media = self.context.media_at(link.address)
        if media and media.alternative_text:
            node.attrs["alt"] = media.alternative_text
        else:
            self.silent.append(link.address.rpartition("/")[2] or link.address)

    def say_alternatives(self) -> None:
        """Report pictures without an alternative text."""
        if self.silent:
            names = ", ".join(dict.fromkeys(self.silent))
            self.say("no-alternative-text", detail=names)

    def _say_dead(self, link: Link, fault: str) -> None:
        if link.leads in (LinkTarget.GONE, LinkTarget.UNKNOWN):
            self.context.journal.lost.add(link.old, link.leads.value)
        if link.leads is LinkTarget.GONE:
            self.say("link-to-left-out", thing=fault, address=link.old)
        elif link.leads is LinkTarget.UNKNOWN and fault == "picture":
            self.say("missing-picture", message=f"The picture {link.old} is not in the export.")
        elif link.leads is LinkTarget.UNKNOWN:
            self.say("dead-link", address=link.old)

    def refused(self) -> None:
        """Remove what the host does not accept; the words in it stay."""
        allowed = self.allowed
        refused = [
            tag
            for tag in (*_SCRIPTS, *_EMBEDS, *_FILMS, "form")
            if tag in FORBIDDEN or (allowed and tag not in allowed)
        ]
        wholes = self._present(refused)
        if wholes:
            found = self.fragment.select(",".join(wholes))
        else:
            found = []
        # Only the outermost: what is in an element is removed with it.
        for node in [node for node in found if not _within(node, wholes)]:
            if node.tag in _EMBEDS or node.tag in _FILMS:
                self._embed(node)
            elif node.tag == "form":
                self._form(node)
            else:
                self._script(node)
        if "form" not in refused and "form" in self.tags:
            for node in self.fragment.select("form"):
                self._form(node, keeps=True)
        # The innermost first: what an element holds is made anew when it is taken out.
        found = [
            node for node in self.fragment.elements() if allowed and node.tag not in allowed
        ]
        for node in found:
            self.say("element", tag=node.tag)
        for node in reversed(found):
            if node.tag == "img":
                self._picture_out(node)
            else:
                take_out(node, allowed)

    def _script(self, node: LexborNode) -> None:
        words = ""
        if node.tag in _SHOWN:
            words = " ".join(Fragment(node.inner_html or "").words().split())
        self.say("script", message=f"A <{node.tag}> was removed.", detail=words)
        node.decompose()

    def styles(self) -> None:
        """Remove styles that are more than that: one in a drawing, or with a tag in it, may hold a script."""
        for node in self.fragment.select("style") if "style" in self.tags else ():
            if "<" in (node.text() or "") or _within(node, ["svg", "math"]):
                self._script(node)

    def removed(self, what: str, name: str, value: str) -> None:
        """Report what the sanitiser took out after all else."""
        if what == "element":
            self.say("element", tag=name)
        elif what == "attribute":
            self.say("attribute", name=name, detail=value)
        else:
            self.say("words-out", detail=value)

    def _picture_out(self, node: LexborNode) -> None:
        words = node.attributes.get("alt") or ""
        put_in_place(node, html.escape(words, quote=False))
        source = node.attributes.get("src") or ""
        self.say("picture-out", address=source)

    def embeds(self) -> None:
        """Rewrite embeds to the new host's form, if it has one."""
        self._drop_empty()
        known = self.context.embeds
        keeps_frames = not known.form and (not self.allowed or "iframe" in self.allowed)
        if known.form and (selectors := self._present(ELEMENTS)):
            for node in [
                node
                for node in self.fragment.select(",".join(selectors))
                if not _within(node, selectors)
            ]:
                attributes = node.attributes
                source = attributes.get("src") or attributes.get("data") or ""
                if source:
                    shown = known.in_form(source, attributes.get("title") or "")
                    put_in_place(node, shown + _instead_of(node))
        for node, frame in known.alone(self.fragment, self.text):
            if known.form:
                put_in_place(node, known.in_form(frame, ""))
            elif keeps_frames:
                put_in_place(node, f'<iframe src="{html.escape(frame)}"></iframe>')
            else:
                self._say_embed(node.text() or frame)

    def _drop_empty(self) -> None:
        """Remove frames that lost the script at their address; what stands in an object for want of it stays."""
        tags = self._present(ELEMENTS)
        for node in self.fragment.select(",".join(tags)) if tags else ():
            address = node.attributes.get("src") or node.attributes.get("data")
            if not address and node.css_first("param") is None:
                put_in_place(node, _instead_of(node))

    def link_alone(self) -> None:
        """Let an address alone in a paragraph, as texts without links of their own have them, lead there."""
        for node in self.fragment.select("p"):
            words = (node.text() or "").strip()
            child = node.child
            if (
                child is not None
                and child.next is None
                and child.is_text_node
                and _ALONE.fullmatch(words)
            ):
                link = f'<a href="{html.escape(words)}">{html.escape(words, quote=False)}</a>'
                put_in_place(node, f"<p>{link}</p>")

    def _embed(self, node: LexborNode) -> None:
        """An embed or film becomes a link to what it showed; the address alone where the host accepts no links."""
        attributes = node.attributes
        if node.tag in _FILMS:
            inner = node.css_first("source[src],img[src]")
        else:
            inner = None
        source = attributes.get("src") or attributes.get("data") or ""
        if not source and inner is not None:
            source = inner.attributes.get("src") or ""
        if not source:
            node.decompose()
            return
        page = self.context.embeds.page_of(source)
        words = html.escape(attributes.get("title") or page, quote=False)
        shown = f'<a href="{html.escape(page)}">{words}</a>'
        if self.allowed and "a" not in self.allowed:
            if words == html.escape(page, quote=False):
                shown = words
            else:
                shown = f"{words} ({html.escape(page, quote=False)})"
        instead = _instead_of(node)
        if f'href="{html.escape(source)}"' in instead:  # it links to the same with better words
            put_in_place(node, instead)
        else:
            put_in_place(node, f"<p>{shown}</p>{instead}")
        self._say_embed(source)

    def _say_embed(self, source: str) -> None:
        self.say("embed", address=source)

    def _form(self, node: LexborNode, keeps: bool = False) -> None:
        """A form never works on another host: it goes, or stays for a person to see what it was."""
        names = [
            label
            for field in node.css(_FORM_FIELDS)
            if (label := field.attributes.get("name") or field.attributes.get("type"))
        ]
        what, detail = "A form was removed from the body", ""
        if keeps:
            what = "The body has a form, and what it was sent to does not move"
        else:
            words = " ".join((node.text(separator=" ") or "").split())
            action = node.attributes.get("action") or ""
            detail = "; ".join(
                filter(None, (words and f"“{words}”", action and f"sent to {action}"))
            )
        self.say("form", what=what, fields=", ".join(names) or "none", detail=detail)
        if not keeps:
            node.decompose()


def _instead_of(node: LexborNode) -> str:
    """What an object holds for readers who cannot see it, as HTML; empty for other elements."""
    if node.tag == "object":
        return frames.without_frames(node)
    return ""


def _within(node: LexborNode, tags: list[str]) -> bool:
    """Whether an element is in one of these."""
    parent = node.parent
    while parent is not None and parent.tag not in tags:
        parent = parent.parent
    return parent is not None
