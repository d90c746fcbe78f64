"""What was seen of an unknown export while a dialect is drafted, and lines of TOML that tell of it."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator

from newburrow.core.dates import parse_date
from newburrow.dialects.selector import local_name

VALUES = 2000  # different values kept of one element
_DIFFERENT = 0.95  # share of values that differ where each record has its own
_LONG = 2000  # characters kept of a value
ENUMERATION = 12  # the most values that are still listed as words
# What is written before a field that was not used and may be a state.
MAYBE_STATE = "# WARNING: the next field may decide what is public, and it is not used. Check whether it does."
OUR_VALUES = {
    "comment_kind": {
        "comment": ("comment", "reply"),
        "pingback": ("pingback", "mention"),
        "trackback": ("trackback",),
    },
    "comment_status": {
        "approved": ("approved", "shown", "live", "published"),
        "pending": ("pending", "waiting", "held"),
        "spam": ("spam", "junk"),
        "removed": ("removed", "binned", "deleted"),
    },
    "kind": {
        "post": ("post", "article", "entry"),
        "page": ("page", "sheet"),
        "media": ("media", "file", "attachment"),
    },
    "status": {
        "published": ("published", "live", "public"),
        "draft": ("draft", "sketch"),
        "scheduled": ("scheduled", "timed"),
        "private": ("private", "members", "hidden"),
        "removed": ("removed", "binned", "deleted"),
    },
}


class Observed:
    """What was seen of one element, attribute, member or column."""

    def __init__(self) -> None:
        self.count = 0
        self.values: Counter[str] = Counter()
        self.children: dict[str, Observed] = {}
        self.attributes: dict[str, Observed] = {}
        self.many = False  # whether several are in one thing around them

    def note(self, value: str) -> None:
        """Count it, and keep its value while there are not too many."""
        self.count += 1
        value = value[:_LONG]
        if len(self.values) < VALUES or value in self.values:
            self.values[value] += 1

    @property
    def example(self) -> str:
        """A value, shortened."""
        shown = next((value for value in self.values if value.strip()), "")
        return " ".join(shown.split())[:50]

    @property
    def mostly_different(self) -> bool:
        """Whether hardly a value is there twice: a row can be in an export twice by mistake."""
        return len(self.values) >= _DIFFERENT * min(self.count, VALUES)

    def all(self, shape: str) -> bool:
        """Whether all values that are not blank fully match an expression; there must be one."""
        found = [value.strip() for value in self.values if value.strip()]
        return bool(found) and all(re.fullmatch(shape, value) for value in found)

    def dates(self) -> bool:
        """Whether all values are dates."""
        found = [value for value in self.values if value.strip()]
        return bool(found) and all(parse_date(value) for value in found[:20])


def all_known(seen: Observed, ours: str) -> bool:
    """Whether a field has two words or more, and each is known as a kind or state: a look-alike is not enough."""
    known = {word for words in OUR_VALUES[ours].values() for word in words}
    values = {value.lower() for value in seen.values if value.strip()}
    return len(values) > 1 and values <= known


def could_be_state(seen: Observed) -> bool:
    """Whether some of a field's few values are words for states."""
    known = {word for words in OUR_VALUES["status"].values() for word in words}
    few = 1 < len(seen.values) <= ENUMERATION
    return few and any(value.lower() in known for value in seen.values)


def prefixes(spaces: list[str]) -> dict[str, str]:
    """A short prefix for each namespace URI, made of the letters of its host."""
    found: dict[str, str] = {}
    for space in spaces:
        host = re.sub(r"^\w+:(?://)?(?:www\.)?", "", space)
        base = re.sub(r"[^a-z]", "", host.lower())[:3] or "n"
        prefix, number = base, 1
        while prefix in found.values():
            number += 1
            prefix = f"{base}{number}"
        found[space] = prefix
    return found


def words_in(tag: str) -> list[str]:
    """The words that a name is made of, in lower case."""
    local = local_name(tag)
    return [word.lower() for word in re.findall(r"[A-Z]?[a-z]+|[A-Z]+|\d+", local)]


def by_name(tag: str, table: dict[str, tuple[str, ...]]) -> str:
    """The setting that a name may mean, by a table of names; empty if none."""
    words = words_in(tag)
    return next(
        (ours for ours, names in table.items() if any(name in words for name in names)), ""
    )


def comment_on(seen: Observed) -> str:
    """How often it occurs, with its values if they are a list of words, else with an example."""
    words = (
        1 < len(seen.values) <= ENUMERATION
        and seen.count > len(seen.values)
        and seen.all(r"[\w-]{1,20}")
    )
    if words:
        values = (
            f"{value} ({number})" for value, number in seen.values.most_common(ENUMERATION)
        )
        return f"{seen.count} times: {', '.join(values)}"
    return f"{seen.count} times" + (f", for example: {seen.example}" if seen.example else "")


def value_map(ours: str, seen: Observed) -> Iterator[str]:
    """The lines of a value map: each word seen for a kind or state, with what it may mean."""
    table = OUR_VALUES[ours]
    yield f"\n[values.{ours}]"
    for value, number in seen.values.most_common(ENUMERATION):
        guess = next((name for name, words in table.items() if value.lower() in words), "")
        if guess:
            setting = f'"{quoted(value)}" = "{guess}"'
        else:
            setting = f'# "{quoted(value)}" = ""'
        yield line(setting, f"{number} times")


def line(setting: str, comment: str) -> str:
    """A line of TOML with a comment, in which nothing of an export can end the comment."""
    return f"{setting:<34} # {''.join(c if c.isprintable() else ' ' for c in comment)}"


def quoted(text: str) -> str:
    """A text as a basic string of TOML has it."""
    return "".join(
        c if c.isprintable() and c not in '"\\' else f"\\u{ord(c):04X}" for c in text
    )
