"""Fragments of links: one that named a comment on the old page names it on the new one."""

from __future__ import annotations

from collections.abc import Callable

from msgspec.structs import replace

from newburrow.assess.link_map import Link, LinkTarget
from newburrow.convert.context import Context
from newburrow.core import url_pattern
from newburrow.decide.comment_choice import reason_to_leave_comment
from newburrow.model import Comment
from newburrow.model.keys import marked, scope_of


def follower(context: Context) -> Callable[[str, str], Link]:
    """A function of an address and the page it is on that gives the new address, with its fragment."""

    def follow(found: str, base: str) -> Link:
        link = context.links.follow(found, base)
        if "#" in link.address:
            return _kept_right(link, context)
        return link

    return follow


def _kept_right(link: Link, context: Context) -> Link:
    """A link whose fragment is that of the new host; none is left of a comment that is left out."""
    head, mark, fragment = link.address.partition("#")
    if not fragment or link.leads not in (LinkTarget.MOVED, LinkTarget.HERE):
        return link
    now = _renamed(fragment, context)
    if now == fragment or not (head or now):
        return link
    return replace(link, address=head + (mark + now if now else ""))


def _renamed(fragment: str, context: Context) -> str:
    for dialect in context.dialects:
        pattern = dialect.addresses.comment
        if pattern:
            found = url_pattern.matcher(pattern).fullmatch(fragment)
        else:
            found = None
        if found:
            comment = _comment(found["id"], context)
        else:
            comment = None
        if comment is not None:
            if reason_to_leave_comment(comment, context.decisions, context.host):
                return ""
            return _now(fragment, comment, context)
    return fragment


def _comment(word: str, context: Context) -> Comment | None:
    marks = {scope_of(site.key): None for site in context.sites}
    return next(
        (
            found_comment
            for mark in marks
            if (found_comment := context.store.get(Comment, marked(mark, word)))
        ),
        None,
    )


def _now(fragment: str, comment: Comment, context: Context) -> str:
    pattern = context.host.comments.fragment
    if pattern:
        return url_pattern.expand(pattern, {"id": context.new_id("comment", comment.key)})
    return fragment
