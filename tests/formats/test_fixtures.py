"""Inputs of each format beside the records that are read of them: `fixtures/FORMAT/CASE.*` and `CASE.json`.

A case is a file or a folder, with a dialect of its own in `CASE.toml` where it needs one. To see what a case
gives now: `python -m tests.formats.test_fixtures CASE`.
"""

import json
import sys
import unittest
from pathlib import Path

import msgspec

from newburrow.core.problem import Problem
from newburrow.formats.exports import detection, export_records
from newburrow.model.reading import Mention, Relation
from tests.helpers import FolderCase, unpack_zips

FIXTURES = Path(__file__).parent.parent / "fixtures"
WRITTEN = FIXTURES / "written"
_BESIDE = {".toml", ".json"}


def cases() -> list[Path]:
    """All inputs, in order of their names."""
    formats = (folder for folder in FIXTURES.iterdir() if folder.is_dir() and folder != WRITTEN)
    return sorted(
        path for folder in formats for path in folder.iterdir() if path.suffix not in _BESIDE
    )


def records_of(path: Path) -> list[dict[str, object]]:
    """What is read of an input, as plain data; places in it are given by file and line."""
    dialect = path.with_suffix(".toml")
    export = detection.examine(path, str(dialect) if dialect.is_file() else "")
    return [plain(item) for item in export_records.records(export)]


def plain(item: object) -> dict[str, object]:
    """A record, relation or problem with the name of its type."""
    if isinstance(item, Mention):
        return {"mention": plain(item.record)}
    facts = {
        name: value
        for name, value in json.loads(msgspec.json.encode(item)).items()
        if value not in ("", [], {}, None)
    }
    for name in ("source", "where"):
        if name in facts:
            place = facts.pop(name)
            facts["line"] = place.get("line", 0)
    if isinstance(item, Problem):
        return {"problem": facts}
    if isinstance(item, Relation):
        return {"relation": facts}
    return {type(item).__name__.lower(): facts}


class Fixtures(unittest.TestCase):
    def test_what_is_read(self) -> None:
        for path in cases():
            with self.subTest(case=f"{path.parent.name}/{path.name}"):
                expected = json.loads(path.with_suffix(".json").read_text())
                self.assertEqual(records_of(path), expected)

    def test_every_reader_has_one(self) -> None:
        self.assertLessEqual(
            {
                "rss",
                "atom",
                "jsonfeed",
                "markdown",
                "creole",
                "html",
                "csv",
                "json",
                "jsonlines",
                "xml",
            },
            {path.parent.name for path in cases()},
        )


class Written(FolderCase):
    """One small site as every host imports it: `fixtures/written/HOST/`."""

    maxDiff = None

    def test_what_is_written(self) -> None:
        for expected in sorted(path for path in WRITTEN.iterdir() if path.is_dir()):
            with self.subTest(host=expected.name):
                folder = f"move-{expected.name}"
                self.run_ok(
                    "move", WRITTEN / "orchard.xml", "--to", expected.name, "--out", folder
                )
                unpack_zips(self.folder / folder / "new")
                found = texts(self.folder / folder / "new")
                self.assertEqual(found.keys(), texts(expected).keys())
                for name, text in texts(expected).items():
                    self.assertEqual(found[name], text, name)

    def test_every_host_has_one(self) -> None:
        hosts = {line.split()[0] for line in self.run_ok("hosts").splitlines() if line.strip()}
        self.assertLessEqual({path.name for path in WRITTEN.iterdir() if path.is_dir()}, hosts)
        self.assertEqual(len([path for path in WRITTEN.iterdir() if path.is_dir()]), 10)


def texts(folder: Path) -> dict[str, str]:
    """The texts of all files in a folder, by their name in it."""
    return {
        path.relative_to(folder).as_posix(): path.read_text()
        for path in folder.rglob("*")
        if path.is_file()
    }


if __name__ == "__main__":
    for case in cases():
        if case.stem in sys.argv[1:]:
            print(json.dumps(records_of(case), indent=1, ensure_ascii=False))
