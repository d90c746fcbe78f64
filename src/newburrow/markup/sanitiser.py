"""The last treatment of every body: nothing that can run a script leaves, whatever our own steps overlooked.

The work is done by a sanitiser that parses by the HTML standard's algorithm. What stays is what the host
takes; for a host that names no elements, the baseline below. What goes is compared and told to the caller.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Callable
from functools import lru_cache

import nh3

from newburrow.core.web_schemes import RASTER_DATA, SAFE_SCHEMES
from newburrow.markup.html import Fragment

# Never in a result, even if a host names them.
FORBIDDEN = frozenset(
    """
    script noscript template object embed applet base meta link frame frameset noframes noembed plaintext xmp
    html head body title portal slot animate animatemotion animatetransform set discard foreignobject use
    handler listener annotation-xml maction
    """.split()  # noqa: SIM905 (a list of one word a line would hide them)
)
# What a host takes that names no elements: HTML without scripts and plug-ins, drawings (SVG), formulas (MathML).
BASELINE = frozenset(
    """
    a abbr acronym address area article aside audio b bdi bdo bgsound big blink blockquote br button caption
    center cite code col colgroup data datalist dd del details dfn dialog dir div dl dt em fieldset figcaption
    figure font footer form h1 h2 h3 h4 h5 h6 header hgroup hr i iframe img input ins kbd label legend li
    listing main map mark marquee menu meter nav nobr ol optgroup option output p picture pre progress q rb rp
    rt rtc ruby s samp search section select small source span strike strong style sub summary sup table tbody
    td textarea tfoot th thead time tr track tt u ul var video wbr
    svg g path rect circle ellipse line polyline polygon text tspan textpath defs marker symbol lineargradient
    radialgradient stop clippath mask pattern desc image
    math mi mn mo ms mtext mspace mrow mfrac msqrt mroot mstyle merror mpadded mphantom mfenced menclose msub
    semantics annotation msup msubsup munder mover munderover mmultiscripts mprescripts none mtable mtr mtd
    """.split()  # noqa: SIM905
)
# The attributes of the HTML standard (and of HTML 4) but those that run or load something else.
_ATTRIBUTES = frozenset(
    """
    abbr about accept accept-charset accesskey align alink allow allowfullscreen alt as async autocapitalize
    autocomplete autofocus autoplay axis background behavior bgcolor border cellpadding cellspacing char
    charoff charset checked cite class clear color cols colspan compact content contenteditable controls coords
    crossorigin data datatype datetime decoding default dir direction dirname disabled download draggable
    enctype enterkeyhint face fetchpriority for form frame frameborder headers height hidden high href
    hreflang hspace id imagesizes inert inputmode inlist ismap itemid itemprop itemref itemscope itemtype kind
    label lang link list loading longdesc loop low lowsrc marginheight marginwidth max maxlength media method
    min minlength multiple muted name nohref noshade novalidate nowrap open optimum pattern placeholder
    playsinline popover popovertarget poster prefix preload property radiogroup readonly referrerpolicy rel
    required resource rev reversed role rows rowspan rules sandbox scope scrolling selected shape size sizes
    span spellcheck src srclang srcset start step style summary tabindex target text title translate type
    typeof usemap valign value valuetype vlink vocab vspace width wrap xml:lang action
    """.split()  # noqa: SIM905
)
_DRAWN = frozenset(
    """
    x y x1 x2 y1 y2 cx cy r rx ry d fx fy dx dy rotate points offset viewbox viewBox preserveaspectratio
    preserveAspectRatio xmlns transform fill fill-opacity fill-rule stroke stroke-width stroke-linecap
    stroke-linejoin stroke-dasharray stroke-dashoffset stroke-miterlimit stroke-opacity opacity clip-path
    clip-rule font-family font-size font-style font-weight text-anchor dominant-baseline letter-spacing
    stop-color stop-opacity gradientunits gradientUnits gradienttransform gradientTransform markerwidth
    markerWidth markerheight markerHeight refx refX refy refY orient patternunits patternUnits display
    visibility color encoding mathvariant mathsize mathcolor displaystyle scriptlevel fence stretchy symmetric lspace
    rspace linethickness columnalign rowalign columnspan accent accentunder open close separators notation
    """.split()  # noqa: SIM905
)
_SCHEMES = set(SAFE_SCHEMES)
_OPENING_NEWLINE = re.compile(r"(<(?:pre|textarea|listing)\b[^>]*>)\n")
_RASTER = re.compile(RASTER_DATA, re.IGNORECASE)

# Is told what was taken out: `element`, `attribute`, `words`; its name, and what stood in it.
TellRemoved = Callable[[str, str, str], None]


def sanitised(text: str, allowed: frozenset[str], tell: TellRemoved) -> str:
    """An HTML fragment without anything that can run a script.

    `allowed` are the elements that the host takes; empty for the baseline. `text` must be nested no deeper
    than `markup.html.DEEPEST`.
    """
    doubled = _OPENING_NEWLINE.sub(r"\1\n\n", text)  # the parser drops the first one
    clean = _cleaner(allowed, "data:" in text.lower()).clean(doubled)
    if clean != text:
        _compare(text, clean, tell)
    return clean


@lru_cache(maxsize=16)
def _cleaner(allowed: frozenset[str], has_data: bool) -> nh3.Cleaner:
    tags = (allowed or BASELINE) - FORBIDDEN
    schemes = _SCHEMES
    if has_data:
        schemes = schemes | {"data"}
    attributes: dict[str, set[str]] = {"*": set(_ATTRIBUTES)}
    if "svg" in tags or "math" in tags:
        attributes["*"] |= _DRAWN
    return nh3.Cleaner(
        tags=set(tags),
        clean_content_tags=set(),
        attributes=attributes,
        attribute_filter=_checked_data if has_data else None,
        url_schemes=schemes,
        link_rel=None,
        strip_comments=False,
        generic_attribute_prefixes={"data-", "aria-"},
    )


def _checked_data(tag: str, name: str, value: str) -> str | None:
    """The value; None where it is an address with data in it that is no picture of pixels in an `img`."""
    bare = "".join(value.split()).lower()
    if not bare.startswith("data:"):
        return value
    if tag in ("img", "image") and name in ("src", "href") and _RASTER.match(bare):
        return value
    return None


def _compare(before: str, after: str, tell: TellRemoved) -> None:
    old, new = _Contents(before), _Contents(after)
    for tag in sorted(old.tags - new.tags):
        tell("element", tag, "")
    for tag, name, value in sorted(old.attributes - new.attributes):
        if (old.tags - new.tags)[tag] == 0:
            tell("attribute", f"{name} of <{tag}>", value)
    if lost := old.words - new.words:
        tell("words", "", " ".join(lost.elements()))


class _Contents:
    """What is in a fragment, counted."""

    def __init__(self, text: str) -> None:
        fragment = Fragment(text)
        self.tags, self.attributes = Counter[str](), Counter[tuple[str, str, str]]()
        for node in fragment.elements():
            tag = node.tag or ""
            self.tags[tag] += 1
            self.attributes.update(
                (tag, name.lower(), value or "") for name, value in node.attributes.items()
            )
        self.words = Counter(fragment.words().split())
