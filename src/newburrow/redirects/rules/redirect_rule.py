"""The rule of an address: its parts by what they look like, and how a new address is made of them."""

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
# Only what is the same encoded and decoded, so that every server sees the same. All else is an exception.
WORD = r"[A-Za-z0-9._~-]+"
_STEM = r"[A-Za-z0-9_~-]+"
_SEGMENT = re.compile(rf"(?P<year>{KINDS['year']})|(?P<number>\d+)|(?P<word>{WORD})")
# A date within one segment: year and month, or year, month and day.
_DATE = re.compile(rf"{KINDS['year']}-{KINDS['month']}(?:-{KINDS['day']})?")
_FILE = re.compile(rf"(?P<stem>{_STEM})(?P<extension>\.[a-z][a-z0-9]{{1,4}})")
MOST_PARTS, _MOST_CHOICES = 8, 3
_DATE_PARTS = ("month", "day")


class PathPart(Struct, frozen=True):
    """One segment of an old address, or a part of a date in one: of a kind, or a fixed word."""

    kind: str  # `year`, `month`, `day`, `number`, `name`, `path` (all of it), or empty for a fixed word
    word: str = ""  # of a fixed one
    mark: str = "/"  # what precedes it: a slash, or a hyphen within a date


class RedirectRule(Struct, frozen=True):
    """A rule: old addresses of these parts, and what the new one is made of."""

    parts: tuple[PathPart, ...]
    extension: str  # of the last part
    base: str  # scheme and host of the new address
    # pieces of its path: fixed text, or the number of a part, counted from 0
    new: tuple[str | int, ...]

    @property
    def anchored(self) -> bool:
        """Whether the rule has a fixed word, a part of a date or an extension, and so cannot match any page."""
        return bool(self.extension) or any(part.kind != "name" for part in self.parts)

    @property
    def keeps_path(self) -> bool:
        """Whether the new path is the old one, so that only the host changes."""
        return self.new_pattern().rstrip("/") == self.old_pattern().rstrip("/")

    def regex(self) -> str:
        """An expression for the whole path as addresses are compared; what is no file may end in a slash or not."""
        pieces = []
        for part in self.parts:
            inner = f"({_regex_of(part, self)})" if part.kind else re.escape(part.word)
            pieces.append(part.mark + inner)
        path = "".join(pieces)
        if self.extension:
            return f"^{path}{re.escape(self.extension)}$"
        return f"^{path}/?$"

    def groups(self) -> dict[int, int]:
        """The number of a part -> that of its group in the expression, counted from 1."""
        variable = [number for number, part in enumerate(self.parts) if part.kind]
        return {number: group for group, number in enumerate(variable, 1)}

    def target(self, group: str = "${}") -> str:
        """The new address with its groups as a server writes them."""
        groups = self.groups()
        return self.base + "".join(
            piece if isinstance(piece, str) else group.format(groups[piece])
            for piece in self.new
        )

    def asked(self) -> Callable[[str], str]:
        """A function from a path, as it is compared, to its new address; empty if the rule does not match it."""
        match, groups = re.compile(self.regex()).fullmatch, self.groups()
        pieces = [
            piece if isinstance(piece, str) else groups[piece]
            for piece in (self.base, *self.new)
        ]

        def answer(path: str) -> str:
            found = match(path)
            if found:
                return "".join(
                    [piece if isinstance(piece, str) else found[piece] for piece in pieces]
                )
            return ""

        return answer

    def old_pattern(self) -> str:
        """The pattern of the old addresses, for a person."""
        pieces = []
        for part in self.parts:
            shown = f"{{{part.kind}}}" if part.kind else part.word
            pieces.append(part.mark + shown)
        return "".join(pieces) + (self.extension or "/")

    def new_pattern(self) -> str:
        """The pattern of the new addresses, for a person."""
        return "".join(
            part if isinstance(part, str) else f"{{{self.parts[part].kind}}}"
            for part in self.new
        )


def _regex_of(part: PathPart, rule: RedirectRule) -> str:
    last = part is rule.parts[-1]
    if part.kind == "path":
        return _PATH
    return KINDS.get(part.kind) or (_STEM if last and rule.extension else WORD)


def whole(base: str) -> RedirectRule:
    """The rule for a site of which only the host changes."""
    return RedirectRule((PathPart("path"),), "", base, ("/", 0))


class Segment(Struct, frozen=True):
    """A segment of a path, or a part of a date in one."""

    word: str
    look: str  # `year`, `number` or `word`
    mark: str = "/"  # what precedes it


def split(path: str) -> tuple[list[Segment], str] | None:
    """The segments of a path, a date with hyphens in its parts, and the extension.

    None for a path that no rule can be about.
    """
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
    found: list[Segment] = []
    for word in words:
        parts = _DATE.fullmatch(word)
        for number, part in enumerate(word.split("-") if parts else [word]):
            looked = _SEGMENT.fullmatch(part)
            if looked is None:
                return None
            found.append(Segment(part, looked.lastgroup or "", "-" if number else "/"))
    return found, file["extension"] if file else ""


def candidate_rules(path: str, new: str, frequent: Mapping[str, int]) -> Iterator[RedirectRule]:
    """The rules that would turn a path into this new address.

    Words that are `frequent` are tried both as fixed words and as names. Dates, numbers and names become
    parameters of the rule; the new address is made of them and fixed text.
    """
    seen, parts = split(path), url.split(new)
    if seen is None or parts is None or parts.query or parts.fragment:
        return
    words, extension = seen
    kinds = _kinds(words)
    base = f"{parts.scheme}://{parts.netloc}"
    known = [
        n for n, segment in enumerate(words) if kinds[n] == "name" and segment.word in frequent
    ]
    open_ones = sorted(known, key=lambda n: -frequent[words[n].word])[:_MOST_CHOICES]
    for fixed in product((True, False), repeat=len(open_ones)):
        stay = {n for n, piece in zip(open_ones, fixed, strict=True) if piece}
        made = tuple(
            PathPart("", segment.word) if n in stay else PathPart(kinds[n], mark=segment.mark)
            for n, segment in enumerate(words)
        )
        pieces = _pieces(parts.path, [segment.word for segment in words], made)
        yield RedirectRule(made, extension, base, pieces)


def _kinds(words: list[Segment]) -> list[str]:
    """What the segments are: after a year come month and day, where they can be."""
    kinds: list[str] = []
    waiting: list[str] = []
    for segment in words:
        kind = segment.look
        if kind == "word":
            kind = "name"
        if kind == "year":
            waiting = list(_DATE_PARTS)
        elif kind == "number" and waiting and re.fullmatch(KINDS[waiting[0]], segment.word):
            kind = waiting.pop(0)
        else:
            waiting = []
        kinds.append(kind)
    return kinds


def _pieces(path: str, words: list[str], parts: tuple[PathPart, ...]) -> tuple[str | int, ...]:
    """A new path as fixed text and parts of the old one; those that come later are looked at first."""
    pieces: list[str | int] = []
    last = -1
    for token in _tokens(path):
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


def _tokens(path: str) -> Iterator[str]:
    """The words of a new path and what is between them; a date with hyphens in its parts."""
    for token in re.findall(rf"{WORD}|[^A-Za-z0-9._~-]+", path):
        if _DATE.fullmatch(token):
            yield from re.split("(-)", token)
        else:
            yield token
