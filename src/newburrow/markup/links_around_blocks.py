"""Links around blocks, such as headings, which HTML allows (HTML standard 4.5.1) and other markups cannot say."""

from __future__ import annotations

from collections.abc import Collection

from selectolax.lexbor import LexborNode

from newburrow.markup.html import children, start_tag
from newburrow.markup.html_tags import PARTS_OF_BLOCKS


def within_blocks(link: LexborNode, blocks: Collection[str]) -> str:
    """The content of a link as HTML, with a link of its own in each of the blocks; empty where it holds none.

    `blocks` are names of elements.
    """
    if not _holds_block(link, blocks):
        return ""
    return _pushed(children(link), start_tag(link), frozenset(blocks) | PARTS_OF_BLOCKS)


def _pushed(nodes: list[LexborNode], start: str, blocks: Collection[str]) -> str:
    made, run = list[str](), list[LexborNode]()

    def end_run() -> None:
        inner = "".join(node.html or "" for node in run)
        is_shown = any((node.text() or "").strip() or _has_picture(node) for node in run)
        made.append(f"{start}{inner}</a>" if is_shown else inner)
        run.clear()

    for node in nodes:
        if node.tag not in blocks and not _holds_block(node, blocks):
            run.append(node)
            continue
        end_run()
        tag = start_tag(node)
        made.append(f"{tag}{_pushed(children(node), start, blocks)}</{node.tag}>")
    end_run()
    return "".join(made)


def _holds_block(node: LexborNode, blocks: Collection[str]) -> bool:
    return any(child.tag in blocks or _holds_block(child, blocks) for child in children(node))


def _has_picture(node: LexborNode) -> bool:
    return node.tag == "img" or (not node.is_text_node and node.css_first("img") is not None)
