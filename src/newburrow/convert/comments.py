"""Comments: which go along, in threads with every answer after what it answers."""

from __future__ import annotations

from msgspec.structs import replace

from newburrow.convert.choose import reason_to_leave_comment
from newburrow.convert.context import Context
from newburrow.journal import Fate, Settled
from newburrow.model import Bundle, Comment
from newburrow.problem import Problem

_TITLE = 60  # characters of a comment shown in the ledger


def settled(comment: Comment, fate: Fate, reason: str = "", new: str = "", old: str = "", nth: int = 0) -> Settled:
    """The ledger's row for a comment."""
    words = " ".join(comment.body.text.split())
    title = f"{comment.author_name or 'anonymous'}: {words[:_TITLE]}{'…' if len(words) > _TITLE else ''}"
    return Settled("comment", comment.key, comment.kind, fate, reason, title, old, new, nth)


def step(bundle: Bundle, context: Context) -> tuple[Bundle, list[Problem]]:
    """The comments that move, parents first; an answer to one that stays behind answers what that answered."""
    kept: dict[str, Comment] = {}
    parents = {comment.key: comment.parent for comment in bundle.comments}
    for comment in bundle.comments:
        reason = reason_to_leave_comment(comment, context)
        if reason:
            context.journal.settle(settled(comment, Fate.LEFT_OUT, reason, old=bundle.entry.permalink))
        else:
            kept[comment.key] = comment
    return replace(bundle, comments=tuple(_threaded(kept, parents))), []


def _threaded(kept: dict[str, Comment], parents: dict[str, str]) -> list[Comment]:
    answers: dict[str, list[Comment]] = {}
    for comment in kept.values():
        parent = _standing_parent(comment, kept, parents)
        answers.setdefault(parent, []).append(replace(comment, parent=parent))
    ordered: list[Comment] = []
    waiting = list(reversed(answers.get("", [])))
    while waiting:
        comment = waiting.pop()
        ordered.append(comment)
        waiting += reversed(answers.get(comment.key, []))
    return ordered


def _standing_parent(comment: Comment, kept: dict[str, Comment], parents: dict[str, str]) -> str:
    """The nearest comment above this one that moves; none where the parents go in a circle."""
    parent, seen = comment.parent, {comment.key}
    while parent and parent not in kept:
        if parent in seen:
            return ""
        seen.add(parent)
        parent = parents.get(parent, "")
    return parent if parent and not _in_circle(comment, kept, parents) else ""


def _in_circle(comment: Comment, kept: dict[str, Comment], parents: dict[str, str]) -> bool:
    at, seen = comment.key, set[str]()
    while at:
        if at in seen:
            return True
        seen.add(at)
        at = parents.get(at, "")
    return False
