"""QTI 2.1, 2.2 and 3.0 (1EdTech: Assessment Test, Section and Item Information Model), without a package."""

from __future__ import annotations

import posixpath
from collections.abc import Iterator
from typing import BinaryIO

from newburrow.core.problem import Problem
from newburrow.formats.base import Format, Input
from newburrow.formats.qti2 import qti3, reader
from newburrow.intake.head import Head
from newburrow.model import Entry, Where
from newburrow.model.reading import Item


class Qti2(Format):
    """Tests and items in files of their own, of which no manifest tells. An item alone is a bank with one question."""

    name = "qti2"
    title = "QTI 2.1, 2.2 and 3.0 (1EdTech)"
    is_tree = True

    def recognise(self, head: Head) -> bool:
        """Whether the root element is that of a test or an item of QTI 2 or 3."""
        return head.prolog is not None and _name(head.prolog.root) in (reader.TEST, reader.ITEM)

    def read(self, source: Input) -> Iterator[Item | Problem]:
        """The questions of a test, or the one of an item, then the quiz or question bank."""
        yield Problem.at(Where(source.label), "manifest-missing", file=source.name)
        stem = posixpath.splitext(posixpath.basename(source.name))[0]

        def opened(name: str) -> BinaryIO | None:
            return source.sibling(f"/{name}")

        if _name(source.root) == reader.TEST:
            file = reader.TestFile(
                source.name, source.label, source.name, opened, source.base, stem
            )
            yield from reader.read_test(file)
        else:
            bank = Entry(
                key=source.name, kind="question-bank", title=stem, source=Where(source.label)
            )
            yield from reader.read_bank([source.name], bank, source.base, opened)
        source.progress(1)


def _name(root: str) -> str:
    """The name of a root element, as QTI 2 has it."""
    return qti3.bare_name(root.rpartition("}")[2])


FORMAT = Qti2()
