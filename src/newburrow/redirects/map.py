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

    @classmethod
    def learnt(cls, answers: Answers) -> Map:
        """The map with the rules that its answers follow."""
        return cls(answers, learning.learn(answers))

    @property
    def site(self) -> str:
        """The site that the rules are for, as sites are compared."""
        return learning.site_of(self.answers)

    def exact(self) -> Iterator[OldAddress]:
        """What stands before the rules: the answers that these do not give, and the pages that they must let pass."""
        return learning.exceptions(self.rules, self.answers)
