"""Addresses with letters in an older encoding than UTF-8."""

import unittest
from urllib.parse import quote

from newburrow.core.old_encodings import as_utf8

SITE = "https://a.example/"


class OldEncodings(unittest.TestCase):
    def test_letters_of_several_scripts(self) -> None:
        for encoding, name in (
            ("shift_jis", "剪定 の 仕方"),
            ("euc_jp", "りんご"),
            ("euc_kr", "가지치기"),
            ("gb18030", "春天的花园"),
            ("big5", "春天的花園"),
            ("windows-1251", "Яблоки"),
            ("koi8_r", "Яблоки"),
            ("windows-1252", "Äpfel"),
            ("windows-1250", "jabłoń"),
        ):
            with self.subTest(encoding):
                found = list(as_utf8(f"{SITE}{quote(name.encode(encoding))}.html#x"))
                self.assertIn(f"{SITE}{quote(name)}.html#x", found)
                found = list(as_utf8(f"{SITE}?{quote(name.encode(encoding))}"))
                self.assertIn(f"{SITE}?{quote(name)}", found)

    def test_what_is_utf8_has_no_other_reading(self) -> None:
        for address in (SITE, f"{SITE}%C3%84", f"{SITE}a%20b?c=%E2%82%AC", "x"):
            self.assertEqual(list(as_utf8(address)), [])
