"""A part from which nothing comes is named."""

import time
from collections.abc import Iterator
from unittest.mock import patch

from newburrow.core.problem import BurrowError
from newburrow.formats.base import Input
from newburrow.formats.exports import export_records, several
from newburrow.formats.exports.export import ExportRequest
from newburrow.formats.html import HtmlPages, reader
from newburrow.intake.budget import ReadingLimits
from newburrow.model.reading import Item
from tests.helpers import FolderCase


def _slow(_format: HtmlPages, source: Input) -> Iterator[Item]:
    if source.name == "b.html":
        time.sleep(9)
    yield from reader.read(source)


class Stalled(FolderCase):
    def test_the_part_is_named(self) -> None:
        for name in "abc":
            self.write(
                f"site/{name}.html", f"<main><h1>{name}</h1><p>Pears.</p></main>".encode()
            )
        request = ExportRequest([self.folder / "site"], limits=ReadingLimits(seconds=1))
        (export,) = several.examine_all(request)
        with patch.object(HtmlPages, "read", _slow), self.assertRaises(BurrowError) as caught:
            list(export_records.records(export))
        self.assertEqual(caught.exception.problem.code, "stalled")
        self.assertTrue(caught.exception.problem.where.file.endswith("b.html"))
