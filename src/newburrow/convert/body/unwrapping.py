"""Taking an element out of a body so that its words stay, apart from those before and after it."""

from __future__ import annotations

import html

from selectolax.lexbor import LexborNode

from newburrow.markup.html import Fragment, replace

# Elements that begin and end lines (HTML standard section 15.3), and cells, which are apart from one another.
BLOCKS = frozenset(
    """
    address article aside blockquote body center dd details dialog dir div dl dt fieldset figcaption figure
    footer form h1 h2 h3 h4 h5 h6 header hgroup hr legend li listing main menu nav ol optgroup option p
    plaintext pre search section summary table tbody tfoot thead tr ul xmp caption
    """.split()  # noqa: SIM905 (a list of one word a line would hide them)
)
_CELLS = ("td", "th")
_KEEPS_LINES = ("pre", "listing", "xmp", "plaintext")


def take_out(node: LexborNode, allowed: frozenset[str]) -> None:
    """Replace an element by what is in it; `allowed` are the elements that may set it apart.

    A block with words becomes a paragraph, else its words are set apart by a line break, else by a space.
    Lines of code stay lines. Elements within it must have been taken out before.
    """
    tag = node.tag or ""
    if tag == "br":
        replace(node, " ")
        return
    if tag == "a":
        replace(node, _with_address(node))
        return
    if tag in _CELLS:
        replace(node, f"{node.inner_html or ''} ")
        return
    if tag not in BLOCKS:
        if node.child is None:
            node.decompose()  # the parser unwraps only what holds something
        else:
            node.unwrap()
        return
    inner = node.inner_html or ""
    if tag in _KEEPS_LINES and allowed & {"p", "br"}:
        code = _code(inner, "br" in allowed, "p" in allowed)
        replace(node, code if "p" in allowed else _apart(node, code, "<br>"))
    elif not inner.strip():
        if "br" in allowed:
            mark = "<br>"
        else:
            mark = " "
        replace(node, mark if len(_apart(node, "", mark)) == 2 * len(mark) else "")
    elif "p" in allowed and _is_inline(inner) and not _in_inline(node):
        replace(node, f"<p>{inner.strip()}</p>")
    else:
        replace(node, _apart(node, inner, "<br>" if "br" in allowed else " "))


def _with_address(node: LexborNode) -> str:
    """The words of a link with its address in brackets, unless they are that."""
    inner, target = node.inner_html or "", (node.attributes.get("href") or "").strip()
    words = (node.text() or "").strip()
    if not target or target.startswith("#") or target in (words, f"mailto:{words}"):
        return inner
    return f"{inner} ({html.escape(target, quote=False)})"


def _code(inner: str, has_breaks: bool, has_paragraphs: bool) -> str:
    """Lines of code with a break between them, or each a paragraph; what begins a line keeps its distance."""
    lines = [
        "\N{NO-BREAK SPACE}" * (len(line) - len(line.lstrip(" "))) + line.lstrip(" ")
        for line in inner.strip("\n").split("\n")
    ]
    if not has_breaks:
        return "".join(f"<p>{line}</p>" for line in lines if line.strip())
    text = "<br>".join(lines)
    if has_paragraphs:
        return f"<p>{text}</p>"
    return text


def _is_inline(inner: str) -> bool:
    return not any(
        node.tag in BLOCKS or node.tag in _CELLS for node in Fragment(inner).elements()
    )


def _in_inline(node: LexborNode) -> bool:
    """Whether an element is within a paragraph or heading, which cannot hold another paragraph."""
    above = node.parent
    while above is not None:
        if above.tag in ("p", "h1", "h2", "h3", "h4", "h5", "h6", "a", "span", "pre"):
            return True
        above = above.parent
    return False


def _apart(node: LexborNode, inner: str, mark: str) -> str:
    before, after = node.prev, node.next
    lead = tail = ""
    if before is not None and not _is_apart(before, is_before=True):
        lead = mark
    if after is not None and not _is_apart(after, is_before=False):
        tail = mark
    return f"{lead}{inner}{tail}"


def _is_apart(node: LexborNode, is_before: bool) -> bool:
    """Whether a neighbour is apart already: by being a block, a break, or by its own space."""
    if node.is_text_node:
        text = node.text_content or ""
        return not text or text[-1 if is_before else 0].isspace()
    return node.tag in BLOCKS or node.tag == "br" or node.tag == "-comment"
