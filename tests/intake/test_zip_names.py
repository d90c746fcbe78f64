"""Names in zips in the encodings of the machines that wrote them."""

import io
import unittest
import zipfile

from newburrow.intake import zip_names

WESTERN = ("Café notes.creole", "Größe.creole", "naïve/Été à l'école.creole")
CYRILLIC = ("Яблоки.creole", "Обрезка зимой.creole", "Груши и сливы.creole")
JAPANESE = ("日本語のページ.creole", "りんご.creole", "木の剪定について.creole")


class _Named(zipfile.ZipInfo):
    raw: bytes

    def _encodeFilenameFlags(self) -> tuple[bytes, int]:
        return self.raw, 0


def read_back(names: tuple[str, ...], encoding: str) -> list[str]:
    """The names of a zip whose writer has not said in which encoding they are."""
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w") as archive:
        for number, name in enumerate(names):
            info = _Named(f"{number}")
            info.raw, info.create_system = name.encode(encoding), 0
            archive.writestr(info, b"x")
    with zipfile.ZipFile(stream) as archive:
        return zip_names.names(archive.infolist())


class Names(unittest.TestCase):
    def test_without_the_flag(self) -> None:
        for names, encodings in (
            (WESTERN, ("utf-8", "cp437", "cp850", "cp1252")),
            (CYRILLIC, ("utf-8", "cp866", "cp1251")),
            (JAPANESE, ("utf-8", "cp932")),
        ):
            for encoding in encodings:
                self.assertEqual(read_back(names, encoding), list(names), encoding)

    def test_of_windows(self) -> None:
        self.assertEqual(
            read_back(("a\\b\\c.txt", "d/e.txt"), "ascii"), ["a/b/c.txt", "d/e.txt"]
        )

    def test_with_the_flag(self) -> None:
        stream = io.BytesIO()
        with zipfile.ZipFile(stream, "w") as archive:
            for name in (*WESTERN, *JAPANESE):
                archive.writestr(name, b"x")
        with zipfile.ZipFile(stream) as archive:
            self.assertEqual(zip_names.names(archive.infolist()), [*WESTERN, *JAPANESE])
