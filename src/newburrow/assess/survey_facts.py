"""What a survey tells: the facts of an export, and its findings with what is proposed for each."""

from __future__ import annotations

from collections import Counter
from datetime import datetime

from msgspec import Struct

from newburrow.model import Site

EXAMPLES = 5  # shown of each finding

ADVICE = {
    "preset-content": "`draft` proposes to leave it out.",
    "no-slug": "`draft` proposes to make the slug from the title.",
    "same-title": "If their addresses meet on the new host, the later one gets a number.",
    "missing-file": "It cannot be moved; fetch it from the old site while that is up.",
    "missing-picture": "It cannot be moved; fetch it from the old site while that is up.",
    "file-twice": "It is moved once.",
    "form": "Create the form again on the new host.",
    "embed": "Becomes a link where the new host accepts no embeds.",
    "script": "Is removed: no script leaves, on any host.",
    "macro": "The dialect says what it becomes; else the new host shows it as text, which is a follow-up.",
    "macro-like": "Looks like a placeholder that the dialect does not name: add it to its [[macros]].",
    "dead-link": "The export has nothing there; each is a follow-up.",
    "no-date": "Set the date by hand, or correct it in the export.",
    "undated": "Its new address is built without a date.",
    "unread-element": "Its values are kept in content.sqlite; name it in the dialect if it matters.",
    "twice": "The first is kept.",
    "site-address-unknown": "It stands in for the address, which the export does not state: give that with --site.",
    "site-address-by-links": "Inferred from links among the pages. If it is wrong, give the right one with --site.",
    "united": "They become one; what one lacked is filled in from the other.",
    "lacked": "It is filled in from the other.",
    "like-terms": "They look like the same term. If they are, give both the same name in terms.csv.",
    "file-unused": "No entry shows it; it is moved anyway.",
    "file-left-out": "It is not read; the ledger says why.",
    "file-not-content": "It belongs to software or is an archive, and no entry shows it: it is left out.",
    "host-limit": "Choose fewer entries in move.toml, or another host.",
    "odd-permalink": "Its address matches no pattern; it gets a redirect of its own.",
    "remote-file": "They stay on the other site, and are gone when that is: fetch them while they are there.",
    "gap": "If the site was active then, a part of the export is missing.",
    "layout-in-texts": "If it is layout, leave it out by a dialect: `newburrow dialects --draft-from` proposes one.",
    "markup-like": 'If it is, set this in the dialect: [entry] markup = "...".',
    "too-deep": "Its innermost elements are taken out; their words stay.",
    "markup-unread": "Its body stays as plain text. Write it again on the new host.",
}


class Finding(Struct, frozen=True):
    """One kind of thing that will give trouble, or that is good to know."""

    code: str
    count: int
    examples: list[str]
    advice: str = ""  # what happens to it, or what to do


class SourceFacts(Struct, frozen=True):
    """What one of the paths handed in turned out to be."""

    path: str
    format: str
    dialect: str
    parts: int = 1  # files in this format and dialect
    encoding: str = "utf-8"  # of these files, by the Encoding Standard
    generator: str = ""  # what wrote it
    written: datetime | None = None  # when it was written, where it says so
    newest: bool = False  # whether it has the newest entry of several exports of one site


class PermalinkFacts(Struct, frozen=True):
    """One permalink pattern with the entries that it covers."""

    pattern: str  # RFC 6570, relative to the site
    entries: int
    example: str


class AuthorFacts(Struct, frozen=True):
    """One author with the number of entries."""

    name: str
    entries: int


class EntrySize(Struct, frozen=True):
    """How large an entry is."""

    bytes: int  # of the body
    title: str


class MediaFacts(Struct, frozen=True):
    """The files that the export names or has."""

    bytes: int = 0  # of those in the export
    in_export: int = 0
    missing: int = 0
    elsewhere: int = 0  # on other sites
    same_bytes: int = 0  # as another one
    never_shown: int = 0


class TermFacts(Struct, frozen=True):
    """One term with the number of entries it is on."""

    vocabulary: str
    name: str
    parent: str  # key
    key: str
    entries: int


class Survey(Struct, frozen=True):
    """All that a survey tells."""

    sources: list[SourceFacts]
    site: Site
    counts: dict[str, int]  # kind of object -> number
    states: dict[str, dict[str, int]]  # kind of entry or comment -> state -> number
    authors: list[AuthorFacts]  # the most entries first
    terms: list[TermFacts]
    first: datetime | None
    last: datetime | None
    offsets: dict[str, int]  # offset from UTC as written -> entries
    media: MediaFacts
    markups: dict[str, int]  # markup of a body -> entries
    permalinks: list[PermalinkFacts]  # the most common first; at most MOST_PATTERNS
    largest: list[EntrySize]  # the largest first
    findings: list[Finding]


class FindingNotes:
    """Findings being gathered: counted without end, with a few examples each."""

    def __init__(self) -> None:
        self.counts: Counter[str] = Counter()
        self.examples: dict[str, list[str]] = {}

    def note(self, code: str, example: str, number: int = 1) -> None:
        """One more of a kind, or several with one example."""
        self.counts[code] += number
        shown = self.examples.setdefault(code, [])
        if len(shown) < EXAMPLES and example not in shown:
            shown.append(example)

    def join(self, later: FindingNotes) -> None:
        """Add those of a later look."""
        self.counts += later.counts
        for code, examples in later.examples.items():
            shown = self.examples.setdefault(code, [])
            shown += [example for example in examples if example not in shown][
                : EXAMPLES - len(shown)
            ]

    def findings(self) -> list[Finding]:
        """All of them, the most frequent first."""
        return [
            Finding(code, count, self.examples[code], ADVICE.get(code, ""))
            for code, count in sorted(self.counts.items(), key=lambda item: (-item[1], item[0]))
        ]
