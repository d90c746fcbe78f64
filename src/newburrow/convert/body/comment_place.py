"""Comments that the new host has no place for: beside it in a data file, or as a section that closes the body."""

from __future__ import annotations

import html
import json
from collections.abc import Sequence

from newburrow.convert.context import Context
from newburrow.core.dates import iso
from newburrow.model import Comment

HOST, FILE, SECTION = "host", "data-file", "closing-section"
DATA_FILE = "comments.jsonl"
REASONS = {
    FILE: f"the new host has no place for it: in new/{DATA_FILE}",
    SECTION: "is at the end of its entry",
}


def where(comment: Comment, context: Context) -> str:
    """Where a comment that moves goes: `HOST`, `FILE` or `SECTION`.

    `HOST` is the new host's own place for comments. On a host without one, and for pingbacks, the decisions
    say whether it goes into a data file or into a closing section of the body.
    """
    rules = context.decisions.comments
    if comment.kind != "comment" and rules.pingbacks == FILE:
        return FILE
    if context.host.comments.taken:
        return HOST
    return rules.without_place


def section(comments: Sequence[Comment]) -> str:
    """The comments as nested HTML lists, answers within what they answer. Their bodies must be HTML."""
    if not comments:
        return ""
    keys = {comment.key for comment in comments}
    answers: dict[str, list[Comment]] = {}
    for comment in comments:
        answers.setdefault(comment.parent if comment.parent in keys else "", []).append(comment)
    made = ["\n<h2>Comments</h2>\n<ul>\n"]
    waiting: list[Comment | str] = ["</ul>\n", *reversed(answers.get("", []))]
    while waiting:
        part = waiting.pop()
        if isinstance(part, str):
            made.append(part)
            continue
        comment = part
        if comment.published:
            day = f", {comment.published.date().isoformat()}"
        else:
            day = ""
        if "<" in comment.body.text:
            words = comment.body.text
        else:
            words = f"<p>{comment.body.text}</p>"
        made.append(
            f"<li><p><b>{html.escape(comment.author_name or 'anonymous', quote=False)}</b>{day}</p>\n{words}\n"
        )
        theirs = answers.get(comment.key, [])
        made.append("<ul>\n" if theirs else "")
        waiting += ["</ul></li>\n" if theirs else "</li>\n", *reversed(theirs)]
    return "".join(made)


def line(comment: Comment, new: str) -> str:
    """A comment as one line of the data file: a JSON object (RFC 8259) and a line feed.

    `new` is the address of its entry on the new site. Members without a value are left out.
    """
    facts = {
        "entry": new,
        "id": comment.key,
        "in_reply_to": comment.parent,
        "kind": comment.kind,
        "state": comment.status,
        "author": comment.author_name,
        "email": comment.email,
        "address": comment.address,
        "published": iso(comment.published),
        "text": comment.body.text,
    }
    return json.dumps(
        {name: value for name, value in facts.items() if value}, ensure_ascii=False
    )
