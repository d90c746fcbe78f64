"""The open questions of a move, one after another: what no proposal can know."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any

from msgspec import Struct

from newburrow.core import url
from newburrow.core.problem import refusal
from newburrow.core.suggestions import suggest
from newburrow.decide.author_proposals import AuthorProposal
from newburrow.hosts.profile import Profile
from newburrow.model import Author


class OpenQuestion(Struct, frozen=True):
    """One question about one decision."""

    key: tuple[str, str]  # table and key in move.toml
    text: str
    proposed: str
    choices: tuple[str, ...] = ()  # empty: free words
    several: bool = False  # whether the answer is a list, parted by commas

    def value(self, answer: str) -> str | list[str]:
        """The value that an answer stands for; an empty one means the proposal.

        Raises BurrowError if it is not allowed.
        """
        answer = answer.strip() or self.proposed
        if self.several:
            words = [word.strip() for word in answer.split(",")]
        else:
            words = [answer]
        for word in words:
            if self.choices and word not in self.choices:
                raise refusal(
                    "wrong-value",
                    f"{word!r} is not an answer.",
                    suggest(word, self.choices, "The answers are"),
                )
            if self.key == ("new", "address") and not url.key(word):
                advice = "Write it with scheme and host, like https://orchard.example/."
                raise refusal("wrong-value", f"{word!r} is not a web address.", advice)
        if self.several:
            return words
        return answer


Ask = Callable[[OpenQuestion], str]


def questions(facts: dict[str, Any]) -> Iterator[OpenQuestion]:
    """The questions that an export leaves open, for `newburrow draft --ask`.

    `facts` are those that `move.toml` is filled with (`proposals.facts`). Each question names its setting,
    the answers that are allowed, and the one that is proposed.
    """
    yield OpenQuestion(
        ("new", "address"), "What will the address of the new site be?", facts["address"]
    )
    if facts["holds"]:
        yield OpenQuestion(
            ("new", "already_there"),
            "Entries that are there already:",
            "skip",
            ("skip", "update"),
        )
    if facts["presets"] != "none found":
        text = f"The old host's preset content ({facts['presets']}):"
        yield OpenQuestion(
            ("choose", "preset_content"), text, "leave-out", ("leave-out", "move")
        )
    yield from _mappings(facts, facts["host"])
    yield from _wholes(facts, facts["host"])
    servers = tuple(facts["servers"])
    yield OpenQuestion(
        ("redirects", "servers"),
        "Which servers are redirects written for?",
        ", ".join(servers),
        servers,
        True,
    )


def _mappings(facts: dict[str, Any], host: Profile) -> Iterator[OpenQuestion]:
    """What becomes of kinds, states and vocabularies that the host lacks."""
    for kind, number, becomes in facts["kind_rows"]:
        if kind not in host.kinds and len(host.kinds) > 1:
            text = f"What do {number} entries of the kind {kind} become?"
            yield OpenQuestion(("kinds", kind), text, becomes, tuple(host.kinds))
    for state in facts["changed_states"]:
        text = f"The new host knows no {state} entries; they become:"
        yield OpenQuestion(("states", state), text, host.states.otherwise, host.states.takes)
    vocabularies = facts["host_vocabularies"]
    for vocabulary, number, becomes in facts["vocabulary_rows"]:
        if vocabulary not in vocabularies and len(vocabularies) > 1 and "*" not in vocabularies:
            text = f"Into which vocabulary do {number} terms of the vocabulary {vocabulary} go?"
            yield OpenQuestion(("vocabularies", vocabulary), text, becomes, tuple(vocabularies))


def _wholes(facts: dict[str, Any], host: Profile) -> Iterator[OpenQuestion]:
    """What becomes of comments, files and unsigned entries as a whole."""
    if not host.comments.taken and facts["comment_count"]:
        text = f"The new host accepts no comments; {facts['comment_count']} go:"
        yield OpenQuestion(
            ("comments", "without_place"),
            text,
            "data-file",
            ("data-file", "closing-section", "leave-out"),
        )
    if facts["file_count"]:
        yield OpenQuestion(
            ("media", "files"),
            f"Which of {facts['file_count']} files move?",
            "content",
            ("content", "shown", "all"),
        )
    if facts["unsigned"]:
        text = f"Under which name do {facts['unsigned']} entries without an author go (empty: none)?"
        yield OpenQuestion(("authors", "of_unsigned"), text, "")


def one_person(author: Author, proposal: AuthorProposal) -> OpenQuestion:
    """Whether an author is the one that a proposal assigns the entries to."""
    text = f"{author.name} has {proposal.why}. One person?"
    return OpenQuestion(("authors.csv", author.key), text, "yes", ("yes", "no"))
