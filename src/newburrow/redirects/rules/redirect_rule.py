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
# A number at the start or the end of a name, or behind letters alone.
_NUMBER_FIRST = re.compile(
    r"(?P<number>\d+)(?P<mark>[-_.])(?P<name>[A-Za-z_~][A-Za-z0-9._~-]*)"
)
_NUMBER_LAST = re.compile(r"(?P<name>[A-Za-z0-9._~-]*[A-Za-z~])(?P<mark>[-_.])(?P<number>\d+)")
_LETTERS_FIRST = re.compile(r"(?P<name>[A-Za-z]+)(?P<number>\d+)")
_PIECE = r"[A-Za-z0-9.~-]+"  # of a name that is cut at its underscores
_MOST_PIECES = 6
_QUERY = re.compile(
    r"(?P<path>/[A-Za-z0-9._~/-]*)\?(?P<name>[a-z0-9_]+)=(?P<value>[A-Za-z0-9._~-]+)"
)
MOST_PARTS, _MOST_CHOICES = 8, 3
_DATE_PARTS = ("month", "day")


class PathPart(Struct, frozen=True):
    """One segment of an old address, or a part of a date in one: of a kind, or a fixed word."""

    # `year`, `month`, `day`, `number`, `name`, `piece` (of a name cut at its underscores), `path` (all of it), or empty
    # for a fixed word
    kind: str
    word: str = ""  # of a fixed one
    # what precedes it: a slash; within a segment a hyphen or the like, or nothing; `?name=` for a value
    mark: str = "/"


class RedirectRule(Struct, frozen=True):
    """A rule: old addresses of these parts, and what the new one is made of."""

    parts: tuple[PathPart, ...]
    extension: str  # of the last part
    base: str  # scheme and host of the new address
    # pieces of its path: fixed text, or the number of a part, counted from 0
    new: tuple[str | int, ...]
    lowers: bool = False  # whether capitals in what is kept of the old address become lowercase

    @property
    def anchored(self) -> bool:
        """Whether the rule has more than names: a fixed word, a number, an extension; else it would match any page."""
        return bool(self.extension) or any(part.kind != "name" for part in self.parts)

    @property
    def is_cut(self) -> bool:
        """Whether a name is cut at a number or at underscores; a rule with whole names says the same more simply."""
        return any(
            part.mark != "/" and part.kind not in ("month", "day") and "?" not in part.mark
            for part in self.parts
        )

    @property
    def parameter(self) -> str:
        """The name of the parameter that the rule is about; empty for one about the path alone."""
        if "?" in self.parts[-1].mark:
            return self.parts[-1].mark.strip("/?=")
        return ""

    @property
    def has_own_number(self) -> bool:
        """Whether the new address has a number that is in no old one: that fits what is known by chance only."""
        text = "/".join(piece for piece in self.new if isinstance(piece, str))
        fixed = {part.word for part in self.parts}
        return any(
            word.isdigit() and word not in fixed for word in re.split(r"[^A-Za-z0-9]+", text)
        )

    @property
    def keeps_path(self) -> bool:
        """Whether the new path is the old one, so that only the host changes."""
        return not self.lowers and self.new_pattern().rstrip("/") == self.old_pattern().rstrip(
            "/"
        )

    def regex(self) -> str:
        """An expression for the whole path as addresses are compared; what is no file may end in a slash or not."""
        return f"^{self._expression(self.parts)}{self._end()}$"

    def regex_among_others(self) -> str:
        """The same without groups and anchors, to be one of several in an expression."""
        return self._expression(self.parts, has_groups=False) + self._end()

    def _end(self) -> str:
        if self.extension or self.parameter:
            return re.escape(self.extension)
        return "/?"

    def path_regex(self) -> str:
        """The expression for the path of a rule about a parameter, whose value is not in it."""
        before = self.parts[-1].mark.partition("?")[0]
        return f"^{self._expression(self.parts[:-1])}{before}$"

    def value_regex(self) -> str:
        """The expression, without a group, for the value of the parameter that the rule is about."""
        return _regex_of(self.parts[-1], self)

    def _expression(self, parts: tuple[PathPart, ...], has_groups: bool = True) -> str:
        pieces = []
        for part in parts:
            if not part.kind:
                inner = _literally(part.word)
            elif has_groups:
                inner = f"({_regex_of(part, self)})"
            else:
                inner = _regex_of(part, self)
            pieces.append(_literally(part.mark) + inner)
        return "".join(pieces)

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
        lowers = self.lowers
        pieces = [
            piece if isinstance(piece, str) else groups[piece]
            for piece in (self.base, *self.new)
        ]

        def answer(path: str) -> str:
            found = match(path)
            if found and lowers:
                kept = [
                    piece if isinstance(piece, str) else found[piece].lower()
                    for piece in pieces
                ]
                return "".join(kept)
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
        return "".join(pieces) + (self.extension or ("" if self.parameter else "/"))

    def new_pattern(self) -> str:
        """The pattern of the new addresses, for a person."""
        return "".join(
            part if isinstance(part, str) else f"{{{self.parts[part].kind}}}"
            for part in self.new
        )


_INNER = {"path": _PATH, "piece": _PIECE}


def _literally(text: str) -> str:
    return re.escape(text).replace(r"\-", "-")


def _regex_of(part: PathPart, rule: RedirectRule) -> str:
    last = part is rule.parts[-1]
    if part.kind in _INNER:
        return _INNER[part.kind]
    return KINDS.get(part.kind) or (_STEM if last and rule.extension else WORD)


def whole(base: str) -> RedirectRule:
    """The rule for a site of which only the host changes."""
    return RedirectRule((PathPart("path"),), "", base, ("/", 0))


class Segment(Struct, frozen=True):
    """A segment of a path, or a part of a date in one."""

    word: str
    # `year`, `number`, `word`; of a segment that is cut also `prefix` (the same in all) or `piece` (of underscores)
    look: str
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
    """The rules that would turn a path, or one with a parameter, into this new address.

    Words that are `frequent` are tried both as fixed words and as names. Dates, numbers and names become
    parameters of the rule; the new address is made of them and fixed text.
    """
    parts = url.split(new)
    if parts is None or parts.query or parts.fragment:
        return
    base = f"{parts.scheme}://{parts.netloc}"
    if "?" in path:
        yield from _by_parameter(path, parts.path, base)
        return
    seen = split(path)
    if seen is None:
        return
    words, extension = seen
    for cut in _cuts(words):
        kinds = _kinds(cut)
        known = [
            n
            for n, segment in enumerate(cut)
            if kinds[n] == "name" and segment.look != "prefix" and segment.word in frequent
        ]
        open_ones = sorted(known, key=lambda n: -frequent[cut[n].word])[:_MOST_CHOICES]
        for fixed in product((True, False), repeat=len(open_ones)):
            stay = {n for n, piece in zip(open_ones, fixed, strict=True) if piece}
            stay |= {n for n, segment in enumerate(cut) if segment.look == "prefix"}
            made = tuple(
                PathPart("", segment.word, segment.mark)
                if n in stay
                else PathPart(kinds[n], mark=segment.mark)
                for n, segment in enumerate(cut)
            )
            kept = [segment.word for segment in cut]
            pieces = _pieces(parts.path, kept, made)
            yield RedirectRule(made, extension, base, pieces)
            lowered = _pieces(parts.path, [word.lower() for word in kept], made)
            if lowered != pieces:
                yield RedirectRule(made, extension, base, lowered, lowers=True)


def _by_parameter(path: str, new: str, base: str) -> Iterator[RedirectRule]:
    """The rule for the value of a parameter; the path before it is fixed."""
    found = _QUERY.fullmatch(path)
    if found is None or "//" in found["path"]:
        return
    *above, last = found["path"].removeprefix("/").split("/")
    fixed = [PathPart("", word) for word in (*above, *filter(None, [last]))]
    mark = ("" if last else "/") + f"?{found['name']}="
    value = PathPart("number" if found["value"].isdigit() else "name", mark=mark)
    made = (*fixed, value)
    words = [*(part.word for part in fixed), found["value"]]
    yield RedirectRule(made, "", base, _pieces(new, words, made))


def _cuts(words: list[Segment]) -> Iterator[list[Segment]]:
    """The segments, and again with the last one cut: at a number in it, or at its underscores."""
    yield words
    *before, last = words
    if last.look != "word":
        return
    for expression in (_NUMBER_FIRST, _NUMBER_LAST):
        if found := expression.fullmatch(last.word):
            first, second = sorted(("number", "name"), key=found.start)
            looks = {"number": "number", "name": "word"}
            yield [
                *before,
                Segment(found[first], looks[first], last.mark),
                Segment(found[second], looks[second], found["mark"]),
            ]
            if second == "number":  # the letters may be the same in all
                yield [
                    *before,
                    Segment(found["name"], "prefix", last.mark),
                    Segment(found["number"], "number", found["mark"]),
                ]
    if found := _LETTERS_FIRST.fullmatch(last.word):
        yield [
            *before,
            Segment(found["name"], "prefix", last.mark),
            Segment(found["number"], "number", ""),
        ]
    pieces = last.word.split("_")
    if 1 < len(pieces) <= _MOST_PIECES and all(pieces):
        yield [
            *before,
            *(
                Segment(piece, "piece", "_" if n else last.mark)
                for n, piece in enumerate(pieces)
            ),
        ]


def _kinds(words: list[Segment]) -> list[str]:
    """What the segments are: after a year come month and day, where they can be."""
    kinds: list[str] = []
    waiting: list[str] = []
    for segment in words:
        kind = segment.look
        if kind in ("word", "prefix"):
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
    open_parts = [n for n, part in enumerate(parts) if part.kind]

    def part_of(word: str) -> int | None:
        order = [n for n in open_parts if n > last] + [n for n in open_parts if n <= last]
        return next((n for n in order if words[n] == word), None)

    for token in _tokens(path):
        for text in _cut_token(token, part_of):
            number = part_of(text) if text else None
            if number is None:
                pieces.append(text)
            else:
                pieces.append(last := number)
    return _joined(pieces)


def _cut_token(token: str, part_of: Callable[[str], int | None]) -> list[str]:
    """A word of a new path as it is, or cut where a piece of it is a part of the old one."""
    if part_of(token) is not None:
        return [token]
    if file := _FILE.fullmatch(token):
        inner = _cut_token(file["stem"], part_of)
        if any(part_of(text) is not None for text in inner):
            return [*inner, file["extension"]]
    for expression in (_NUMBER_FIRST, _NUMBER_LAST):
        if found := expression.fullmatch(token):
            first, second = sorted(("number", "name"), key=found.start)
            if part_of(found["number"]) is not None:
                return [found[first], found["mark"], found[second]]
    if (found := _LETTERS_FIRST.fullmatch(token)) and part_of(found["number"]) is not None:
        return [found["name"], found["number"]]
    cut = re.split("(-)", token)
    if len(cut) > 1 and all(part_of(text) is not None for text in cut[::2]):
        return cut
    return [token]


def _joined(pieces: list[str | int]) -> tuple[str | int, ...]:
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


def subject_on(site: str, key: str) -> str:
    """What rules ask of an address (by its key): its path, with the parameter if it has one; else empty."""
    if key.startswith(f"{site}/") and key.count("=") <= 1 and "&" not in key:
        return key[len(site) :]
    return ""
