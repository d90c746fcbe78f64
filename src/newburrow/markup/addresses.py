"""Every address in a body, wherever HTML lets one stand: found and replaced in one way for all who ask.

Besides the attributes of links and pictures these are candidates of `srcset`, pictures that a script loads later,
`url()` in styles, drawings (SVG), parameters of plug-ins, pages within a page (`srcdoc`), addresses in other
attributes, and those that a text shows.
"""

from __future__ import annotations

import html
import re
from collections.abc import Callable, Iterator

from selectolax.lexbor import LexborNode

from newburrow.markup import srcset
from newburrow.markup.html import Fragment, TooDeep, replace

LINK, PICTURE, FRAME, TEXT = "link", "picture", "frame", "text"
# Takes an address, what it is there for, and the element; gives the new one, None to remove it.
Change = Callable[[str, str, LexborNode], "str | None"]

_ATTRIBUTES = {
    "a": {"href": LINK},
    "area": {"href": LINK},
    "img": {"src": PICTURE, "longdesc": LINK, "lowsrc": PICTURE},
    "source": {"src": PICTURE},
    "video": {"src": PICTURE, "poster": PICTURE},
    "audio": {"src": PICTURE},
    "track": {"src": PICTURE},
    "blockquote": {"cite": LINK},
    "q": {"cite": LINK},
    "ins": {"cite": LINK},
    "del": {"cite": LINK},
    "link": {"href": LINK},
    "input": {"src": PICTURE},
    "button": {"formaction": LINK},
    "object": {"data": FRAME},
    "embed": {"src": FRAME},
    "iframe": {"src": FRAME},
    "frame": {"src": FRAME},
    "form": {"action": "form"},
    "image": {"href": PICTURE, "xlink:href": PICTURE},
    "feimage": {"href": PICTURE, "xlink:href": PICTURE},
    "use": {"href": PICTURE, "xlink:href": PICTURE},
}
_OPENED = re.compile(r"<([a-zA-Z]+)")
_ANYWHERE = {"background": PICTURE}
_SETS = ("srcset", "imagesrcset")
_PARAMETERS = ("movie", "src", "url", "data", "filename", "href", "flashvars")
# Attributes in which a script finds the picture that it shows later, the best first.
LAZY = (
    "data-src",
    "data-original",
    "data-lazy-src",
    "data-lazy",
    "data-orig-file",
    "data-full-src",
    "data-image-src",
)
_LAZY_SETS = ("data-srcset", "data-lazy-srcset", "data-original-set")
_CSS = re.compile(r"""url\(\s*(?:"([^"]*)"|'([^']*)'|([^)"'\s]*))\s*\)""", re.IGNORECASE)
_ABSOLUTE = re.compile(r"\s*(?:https?:)?//[^\s/]", re.IGNORECASE)
# Signs that end an address in a text: brackets and quotation marks, also those of other scripts.
_ENDS = r"\s<>\"'()\[\]{}|\\^`“”„‟‘’‚«»‹›…、。！？（）「」『』"
_IN_TEXT = re.compile(rf"https?://[^{_ENDS}]+[^{_ENDS}.,;:!?*_~]", re.IGNORECASE)
# What tells that a body has addresses in other places than the plain attributes of links and pictures: words, and
# expressions that begin with letters, which are found many times as fast.
_SPECIAL_WORDS = (
    "srcset", "url(", "srcdoc", "<param", "<svg", "<image", "poster", "<noscript", "lowsrc", "longdesc",
)  # fmt: skip
_SPECIAL = (
    ("data-", re.compile(r"(?<=\s)data-")),
    ("background", re.compile(r"background\s*=")),
    ("cite", re.compile(r"cite\s*=")),
)


def is_special(text: str) -> bool:
    """Whether a body may have addresses elsewhere than in the plain attributes of links and pictures."""
    return _has_places(text) or _shows(text)


def _has_places(text: str) -> bool:
    low = text.lower()
    if any(map(low.__contains__, _SPECIAL_WORDS)):
        return True
    return any(word in low and places.search(low) for word, places in _SPECIAL)


def _shows(text: str) -> bool:
    """Whether a text may show an address: one that is not within a tag."""
    place = text.find("://")
    while place >= 0:
        if text.rfind("<", 0, place) <= text.rfind(">", 0, place):
            return True
        place = text.find("://", place + 3)
    return False


def change_any(fragment: Fragment, text: str, change: Change) -> None:
    """The same as `change_all`; `text` is what the fragment was made of.

    Most bodies have addresses in links and pictures alone: these are found in a fraction of the time.
    """
    if _has_places(text):
        change_all(fragment, change)
        return
    tags = sorted({tag.lower() for tag in _OPENED.findall(text)} & _ATTRIBUTES.keys())
    for node in fragment.select(",".join(tags)) if tags else ():
        _change_attributes(node, node.tag or "", change)
    if _shows(text):
        for node in _texts(fragment):
            _change_text(node, change)


def change_all(fragment: Fragment, change: Change, in_text: bool = True) -> None:
    """Replace every address in a fragment by what `change` gives; what a script would load later is loaded at once.

    Addresses that a text shows are replaced too, unless `in_text` is off or they are in code.
    """
    settle_lazy(fragment)
    for node in fragment.elements():
        tag = (node.tag or "").lower()
        if tag == "style":
            _change_style(node, change)
            continue
        _change_attributes(node, tag, change)
    if in_text:
        for node in _texts(fragment):
            _change_text(node, change)


def settle_lazy(fragment: Fragment) -> None:
    """Let each picture that a script loads later be loaded at once, and drop the copy for readers without scripts."""
    for node in fragment.select("img,source,iframe,video"):
        for names, own in ((LAZY, "src"), (_LAZY_SETS, "srcset")):
            _settle(node, names, own)
    copies = fragment.select("noscript")
    inside = {picture.mem_id for copy in copies for picture in copy.css("img")}
    shown = {
        picture.attributes.get("src")
        for picture in (fragment.select("img") if copies else ())
        if picture.mem_id not in inside
    }
    for node in copies:
        pictures = [picture.attributes.get("src") for picture in node.css("img")]
        if pictures and all(picture in shown for picture in pictures):
            node.decompose()
        elif pictures:
            before = _element_before(node)
            if (
                before is not None
                and before.tag == "img"
                and _is_placeholder(before.attributes.get("src") or "")
            ):
                before.decompose()
            replace(node, node.inner_html or "")


def _settle(node: LexborNode, names: tuple[str, ...], own: str) -> None:
    """Give an element what a script would give it, unless it has a picture already."""
    attributes = node.attributes
    given = [name for name in names if (attributes.get(name) or "").strip()]
    if given and (own == "srcset" or _is_placeholder(attributes.get(own) or "")):
        node.attrs[own] = (attributes[given[0]] or "").strip()
    for name in given:
        if (attributes.get(name) or "").strip() == (node.attributes.get(own) or ""):
            del node.attrs[name]


def _element_before(node: LexborNode) -> LexborNode | None:
    before = node.prev
    while (
        before is not None and before.is_text_node and not (before.text_content or "").strip()
    ):
        before = before.prev
    return before


def _is_placeholder(address: str) -> bool:
    """Whether a picture only keeps the place of another: it has no address, or a tiny picture in it."""
    address = address.strip().lower()
    return not address or address.startswith(("data:", "about:")) or address == "#"


def _change_attributes(node: LexborNode, tag: str, change: Change) -> None:
    attributes = node.attributes
    known = _ATTRIBUTES.get(tag, {})
    for name, value in attributes.items():
        if not value or name.startswith("on"):
            continue
        if name in _SETS:
            _change_set(node, name, value, change)
        elif name == "style":
            node.attrs[name] = _css(value, node, change)
        elif name == "srcdoc":
            _change_page(node, value, change)
        elif name in known or name in _ANYWHERE:
            _put(node, name, value, change(value, known.get(name) or _ANYWHERE[name], node))
        elif tag == "param" and name == "value" and _is_parameter(attributes.get("name") or ""):
            _put(node, name, value, change(value, FRAME, node))
        elif name not in ("alt", "title", "value", "content") and _ABSOLUTE.match(value):
            _put(node, name, value, change(value, TEXT, node))


def _put(node: LexborNode, name: str, old: str, new: str | None) -> None:
    if new is None:
        del node.attrs[name]
    elif new != old:
        node.attrs[name] = new


def _is_parameter(name: str) -> bool:
    return name.lower() in _PARAMETERS


def _change_set(node: LexborNode, name: str, value: str, change: Change) -> None:
    """Candidates that have become one file are written once."""
    found = [
        (new, descriptors)
        for address, descriptors in srcset.candidates(value)
        if (new := change(address, PICTURE, node)) is not None
    ]
    if len({address for address, _descriptors in found}) > 1 or (
        found and node.tag == "source"
    ):
        node.attrs[name] = srcset.written(found)
        return
    del node.attrs[name]
    if "sizes" in node.attributes:
        del node.attrs["sizes"]
    if found and not node.attributes.get("src"):
        node.attrs["src"] = found[0][0]


def _css(text: str, node: LexborNode, change: Change) -> str:
    def changed(found: re.Match[str]) -> str:
        address = next(group for group in found.groups() if group is not None)
        if not address or address.startswith("#"):
            return found[0]
        new = change(address, PICTURE, node)
        if new == address:
            return found[0]
        quoted = re.sub(r"[\s\"'()\\]", lambda sign: f"%{ord(sign[0]):02X}", new or "")
        return f"url({quoted})"

    return _CSS.sub(changed, text)


def _change_style(node: LexborNode, change: Change) -> None:
    old = node.text() or ""
    new = _css(old, node, change)
    if new != old and "</" not in new:
        attributes = "".join(
            f' {name}="{html.escape(value or "")}"' for name, value in node.attributes.items()
        )
        replace(node, f"<style{attributes}>{new}</style>")


def _change_page(node: LexborNode, value: str, change: Change) -> None:
    try:
        inner = Fragment(value)
    except TooDeep:
        return
    change_all(inner, change)
    node.attrs["srcdoc"] = inner.html()


def _texts(fragment: Fragment) -> Iterator[LexborNode]:
    """The texts that hold an address, but for those of code and scripts."""
    for node in fragment.elements():
        if node.tag in (
            "pre",
            "code",
            "script",
            "style",
            "textarea",
            "kbd",
            "samp",
            "tt",
            "svg",
            "math",
        ):
            continue
        child = node.child
        while child is not None:
            following = child.next
            holds_address = child.is_text_node and "://" in (child.text_content or "")
            if holds_address and not _in_code(child):
                yield child
            child = following
    top = fragment.first()
    while top is not None:
        following = top.next
        if top.is_text_node and "://" in (top.text_content or ""):
            yield top
        top = following


def _in_code(node: LexborNode) -> bool:
    above = node.parent
    while above is not None:
        if above.tag in ("pre", "code", "kbd", "samp", "tt"):
            return True
        above = above.parent
    return False


def _change_text(node: LexborNode, change: Change) -> None:
    old = node.text_content or ""
    new = _IN_TEXT.sub(lambda found: change(found[0], TEXT, node) or found[0], old)
    if new != old:
        replace(node, html.escape(new, quote=False))
