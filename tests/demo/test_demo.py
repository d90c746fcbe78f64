import io
import re
import unittest
from zipfile import ZipFile

from lxml import etree
from PIL import Image

from newburrow.demo import export, orchard, pictures
from tests.helpers import FolderCase, demo_export


class Orchards(unittest.TestCase):
    def setUp(self) -> None:
        self.orchard = orchard.build()

    def test_it_has_the_faults_that_real_exports_have(self) -> None:
        entries = [entry for entry, _comments in self.orchard.entries]
        self.assertEqual(
            {entry.status for entry in entries},
            {"published", "draft", "scheduled", "private", "removed"},
        )
        self.assertTrue([entry for entry in entries if not entry.slug])
        self.assertEqual(len([entry for entry in entries if entry.title == "Open day"]), 2)
        self.assertEqual(
            {entry.published.strftime("%z") for entry in entries if entry.published},
            {"+0000", "+0100", "+0900", "-0500"},
        )
        self.assertEqual(len({entry.key for entry in entries}), len(entries))

    def test_answers_belong_to_comments_of_the_same_entry(self) -> None:
        for entry, comments in self.orchard.entries:
            keys = {comment.key for comment in comments}
            for comment in comments:
                self.assertEqual(comment.entry, entry.key)
                self.assertTrue(not comment.parent or comment.parent in keys)

    def test_addresses_end_in_example(self) -> None:
        for host in set(re.findall(r"(?:https?://|@)([\w.-]+)", export.document(self.orchard))):
            self.assertTrue(host.endswith((".example", "purl.org", "www.w3.org")), host)


class Exports(FolderCase):
    def test_the_same_bytes_every_time(self) -> None:
        export.write(self.folder / "e.zip")
        self.assertEqual((self.folder / "e.zip").read_bytes(), demo_export())

    def test_it_is_a_well_formed_export_with_its_pictures(self) -> None:
        archive = ZipFile(io.BytesIO(demo_export()))
        tree = etree.fromstring(archive.read("export/mistlebank.xml"))
        files = tree.xpath("//*[local-name()='file']/text()")
        self.assertEqual(
            {f"export/{name}" for name in files},
            {name for name in archive.namelist() if name.endswith(".png")},
        )
        self.assertEqual(len(files), 40)

    def test_pictures(self) -> None:
        for motif in pictures.MOTIFS:
            picture = Image.open(io.BytesIO(pictures.draw(motif, 3)))
            self.assertEqual(picture.size, (pictures.WIDTH, pictures.HEIGHT))
        self.assertNotEqual(pictures.draw("tree", 1), pictures.draw("tree", 2))
