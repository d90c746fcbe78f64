"""Comments: what readers answer."""

from __future__ import annotations

from datetime import datetime
from typing import ClassVar

from newburrow.model.record import Body, Record

COMMENT_KINDS = ("comment", "pingback", "trackback")
COMMENT_STATES = ("approved", "pending", "spam", "removed")


class Comment(Record, frozen=True, kw_only=True, omit_defaults=True):
    """A reader's answer to an entry or to another comment."""

    table: ClassVar[str] = "comment"

    entry: str = ""  # key of the entry
    parent: str = ""  # key of the comment that this one answers
    kind: str = "comment"  # one of COMMENT_KINDS
    author_name: str = ""
    email: str = ""
    address: str = ""
    published: datetime | None = None
    status: str = "approved"  # one of COMMENT_STATES
    body: Body = Body()
