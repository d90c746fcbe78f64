"""Pictures of previews, in folders and in archives."""

import unittest
import zipfile

from newburrow.model import Media
from newburrow.report.pictures import Pictures
from newburrow.store.journal.rows import OldAddress
from tests.helpers import SITE, FolderCase

PNG = b"\x89PNG\r\n\x1a\n" + b"0" * 100
ADDRESS = SITE + "files/bud.png"


class Found:
    """A journal that knows one file."""

    media = Media(key="m", address=ADDRESS, path="files/bud.png")

    def get(self, _key: str) -> OldAddress | None:
        return None

    def key_at(self, address: str) -> str:
        return "m" if address == ADDRESS else ""

    def file(self, _key: str) -> Media:
        return self.media


class InResults(FolderCase):
    def shown(self, address: str = "/files/bud.png", most_bytes: int = 1000) -> bool:
        found = Found()
        pictures = Pictures(found, found, found, self.folder)  # type: ignore[arg-type]
        picture = pictures.on(SITE + "page/", 2, most_bytes)
        return picture(address) == ("image/png", PNG)

    def archive(self, data: bytes = PNG) -> None:
        (self.folder / "new").mkdir(exist_ok=True)
        with zipfile.ZipFile(self.folder / "new/import-2.zip", "w") as archive:
            archive.writestr("files/bud.png", data)

    def test_in_a_folder(self) -> None:
        self.assertFalse(self.shown())
        (self.folder / "new/files").mkdir(parents=True)
        (self.folder / "new/files/bud.png").write_bytes(PNG)
        self.assertTrue(self.shown())
        self.assertFalse(self.shown("/files/leaf.png"))
        self.assertFalse(self.shown(most_bytes=50))

    def test_in_one_of_several_archives(self) -> None:
        (self.folder / "new").mkdir()
        with zipfile.ZipFile(self.folder / "new/import-1.zip", "w") as archive:
            archive.writestr("page.html", "x")
        self.archive()
        self.assertTrue(self.shown())
        self.assertFalse(self.shown(most_bytes=50))

    def test_a_damaged_archive_has_none(self) -> None:
        self.archive()
        path = self.folder / "new/import-2.zip"
        path.write_bytes(path.read_bytes().replace(PNG, b"\0" * len(PNG)))
        self.assertFalse(self.shown())
        path.write_bytes(b"PK\3\4")
        self.assertFalse(self.shown())


if __name__ == "__main__":
    unittest.main()
