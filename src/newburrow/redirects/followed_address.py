"""An old address of which a running server was asked, and what came of it."""

from __future__ import annotations

from msgspec import Struct

from newburrow.store.journal.rows import REDIRECTED

RIGHT = "right"
NOT_UP = "page-not-up"  # the redirect is right, but the new site does not answer yet
# What a followed address comes to; all but the first two are wrong.
OUTCOMES = {
    RIGHT: "answered as the map says, and the right page is there",
    NOT_UP: "redirected correctly, to a new site that does not answer yet",
    "wrong-target": "sent to another address",
    "wrong-status": "answered with another status",
    "loop": "sent in a circle",
    "more-steps": "sent on a second time",
    "wrong-page": "sent to a page that is missing or another one",
    "no-answer": "not answered",
}


class Sites(Struct, frozen=True):
    """Where the two sites answer, while their names may still lead elsewhere: base addresses, without a path."""

    old: str
    # empty: the host in its addresses; if that is the old site's name, where that answers
    new: str = ""
    status: int = REDIRECTED  # that a redirect has to have
    checks_certificates: bool = True


class FollowedAddress(Struct, frozen=True):
    """What a server answered for one spelling of an old address."""

    old: str  # as it stands in the table
    asked: str  # path and query as they were sent
    wanted: str  # status and new address
    found: str  # in words
    outcome: str  # one of OUTCOMES

    @property
    def is_wrong(self) -> bool:
        """Whether the answer of the server, or the page that it leads to, is not the one of the map."""
        return self.outcome not in (RIGHT, NOT_UP)
