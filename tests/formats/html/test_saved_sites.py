"""Sites as programs save them: by a mirror, with queries in names of files, and page by page from a browser."""

from tests.helpers import FolderCase, rows

PAGE = "<!DOCTYPE html>\n{mark}<html><head><title>{title} - Orchard Book</title>{head}</head><body><main><h1>{title}</h1>{text}</main></body></html>"
PICTURE = b"\x89PNG\r\n\x1a\n"


def page(title: str, text: str, head: str = "", mark: str = "") -> str:
    return PAGE.format(title=title, text=text, head=head, mark=mark)


class Mirrored(FolderCase):
    def test_names_with_queries_in_a_folder_of_the_host(self) -> None:
        home = "http://www.old.example/"
        for name, address, text in (
            ("index.html", "", '<a href="see.php%3Fid=3.html">3</a> <a href="see.php%3Fid=4&amp;l=de.html">4</a> <img src="p.png%3Fw=2" alt="p">'),
            ("see.php?id=3.html", "see.php?id=3", '<a href="index.html">home</a> <a href="/see.php?l=de&amp;id=4">4</a>'),
            ("see.php?id=4&l=de.html", "see.php?id=4&amp;l=de", f'<a href="{home}see.php?id=3">3</a>'),
        ):  # fmt: skip
            head = f'<link rel="canonical" href="{home}{address}">'
            self.write(f"site/www.old.example/{name}", page(f"Of {name[:12]}", text, head))
        self.write("site/www.old.example/p.png?w=2", PICTURE)
        self.write("site/www.old.example/main.css@v=3", "a { color: red }")
        self.run_ok("move", "site", "--to", "plainleaf", "--out", "m")
        answers = {
            row["old"]: row["new"] for row in rows(self.folder / "m/redirects/addresses.csv")
        }
        three, four = answers[f"{home}see.php?id=3"], answers[f"{home}see.php?id=4&l=de"]
        self.assertEqual(answers[home], home)
        text = next(self.folder.glob("m/new/texts/of-index*.md")).read_text()
        for new in (three, four):
            self.assertIn(f"]({new})", text)
        (picture,) = (self.folder / "m/new/files").iterdir()
        self.assertEqual(picture.suffix, ".png")
        self.assertIn(f"{home}files/{picture.name}", text)
        fates = {row["title"]: row["fate"] for row in rows(self.folder / "m/ledger.csv")}
        self.assertEqual(fates["www.old.example/main.css@v=3"], "left-out")
        self.run_ok("verify", "m")


class SavedByABrowser(FolderCase):
    def test_the_address_in_the_mark_of_the_web(self) -> None:
        for title, path in (("Pear trees", "pears/"), ("Plums (old)", "stone/plums.html")):
            mark = f"<!-- saved from url=(0036)https://old.example/{path} -->\n"
            text = f'<p><img src="./{title}_files/p.png" alt="p"> <a href="https://old.example/stone/plums.html">plums</a></p>'
            self.write(f"saved/{title}.html", page(title, text, mark=mark))
            self.write(f"saved/{title}_files/p.png", PICTURE + title.encode())
        self.run_ok("move", "saved", "--to", "plainleaf", "--out", "m")
        answers = {
            row["old"]: row["new"] for row in rows(self.folder / "m/redirects/addresses.csv")
        }
        home = "https://old.example/"
        self.assertEqual(answers[f"{home}pears/"], f"{home}pears/")
        self.assertEqual(answers[f"{home}stone/plums.html"], f"{home}plums/")
        text = (self.folder / "m/new/texts/pears.md").read_text()
        self.assertIn(f"[plums]({home}plums/)", text)
        self.assertIn(f"![p]({home}files/p-", text)
        self.run_ok("verify", "m")

    def test_what_is_no_address(self) -> None:
        mark = "<!-- saved from url=(0014)about:internet -->\n"
        self.write("saved/a.html", page("A", "<p>Words.</p>", mark=mark))
        self.write("saved/b.html", page("B", "<p>Words.</p>"))
        self.run_ok(
            "move", "saved", "--to", "plainleaf", "--site", "https://own.example/", "--out", "m"
        )
        answers = {row["old"] for row in rows(self.folder / "m/redirects/addresses.csv")}
        self.assertIn("https://own.example/a.html", answers)


class OfADiskWithoutCapitals(FolderCase):
    """Sites from computers that do not tell capitals apart: any spelling of a name led to the file."""

    def test_links_in_another_spelling(self) -> None:
        self.write("s/index.htm", '<html><head><title>Home</title></head><body><h1>Home</h1><p><a href="SUB\\PAGE2.HTM">two</a> '
                   '<a href="page3.htm#x">three</a> <a href="Twin.htm">twin</a> <img src="PIC.GIF" alt="p"></p></body></html>')  # fmt: skip
        self.write("s/Sub/Page2.htm", '<h1>Two</h1><p><a href="../INDEX.HTM">home</a></p>')
        for name in ("PAGE3.HTM", "TWIN.HTM", "twin.HTM"):
            self.write(f"s/{name}", f"<h1>{name}</h1><p>Text.</p>")
        self.write("s/pic.gif", b"GIF89a")
        found = {finding["code"]: finding for finding in self.survey("s")["findings"]}
        self.assertNotIn("missing-picture", found)
        self.assertEqual(
            found["dead-link"]["count"], 1, found["dead-link"]
        )  # of two twins it is none
        self.assertIn("Twin.htm", found["dead-link"]["examples"][0])
        self.run_ok("move", "s", "--to", "plainleaf", "--out", "m")
        self.run_ok("verify", "m")
        answers = {row["old"].rpartition(".example")[2]: row["new"].rpartition(".example")[2]
                   for row in rows(self.folder / "m/redirects/addresses.csv")}  # fmt: skip
        self.assertEqual(answers["/page3.htm"], "/PAGE3.HTM")
        self.assertEqual(answers["/SUB/PAGE2.HTM"], "/Sub/Page2.htm")
        self.assertEqual(answers["/index.htm"], answers["/INDEX.HTM"])
        self.assertNotIn("/Twin.htm", answers)


class OfAMirror(FolderCase):
    """A program that saved the site gave files endings that the addresses did not have."""

    def test_links_without_the_ending(self) -> None:
        self.write("s/index.html", '<html><head><title>Home</title><link rel="canonical" href="https://own.example/"></head><body><h1>Home</h1>'
                   '<p><a href="https://own.example/pears/">pears</a> <a href="https://own.example/sub/quinces#x">quinces</a> '
                   '<a href="https://own.example/plums">plums</a> <a href="clean.html">clean</a></p></body></html>')  # fmt: skip
        self.write("s/pears.html", "<h1>Pears</h1><p>Text.</p>")
        self.write("s/sub/quinces.htm", "<h1>Quinces</h1><p id=x>Text.</p>")
        self.write("s/clean/index.html", "<h1>Clean</h1><p>Text.</p>")
        found = {finding["code"]: finding for finding in self.survey("s")["findings"]}
        self.assertEqual(
            found["dead-link"]["examples"][0].split()[0], "https://own.example/plums"
        )
        self.run_ok("move", "s", "--to", "plainleaf", "--out", "m")
        answers = {row["old"].rpartition(".example")[2]: row["new"].rpartition(".example")[2]
                   for row in rows(self.folder / "m/redirects/addresses.csv")}  # fmt: skip
        self.assertEqual(answers["/pears/"], "/pears.html")
        self.assertEqual(answers["/sub/quinces"], "/sub/quinces.htm")
        self.assertEqual(answers["/clean.html"], "/clean/")
        self.assertNotIn("/plums", answers)
