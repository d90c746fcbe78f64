"""One body as a parsed page, and the changes that make it one of the new host."""

from __future__ import annotations

import html
import re
from collections.abc import Callable, Iterable

from selectolax.lexbor import LexborNode

from newburrow.assess.link_map import Link, LinkTarget
from newburrow.convert.body.embeds import ELEMENTS
from newburrow.convert.body.unwrapping import take_out
from newburrow.convert.context import Context
from newburrow.core.problem import Say
from newburrow.markup.html import Fragment
from newburrow.markup.html import replace as put_in_place
from newburrow.model import Media

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
_TAG = re.compile(r"<([a-z][^\s/>]*)")
_HANDLER = re.compile(r"on[a-z]+\s*=")  # begins with letters, which are found ten times as fast
_BEFORE_A_NAME = " \t\n\r\f/\"'"
_SCRIPTS = ("script", "style", "noscript", "template")
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
        self.silent: list[str] = []  # pictures without alternative text

    def addresses(self) -> None:
        """Rewrite every address in an attribute."""
        # Each element has only one of these tags, so none is visited twice.
        selectors = self._present(_ADDRESSES)
        for node in self.fragment.select(",".join(selectors)) if selectors else ():
            attributes = node.attributes
            for name in _ADDRESSES.get(node.tag or "", ()):
                value = attributes.get(name)
                if value:
                    self._address(node, name, value)
            if attributes.get("srcset"):
                self._srcset(node, attributes["srcset"] or "")

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
                self.say("script", message=f"A script in an attribute ({name}) was removed.")

    def _present(self, tags: Iterable[str]) -> list[str]:
        """Those of these elements that the text can hold."""
        return [tag for tag in tags if tag in self.tags]

    def _address(self, node: LexborNode, name: str, value: str) -> None:
        link = self.follow(value, self.base)
        if link.leads is LinkTarget.UNSAFE:
            del node.attrs[name]
            self.say("script", message="A link that runs a script was removed; its words stay.")
            return
        if link.address != value:
            node.attrs[name] = link.address
        if link.leads is LinkTarget.MOVED:
            self.context.show(link.address)
        if node.tag == "img" and name == "src" and node.attributes.get("alt") is None:
            self._alternative(node, link)
        if node.tag != "form":  # a form does not lead to a page
            self._say_dead(link, "picture" if node.tag in ("img", "source") else "link")

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
            self.say("no-alternative-text", names=names)

    def _say_dead(self, link: Link, fault: str) -> None:
        if link.leads is LinkTarget.GONE:
            self.say("link-to-left-out", thing=fault, address=link.old)
        elif link.leads is LinkTarget.UNKNOWN and fault == "picture":
            self.say("missing-picture", message=f"The picture {link.old} is not in the export.")
        elif link.leads is LinkTarget.UNKNOWN:
            self.say("dead-link", address=link.old)

    def _srcset(self, node: LexborNode, value: str) -> None:
        """HTML standard section 4.8.4.2.1: candidates that have become one file are written once."""
        candidates = []
        for part in value.split(","):
            words = part.split()
            if words:
                link = self.follow(words[0], self.base)
                self._say_dead(link, "picture")
                candidates.append((link.address, " ".join(words[1:])))
                self.context.show(link.address)
        if len({address for address, _size in candidates}) > 1 or node.tag == "source":
            node.attrs["srcset"] = ", ".join(
                f"{address} {size}".strip() for address, size in candidates
            )
            return
        del node.attrs["srcset"]
        if "sizes" in node.attributes:
            del node.attrs["sizes"]
        if candidates and not node.attributes.get("src"):
            node.attrs["src"] = candidates[0][0]

    def refused(self) -> None:
        """Remove what the host does not accept; the words in it stay."""
        allowed = self.allowed
        refused = [
            tag
            for tag in (*_SCRIPTS, *ELEMENTS, "form")
            if tag == "script" or (allowed and tag not in allowed)
        ]
        wholes = self._present(refused)
        if wholes:
            found = self.fragment.select(",".join(wholes))
        else:
            found = []
        # Only the outermost: what is in an element is removed with it.
        for node in [node for node in found if not _within(node, wholes)]:
            if node.tag in ELEMENTS:
                self._embed(node)
            elif node.tag == "form":
                self._form(node)
            else:
                self.say("script", message=f"A <{node.tag}> was removed.")
                node.decompose()
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

    def _picture_out(self, node: LexborNode) -> None:
        words = node.attributes.get("alt") or ""
        put_in_place(node, html.escape(words, quote=False))
        source = node.attributes.get("src") or ""
        self.say("picture-out", address=source)

    def embeds(self) -> None:
        """Rewrite embeds to the new host's form, if it has one."""
        known = self.context.embeds
        frames = not known.form and (not self.allowed or "iframe" in self.allowed)
        if known.form and (selectors := self._present(ELEMENTS)):
            for node in [
                node
                for node in self.fragment.select(",".join(selectors))
                if not _within(node, selectors)
            ]:
                attributes = node.attributes
                source = attributes.get("src") or attributes.get("data") or ""
                if source:
                    put_in_place(node, known.in_form(source, attributes.get("title") or ""))
        for node, frame in known.alone(self.fragment, self.text):
            if known.form:
                put_in_place(node, known.in_form(frame, ""))
            elif frames:
                put_in_place(node, f'<iframe src="{html.escape(frame)}"></iframe>')
            else:
                self._say_embed(node.text() or frame)

    def _embed(self, node: LexborNode) -> None:
        """An embed becomes a link to what it showed."""
        attributes = node.attributes
        source = attributes.get("src") or attributes.get("data") or ""
        if not source:
            node.decompose()
            return
        page = self.context.embeds.page_of(source)
        words = attributes.get("title") or page
        put_in_place(node, f'<p><a href="{html.escape(page)}">{html.escape(words)}</a></p>')
        self._say_embed(source)

    def _say_embed(self, source: str) -> None:
        self.say("embed", address=source)

    def _form(self, node: LexborNode) -> None:
        names = [
            label
            for field in node.css(_FORM_FIELDS)
            if (label := field.attributes.get("name") or field.attributes.get("type"))
        ]
        self.say("form", fields=", ".join(names) or "none")
        node.decompose()

    def lead(self, lead: Media) -> None:
        """Insert the lead picture at the beginning, unless the body shows it already."""
        if any(
            node.attributes.get("src") == lead.address for node in self.fragment.select("img")
        ):
            return
        if lead.caption:
            caption = f"<figcaption>{html.escape(lead.caption, quote=False)}</figcaption>"
        else:
            caption = ""
        self.fragment.prepend(
            f'<figure><img src="{html.escape(lead.address)}" '
            f'alt="{html.escape(lead.alternative_text)}">{caption}</figure>'
        )

    def lead_once(self, lead: Media) -> None:
        """Remove the lead picture from the beginning of the body, since the host shows it there anyway."""
        first = next(iter(self.fragment.select("img")), None)
        if (
            first is None
            or first.attributes.get("src") != lead.address
            or not self._opens(first)
        ):
            return
        holder = first
        while holder.parent is not None and holder.parent.tag in (
            "a",
            "figure",
            "p",
            "picture",
        ):
            words = (holder.parent.text() or "").strip()
            if words and not (holder.parent.tag == "figure" and words == lead.caption.strip()):
                break
            holder = holder.parent
        holder.decompose()
        self.context.tally["lead-once"] += 1

    def _opens(self, picture: LexborNode) -> bool:
        """Whether a picture comes before anything that a reader sees."""
        at: LexborNode | None = picture
        while at is not None:
            before = at.prev
            while before is not None:
                if (before.text() or "").strip() and before.tag != "-comment":
                    return False
                before = before.prev
            at = at.parent
        return True


def _within(node: LexborNode, tags: list[str]) -> bool:
    """Whether an element is in one of these."""
    parent = node.parent
    while parent is not None and parent.tag not in tags:
        parent = parent.parent
    return parent is not None
