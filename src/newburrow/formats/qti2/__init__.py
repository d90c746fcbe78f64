"""QTI 2.1 and 2.2 (1EdTech: Assessment Test, Section and Item Information Model), without a package."""

from __future__ import annotations

import posixpath
from collections.abc import Iterator
from typing import BinaryIO

from newburrow.core.problem import Problem
from newburrow.formats.base import Format, Input
from newburrow.formats.qti2 import reader
from newburrow.intake.head import Head
from newburrow.model import Entry, Where
from newburrow.model.reading import Item

_NEWER = "v3p"


class Qti2(Format):
    """Tests and items in files of their own, of which no manifest tells. An item alone is a bank with one question."""

    name = "qti2"
    title = "QTI 2.1 and 2.2 (1EdTech)"
    is_tree = True

    def recognise(self, head: Head) -> bool:
        """Whether the root element is that of a test or an item of QTI 2."""
        if head.prolog is None or _NEWER in head.prolog.root:
            return False
        return head.prolog.root.rpartition("}")[2] in (reader.TEST, reader.ITEM)

    def read(self, source: Input) -> Iterator[Item | Problem]:
        """The questions of a test, or the one of an item, then the quiz or question bank."""
        yield Problem.at(Where(source.label), "manifest-missing", file=source.name)
        stem = posixpath.splitext(posixpath.basename(source.name))[0]

        def opened(name: str) -> BinaryIO | None:
            return source.sibling(f"/{name}")

        if source.root.rpartition("}")[2] == reader.TEST:
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


FORMAT = Qti2()
