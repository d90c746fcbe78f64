"""QTI 1.2 (1EdTech, 1.2.1, and its profile in Common Cartridge) in files without a package."""

from __future__ import annotations

import posixpath
from collections.abc import Iterator
from typing import BinaryIO
from urllib.parse import quote

from newburrow.core import url
from newburrow.core.problem import Problem
from newburrow.formats.base import Format, Input
from newburrow.formats.qti1 import reader
from newburrow.intake.head import Head
from newburrow.model import Where
from newburrow.model.reading import Item


class Qti1(Format):
    """Quizzes and question banks in files of their own, of which no manifest tells."""

    name = "qti"
    title = "QTI 1.2 (1EdTech)"
    is_tree = True

    def recognise(self, head: Head) -> bool:
        """Whether the root element is that of QTI 1.2."""
        return head.prolog is not None and head.prolog.root.rpartition("}")[2] == reader.ROOT

    def read(self, source: Input) -> Iterator[Item | Problem]:
        """The questions of a file, then the quiz or question bank that they are in."""
        yield Problem.at(Where(source.label), "manifest-missing", file=source.name)
        own = posixpath.basename(source.name)

        def opened() -> BinaryIO:
            stream = source.sibling(own)
            assert stream is not None, "a part names itself"
            return stream

        if source.base:
            base = url.resolve(source.base, quote(source.name))
        else:
            base = ""
        stem = posixpath.splitext(own)[0]
        yield from reader.read(reader.QtiFile(opened, source.name, source.name, base, stem))
        source.progress(1)


FORMAT = Qti1()
