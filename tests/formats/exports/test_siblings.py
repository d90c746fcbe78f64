"""Readers that open other files of the source which they were handed a part of."""

import zipfile
from collections.abc import Iterator
from unittest import mock

from newburrow.core import plugins
from newburrow.formats.base import Format, Input
from newburrow.formats.exports import detection, export_records
from newburrow.intake.head import Head
from newburrow.model import Body, Entry, Media
from newburrow.model.reading import Item
from tests.helpers import FolderCase


class Manifest(Format):
    """A file that lists the files of texts, a line each."""

    name = "manifest"
    title = "a list of texts"

    def recognise(self, head: Head) -> bool:
        return head.name.endswith("texts.list")

    def read(self, source: Input) -> Iterator[Item]:
        for line in source.stream.read().decode().split():
            stream = source.sibling(line)
            if stream is None:
                yield Entry(key=line, title="not there")
            else:
                with stream:
                    yield Entry(key=line, body=Body(stream.read().decode()))


WANTED = {
    "one.txt": "first",
    "../top.txt": "top",
    "/top.txt": "top",
    "./deeper/../one.txt": "first",
    "../../../etc/passwd": "not there",
    "none.txt": "not there",
}


class Siblings(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        names, get = plugins.names, plugins.get
        for name, changed in (
            ("names", lambda group: [*names(group), *["manifest"][: group == plugins.FORMATS]]),
            ("get", lambda group, name: Manifest() if name == "manifest" else get(group, name)),
        ):
            patched = mock.patch.object(plugins, name, changed)
            patched.start()
            self.addCleanup(patched.stop)

    def found(self, name: str) -> dict[str, str]:
        records = list(export_records.records(detection.examine(self.folder / name)))
        self.assertEqual([r.path for r in records if isinstance(r, Media)], ["other.txt"])
        return {r.key: r.title or r.body.text for r in records if isinstance(r, Entry)}

    def test_of_a_folder_and_of_an_archive(self) -> None:
        files = {
            "c/texts.list": "\n".join(WANTED),
            "c/one.txt": "first",
            "top.txt": "top",
            "other.txt": "o",
        }
        with zipfile.ZipFile(self.folder / "e.zip", "w") as archive:
            for name, text in files.items():
                self.write(f"e/{name}", text)
                archive.writestr(name, text)
        self.assertEqual(self.found("e"), WANTED)
        self.assertEqual(self.found("e.zip"), WANTED)
