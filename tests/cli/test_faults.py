"""What ends a run is said in plain words, and odd names of folders do not end one."""

import errno
import os
import sqlite3

from newburrow.cli.faults import in_words
from tests.helpers import SITE, FolderCase, item, newburrow, rss

ODD = (
    "Move #2",
    "a?b",
    "%41",
    "new\nline",
    " lead ",
    "-dash",
    "nfd-e\u0301",
    "[x]*",
    'quote"s',
    "🍐",
    "<b>&amp;",
)


class Faults(FolderCase):
    def test_each_has_its_words(self) -> None:
        for number in (
            errno.ENOSPC,
            errno.EFBIG,
            errno.EROFS,
            errno.EACCES,
            errno.EMFILE,
            errno.ENOMEM,
            errno.EIO,
        ):
            said = in_words(OSError(number, os.strerror(number), "x.csv"))
            self.assertIn("x.csv", said)
            self.assertIn("run the same command again", said)
        for words in (
            "database or disk is full",
            "disk I/O error",
            "attempt to write a readonly database",
            "file is not a database",
        ):
            self.assertIn(words, in_words(sqlite3.OperationalError(words)))
        self.assertIn("not enough memory", in_words(MemoryError()))
        self.assertEqual(in_words(KeyError("x")), "")

    def test_odd_names_of_folders(self) -> None:
        for name in ODD:
            self.write(f"{name}/feed.xml", rss(item("A", SITE + "a/")))
            self.run_ok(
                "move", f"./{name}", "--to", "jsonfeed", "--out", f"./out {name}", "--quiet"
            )
            self.run_ok("redirects", f"./out {name}", "--for", "nginx")

    def test_any_terminal(self) -> None:
        self.write("feed.xml", rss(item("Tři \N{PEAR}", SITE + "a/")))
        for encoding in ("ascii", "cp1252", "latin-1"):
            env = {"PYTHONIOENCODING": encoding, "COLUMNS": "abc"}
            for more in ((), ("--json",)):
                done = newburrow("survey", "feed.xml", *more, folder=self.folder, env=env)
                self.assertEqual(done.returncode, 0, done.stderr)
