"""One page that cannot be read does not keep the others from moving."""

import zipfile
from pathlib import Path

from tests.helpers import SITE, FolderCase, rows

_TEXTS = {
    f"p{n}.html": f"<main><h1>Page {n}</h1><p>Pears {n}.</p><a href=p2.html>2</a></main>".encode()
    for n in range(5)
}


def damaged(path: Path, name: str, pages: dict[str, bytes]) -> None:
    """A zip of pages in which the bytes of one are not what they were."""
    with zipfile.ZipFile(path, "w") as archive:
        for page, text in pages.items():
            archive.writestr(page, text)
    data = path.read_bytes()
    path.write_bytes(data.replace(pages[name], pages[name].replace(b"Pears", b"Plums")))


class OfOnePage(FolderCase):
    def assert_moved_without(self, path: str, page: str, why: str, host: str) -> None:
        self.run_ok("move", path, "--to", host, "--out", "m", "--site", SITE, status=1)
        ledger = {row["object"]: row for row in rows(self.folder / "m/ledger.csv")}
        self.assertEqual(ledger[f"file:{page}"]["fate"], "failed")
        self.assertIn(why, ledger[f"file:{page}"]["reason"])
        self.assertEqual([row["fate"] for row in ledger.values()].count("failed"), 1)
        self.assertEqual([row["kind"] for row in ledger.values()].count("page"), 4)
        follow_ups = rows(self.folder / "m/follow-ups.csv")
        self.assertEqual(
            [row["what"].split()[0] for row in follow_ups if row["severity"] == "error"], [page]
        )
        answers = {row["old"]: row for row in rows(self.folder / "m/redirects/addresses.csv")}
        self.assertEqual(answers[f"{SITE}{page}"]["why"], "the file cannot be read")

    def test_damaged_in_a_zip(self) -> None:
        damaged(self.folder / "pages.zip", "p2.html", _TEXTS)
        self.assert_moved_without("pages.zip", "p2.html", "Bad CRC-32", "sedgewiki")

    def test_larger_than_any_page(self) -> None:
        for name, text in _TEXTS.items():
            self.write(f"site/{name}", text)
        with (self.folder / "site/p2.html").open("ab") as stream:
            stream.write(b"Pears and codlins. " * 3_600_000)
        self.assert_moved_without("site", "p2.html", "larger than 67,108,864", "plainleaf")

    def test_damaged_facts_and_texts_of_a_wiki(self) -> None:
        wiki = {
            "site.json": b'{"title": "Pears", "address": "https://mistlebank.example/"}',
            "pages/Pears.creole": b"Pears are good.",
            "pages/Plain.creole": b"See [[Pears]].\n{{row.png}}",
            "shelf/Plain/row.png": b"\x89PNG Pears " * 40,
            "facts/tagged.jsonl": b'{"page": "Plain", "tag": "Pears"}\n',
        }
        for name in wiki:
            damaged(self.folder / "wiki.zip", name, wiki)
            self.run_ok("move", "wiki.zip", "--to", "plainleaf", "--out", name, status=1)
            ledger = rows(self.folder / name / "ledger.csv")
            lost = [row["title"] for row in ledger if row["fate"] == "failed"]
            self.assertIn(name.rpartition("/")[2], " ".join(lost), name)

    def test_the_only_page_is_refused(self) -> None:
        damaged(self.folder / "pages.zip", "p2.html", {"p2.html": _TEXTS["p2.html"]})
        self.assertIn("damaged", self.refused("survey", "pages.zip"))
