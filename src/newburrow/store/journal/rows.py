"""The rows of the journal: where an entry goes, what became of an object, the answer to an old address."""

from __future__ import annotations

from enum import StrEnum

from msgspec import Struct

from newburrow.core import url

# the answer to an old address (RFC 9110 section 15)
UNCHANGED, REDIRECTED, GONE = (
    200,
    301,
    410,
)


WAS_GONE = "it was gone on the old site already"  # why an address is gone
PERMALINK = "permalink"  # why an old address is answered: an entry stood there
NOT_PUBLIC = "not public: only links lead there"  # why an answer is in no table for servers


class Fate(StrEnum):
    """What became of an object."""

    MOVED = "moved"
    MERGED = "merged"
    LEFT_OUT = "left-out"
    FAILED = "failed"


class LedgerRow(Struct, frozen=True, array_like=True):
    """One row of the ledger."""

    object: str  # the table of the record: `entry`, `term`, ...
    key: str
    kind: str
    fate: Fate
    reason: str = ""
    title: str = ""
    old: str = ""
    new: str = ""
    nth: int = 0  # 0 for the first object of this key, a later number for one read again


class Place(Struct, frozen=True, array_like=True):
    """Where an entry goes; `new` is empty for one that is left out."""

    seq: int  # its number in the content store
    key: str
    kind: str  # on the new host
    old: str
    others: str  # its other old addresses, one a line
    new: str
    new_key: str  # `new` as addresses are compared
    wished: str  # `new` before collisions were solved
    public: bool
    file: str = ""  # the path by which links name it, if links are paths of files
    feeds: str = ""  # addresses of feeds about it alone, one a line
    existing: bool = False  # whether the new host has it already, and it is not written again
    aside: bool = False  # left out only because something else was chosen


class ExistingItem(Struct, frozen=True):
    """Something that the new host has already."""

    title: str
    published: str  # RFC 3339, UTC; empty where it is not known
    address: str
    id: str = ""
    login: str = ""  # of an author
    email: str = ""  # of an author


_key = url.key.__wrapped__  # each address is seen once, so that a cache only costs


class OldAddress(Struct, frozen=True, array_like=True, gc=False):  # it holds no other objects
    """The answer to one old address."""

    old: str
    new: str
    status: int  # UNCHANGED, REDIRECTED or GONE
    why: str
    key: str  # the key of `old`
    new_key: str  # the key of `new`

    @classmethod
    def of(
        cls, old: str, new: str, status: int, why: str, key: str = "", new_key: str = ""
    ) -> OldAddress:
        """An answer with its keys, which are kept since each is asked for many times; those not given are made."""
        key = key or _key(old)
        if " " in old:  # as pages may write it
            old = url.as_iri(old)
        if not new_key and new:
            new_key = key if new == old else _key(new)
        return cls(old, new, status, why, key, new_key)

    @property
    def spelled(self) -> str:
        """The key of the old address with letters composed as it has them."""
        if self.old.isascii() and "%" not in self.old:
            return self.key
        return url.spelled_key(self.old)

    def at(self, old: str, key: str = "") -> OldAddress:
        """The same answer for another old address, with its key where that is known; what stays stays there."""
        key = key or _key(old)
        if self.status == UNCHANGED:
            return OldAddress(old, old, self.status, self.why, key, key)
        return OldAddress(old, self.new, self.status, self.why, key, self.new_key)
