"""What the redirects of a server are written from: the answers, the rules learnt from them, and the exceptions."""

from __future__ import annotations

from collections.abc import Iterator

from msgspec import Struct

from newburrow.journal import OldAddress
from newburrow.redirects import learning
from newburrow.redirects.answers import Answers
from newburrow.redirects.shapes import Shape


class Map(Struct, frozen=True):
    """All answers of a move."""

    answers: Answers
    rules: tuple[Shape, ...]
    site: str = ""  # that the rules are for, and most old addresses are of, as sites are compared

    @classmethod
    def learnt(cls, answers: Answers) -> Map:
        """The map with the rules that its answers follow."""
        site = learning.site_of(answers)
        return cls(answers, learning.learn(answers, site), site)

    def exact(self) -> Iterator[OldAddress]:
        """What stands before the rules: the answers that these do not give, and the pages that they must let pass."""
        return learning.exceptions(self.rules, self.answers, self.site)
