"""The shape of an address: its parts by what they look like, and how a new address is made of them."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Mapping
from itertools import product

from msgspec import Struct

from newburrow.core import url

KINDS = {
    "year": r"(?:19|20)\d\d",
    "month": r"(?:0[1-9]|1[0-2])",
    "day": r"(?:0[1-9]|[12]\d|3[01])",
    "number": r"\d+",
}
_PATH = r"[A-Za-z0-9._~/-]*"  # of a whole path that is kept
# Only what is written the same encoded and decoded, so that every server sees the same; all else is an exception.
WORD = r"[A-Za-z0-9._~-]+"
_STEM = r"[A-Za-z0-9_~-]+"
_SEGMENT = re.compile(rf"(?P<year>{KINDS['year']})|(?P<number>\d+)|(?P<word>{WORD})")
_FILE = re.compile(rf"(?P<stem>{_STEM})(?P<extension>\.[a-z][a-z0-9]{{1,4}})")
MOST_PARTS, _MOST_CHOICES = 8, 3
_DATE_PARTS = ("month", "day")


class Part(Struct, frozen=True):
    """One segment of an old address: of a kind, or a fixed word."""

    kind: str  # `year`, `month`, `day`, `number`, `name`, `path` (all of it), or empty for a fixed word
    word: str = ""  # of a fixed one


class Shape(Struct, frozen=True):
    """A rule: old addresses of these parts, and what the new one is made of."""

    parts: tuple[Part, ...]
    extension: str  # of the last part
    base: str  # scheme and host of the new address
    # pieces of its path: fixed text, or the number of a part, counted from 0
    new: tuple[str | int, ...]

    @property
    def anchored(self) -> bool:
        """Whether more than names tells that an address is an old one: a fixed word, a part of a date, an extension."""
        return bool(self.extension) or any(one.kind != "name" for one in self.parts)

    @property
    def keeps_path(self) -> bool:
        """Whether the new path is the old one, so that only the host changes."""
        return self.new_pattern().rstrip("/") == self.old_pattern().rstrip("/")

    def regex(self) -> str:
        """An expression for the whole path as addresses are compared; what is no file may end in a slash or not."""
        inner = "/".join(
            re.escape(one.word) if not one.kind else f"({_regex_of(one, self)})"
            for one in self.parts
        )
        if self.extension:
            return f"^/{inner}{re.escape(self.extension)}$"
        return f"^/{inner}/?$"

    def groups(self) -> dict[int, int]:
        """The number of a part -> that of its group in the expression, counted from 1."""
        variable = [number for number, one in enumerate(self.parts) if one.kind]
        return {number: group for group, number in enumerate(variable, 1)}

    def target(self, group: str = "${}") -> str:
        """The new address with its groups as a server writes them."""
        groups = self.groups()
        return self.base + "".join(
            one if isinstance(one, str) else group.format(groups[one]) for one in self.new
        )

    def asked(self) -> Callable[[str], str]:
        """What gives the new address of a path as it is compared; empty for one that the rule is not about."""
        match, groups = re.compile(self.regex()).fullmatch, self.groups()
        pieces = [
            one if isinstance(one, str) else groups[one] for one in (self.base, *self.new)
        ]

        def answer(path: str) -> str:
            found = match(path)
            if found:
                return "".join([one if isinstance(one, str) else found[one] for one in pieces])
            return ""

        return answer

    def old_pattern(self) -> str:
        """What old addresses look like, for a person."""
        inner = "/".join(f"{{{one.kind}}}" if one.kind else one.word for one in self.parts)
        return f"/{inner}{self.extension or '/'}"

    def new_pattern(self) -> str:
        """What the new ones look like."""
        return "".join(
            one if isinstance(one, str) else f"{{{self.parts[one].kind}}}" for one in self.new
        )


def _regex_of(part: Part, shape: Shape) -> str:
    last = part is shape.parts[-1]
    if part.kind == "path":
        return _PATH
    return KINDS.get(part.kind) or (_STEM if last and shape.extension else WORD)


def whole(base: str) -> Shape:
    """The rule for a site of which only the host changes."""
    return Shape((Part("path"),), "", base, ("/", 0))


def split(path: str) -> tuple[list[tuple[str, str]], str] | None:
    """The segments of a path, each with what it looks like, and the extension; None for one that no rule is about."""
    inner = path.strip("/")
    if inner:
        words = inner.split("/")
    else:
        words = []
    if not words or len(words) > MOST_PARTS or "" in words:
        return None
    if not path.endswith("/"):
        file = _FILE.fullmatch(words[-1])
    else:
        file = None
    if file:
        words[-1] = file["stem"]
    found = []
    for word in words:
        looked = _SEGMENT.fullmatch(word)
        if looked is None:
            return None
        found.append((word, looked.lastgroup or ""))
    return found, file["extension"] if file else ""


def shapes(path: str, new: str, frequent: Mapping[str, int]) -> Iterator[Shape]:
    """The rules that would turn a path into this new address, with its most frequent words fixed or not."""
    seen, parts = split(path), url.split(new)
    if seen is None or parts is None or parts.query or parts.fragment:
        return
    words, extension = seen
    kinds = _kinds(words)
    base = f"{parts.scheme}://{parts.netloc}"
    known = [
        n for n, (word, _look) in enumerate(words) if kinds[n] == "name" and word in frequent
    ]
    open_ones = sorted(known, key=lambda n: -frequent[words[n][0]])[:_MOST_CHOICES]
    for fixed in product((True, False), repeat=len(open_ones)):
        stay = {n for n, one in zip(open_ones, fixed, strict=True) if one}
        made = tuple(
            Part("", word) if n in stay else Part(kinds[n])
            for n, (word, _look) in enumerate(words)
        )
        yield Shape(
            made, extension, base, _pieces(parts.path, [word for word, _look in words], made)
        )


def _kinds(words: list[tuple[str, str]]) -> list[str]:
    """What the segments are: after a year come month and day, where they can be."""
    kinds: list[str] = []
    waiting: list[str] = []
    for word, look in words:
        if look != "word":
            kind = look
        else:
            kind = "name"
        if look == "year":
            waiting = list(_DATE_PARTS)
        elif look == "number" and waiting and re.fullmatch(KINDS[waiting[0]], word):
            kind = waiting.pop(0)
        else:
            waiting = []
        kinds.append(kind)
    return kinds


def _pieces(path: str, words: list[str], parts: tuple[Part, ...]) -> tuple[str | int, ...]:
    """A new path as fixed text and parts of the old one; those that come later are looked at first."""
    pieces: list[str | int] = []
    last = -1
    for token in re.findall(rf"{WORD}|[^A-Za-z0-9._~-]+", path):
        order = [*range(last + 1, len(words)), *range(last + 1)]
        file = _FILE.fullmatch(token)
        whole = next((n for n in order if parts[n].kind and words[n] == token), None)
        stem = next(
            (n for n in order if file and parts[n].kind and words[n] == file["stem"]), None
        )
        if whole is not None:
            pieces.append(last := whole)
        elif stem is not None and file:
            last = stem
            pieces += [stem, file["extension"]]
        else:
            pieces.append(token)
    joined: list[str | int] = []
    for piece in pieces:
        if joined and isinstance(piece, str) and isinstance(joined[-1], str):
            joined[-1] += piece
        else:
            joined.append(piece)
    return tuple(joined)
