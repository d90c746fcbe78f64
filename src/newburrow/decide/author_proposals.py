"""Authors that are one person under two names: found, and proposed to be one."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from msgspec import Struct

from newburrow.model import Author

_NEAR = 90  # of 100: names that differ by a slip of the pen


class AuthorProposal(Struct, frozen=True):
    """What is proposed for one author."""

    action: str = "keep"
    new_name: str = ""
    why: str = ""


def proposals(
    authors: Iterable[Author], entries: Mapping[str, int]
) -> dict[str, AuthorProposal]:
    """What is proposed for each author, by key; `entries` has how many each wrote.

    Those of one e-mail address, or of one name but for case, accents, order and signs, are assigned to the one who
    wrote most. Names that are only near are kept and named: two persons made one cannot be separated again.
    """
    # stable: the first read among equals
    ordered = sorted(authors, key=lambda author: -entries.get(author.key, 0))
    distinct: list[Author] = []
    found: dict[str, AuthorProposal] = {}
    for author in ordered:
        same = next(((other, why) for other in distinct if (why := _same(author, other))), None)
        if same:
            other, why = same
            found[author.key] = AuthorProposal(
                "assign", other.name, f"{why} as {other.name}, who wrote more"
            )
            continue
        near = next((other for other in distinct if _near(author, other)), None)
        if near:
            why = f"named nearly like {near.name}; if they are one person: assign"
        else:
            why = ""
        found[author.key] = AuthorProposal("keep", "", why)
        distinct.append(author)
    return found


def _same(author: Author, other: Author) -> str:
    if author.email and other.email:
        # Two addresses can belong to one person, but nothing shows it.
        if author.email.strip().casefold() == other.email.strip().casefold():
            return "the same e-mail address"
        return ""
    if author.login and other.login and author.login.casefold() != other.login.casefold():
        return ""  # likewise two logins
    if _words(author.name) and sorted(_words(author.name)) == sorted(_words(other.name)):
        return "the same name"
    return ""


def _near(author: Author, other: Author) -> bool:
    from rapidfuzz import fuzz  # heavy: most commands compare no names

    mine, theirs = _words(author.name), _words(other.name)
    if not mine or not theirs:
        return False
    if len(mine) == len(theirs) > 1 and mine[-1] == theirs[-1]:
        pairs = list(zip(mine, theirs, strict=True))
        # W. Hart, Wren Hart
        if all(a == b or (min(len(a), len(b)) == 1 and a[0] == b[0]) for a, b in pairs):
            return True
    return (
        min(len(author.name), len(other.name)) > 4
        and fuzz.ratio(" ".join(mine), " ".join(theirs)) >= _NEAR
    )


def _words(name: str) -> list[str]:
    from text_unidecode import unidecode  # heavy: imported where it is used

    plain = "".join(
        letter if letter.isalnum() else " " for letter in unidecode(name).casefold()
    )
    return plain.split()
