"""Comments: which move, in threads with every answer after what it answers."""

from __future__ import annotations

import html

from msgspec.structs import replace

from newburrow.convert.context import Context
from newburrow.core import plugins
from newburrow.core.problem import Problem
from newburrow.decide.comment_choice import reason_to_leave_comment
from newburrow.markup.base import Markup, Unreadable
from newburrow.model import Body, Comment
from newburrow.model.bundle import Bundle
from newburrow.store.journal.rows import Fate, LedgerRow

_TITLE = 60  # characters of a comment shown in the ledger


def settled(
    comment: Comment, fate: Fate, reason: str = "", new: str = "", old: str = "", nth: int = 0
) -> LedgerRow:
    """The ledger's row for a comment.

    Its title is the author's name and the first 60 characters. `old` and `new` are the addresses of its
    entry, or of the comment itself where a host gives it one. `nth` numbers comments with the same key.
    """
    words = " ".join(comment.body.text[: _TITLE * 10].split())
    title = f"{comment.author_name or 'anonymous'}: {words[:_TITLE]}{'…' if len(words) > _TITLE else ''}"
    return LedgerRow("comment", comment.key, comment.kind, fate, reason, title, old, new, nth)


def step(bundle: Bundle, context: Context) -> tuple[Bundle, list[Problem]]:
    """The comments that move, parents first; an answer to one that is left out answers what that answered.

    What the host has no place for goes into the data file or into a closing section, as was decided.
    """
    moved: dict[str, Comment] = {}
    parents = {comment.key: comment.parent for comment in bundle.comments}
    for comment in bundle.comments:
        reason = reason_to_leave_comment(comment, context.decisions, context.host)
        if reason:
            context.journal.ledger.add(
                settled(comment, Fate.LEFT_OUT, reason, old=bundle.entry.permalink)
            )
        else:
            moved[comment.key] = comment
    return replace(
        bundle, comments=tuple(_flat(_threaded(moved, parents), context.host.comments.depth))
    ), []


def _flat(comments: list[Comment], depth: int | None) -> list[Comment]:
    """Comments no deeper than the host nests them; one that stood deeper says whom it answers."""
    if depth is None:
        return comments
    levels: dict[str, int] = {}
    by_key = {comment.key: comment for comment in comments}
    made = []
    for comment in comments:
        if comment.parent:
            level = levels[comment.parent] + 1
        else:
            level = 1
        if level > depth:
            answered = by_key[comment.parent]
            above = answered
            while levels[above.key] >= depth and depth > 1:
                above = by_key[above.parent]
            if depth > 1:
                parent = above.key
            else:
                parent = ""
            comment = replace(
                comment, parent=parent, body=_in_reply(comment.body, answered.author_name)
            )
            level = min(level, depth)
            by_key[comment.key] = comment
        levels[comment.key] = level
        made.append(comment)
    return made


def _in_reply(body: Body, name: str) -> Body:
    """A body that begins with whom it answers."""
    words = html.escape(f"In reply to {name or 'anonymous'}:", quote=False)
    markup: Markup = plugins.get(plugins.MARKUPS, body.markup)
    try:
        return Body(f"<p><em>{words}</em></p>\n{markup.to_html(body.text)}", "html", body.base)
    except Unreadable:
        return body


def _threaded(moved: dict[str, Comment], parents: dict[str, str]) -> list[Comment]:
    answers: dict[str, list[Comment]] = {}
    for comment in moved.values():
        parent = _standing_parent(comment, moved, parents)
        answers.setdefault(parent, []).append(replace(comment, parent=parent))
    ordered: list[Comment] = []
    waiting = list(reversed(answers.get("", [])))
    while waiting:
        comment = waiting.pop()
        ordered.append(comment)
        waiting += reversed(answers.get(comment.key, []))
    return ordered


def _standing_parent(
    comment: Comment, moved: dict[str, Comment], parents: dict[str, str]
) -> str:
    """The nearest comment above this one that moves; none where the parents go in a circle."""
    parent, seen = comment.parent, {comment.key}
    while parent and parent not in moved:
        if parent in seen:
            return ""
        seen.add(parent)
        parent = parents.get(parent, "")
    if parent and not _in_circle(comment, parents):
        return parent
    return ""


def _in_circle(comment: Comment, parents: dict[str, str]) -> bool:
    """Whether a comment answers, by way of others, itself; one that answers such a comment does not."""
    above, seen = comment.parent, set[str]()
    while above and above not in seen:
        if above == comment.key:
            return True
        seen.add(above)
        above = parents.get(above, "")
    return False
