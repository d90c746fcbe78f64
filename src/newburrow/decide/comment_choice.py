"""Which comments move."""

from __future__ import annotations

from newburrow.decide.decisions import Decisions
from newburrow.hosts.profile import Profile
from newburrow.model.comment import Comment


def reason_to_leave_comment(comment: Comment, decisions: Decisions, profile: Profile) -> str:
    """Why a comment is left out although its entry moves; empty for one that moves.

    By its state (`choose.comment_states`), its kind (`comments.pingbacks`), or what the new host accepts of
    comments. One that goes into a data file or the closing section moves.
    """
    if comment.status not in decisions.choose.comment_states:
        return f"{comment.status} comments are left out (move.toml, choose.comment_states)"
    rules, host = decisions.comments, profile.title or profile.name
    if comment.kind != "comment" and rules.pingbacks == "leave-out":
        return f"{comment.kind}s are left out (move.toml, comments.pingbacks)"
    if comment.kind != "comment" and rules.pingbacks == "data-file":
        return ""
    if not profile.comments.taken:
        left = rules.without_place == "leave-out"
        if left:
            return f"{host} has no comments (move.toml, comments.without_place)"
        return ""
    if comment.status not in profile.comments.states:
        return f"{host} takes no {comment.status} comments"
    if comment.kind not in profile.comments.kinds:
        return f"{host} takes no {comment.kind}s"
    return ""
