"""Many pages read by two processes give the store that one gives."""

from functools import partial
from pathlib import Path

from newburrow.core.progress import nobody
from newburrow.formats.exports import several
from newburrow.formats.exports.export import Export, ExportRequest
from newburrow.store import fill, parts_reading
from newburrow.store.merge.merge_exports import unite
from newburrow.store.new_store import NewStore
from tests.commands.test_courses import course_hosts
from tests.commands.test_courses import export as course_export
from tests.commands.test_wikis import WIKI
from tests.commands.test_wikis import export as wiki_export
from tests.helpers import FolderCase
from tests.store.test_split_reading import dump


class Halves(FolderCase):
    def put(self, exports: list[Export], many: parts_reading.ManyParts, new: NewStore) -> None:
        parts_reading.put(new, exports[0], many, nobody)

    def test_the_same_store(self) -> None:
        exports = {dialect: wiki_export(dialect) for dialect in WIKI.exports}
        for dialect, data in exports.items():
            self.compare(dialect, data, many=1)

    def test_the_same_store_from_files_that_a_manifest_describes(self) -> None:
        for dialect in course_hosts():
            self.compare(dialect, course_export(dialect), large=1)

    def compare(self, dialect: str, data: bytes, **least: int) -> None:
        path = self.write(f"{dialect}.zip", data)
        stores = [self.folder / f"{dialect}-{jobs}" for jobs in (1, 2)]
        exports = several.examine_all(ExportRequest([path]))
        with fill.fill(stores[0], several.records(exports, nobody), dict, unite):
            pass
        exports = several.examine_all(ExportRequest([path]))
        many = parts_reading.find(exports, 2, **least)
        assert many is not None
        put = partial(self.put, exports, many)
        with fill.filled(stores[1], put, dict, unite):
            pass
        self.assertEqual(dump(stores[0]), dump(stores[1]), dialect)

    def test_what_is_not_split(self) -> None:
        path = self.write("w.zip", wiki_export("tarnwiki"))
        exports = several.examine_all(ExportRequest([path]))
        self.assertIsNone(parts_reading.find(exports, 1, many=1))
        self.assertIsNone(parts_reading.find(exports, 2))
        within = self.folder / "within"
        within.mkdir()
        Path(path).rename(within / "w.zip")
        self.assertIsNone(
            parts_reading.find(several.examine_all(ExportRequest([within])), 2, many=1)
        )
