"""Pages of XHTML whose document type declares something."""

import unittest

from newburrow.intake.html_type import is_html, without_declarations
from tests.helpers import SITE, FolderCase, newburrow

_PAGE = b"""<?xml version="1.0" encoding="utf-8"?>
<!-- made > long ago -->
<!DOCTYPE html PUBLIC "-//W3C//DTD XHTML 1.1//EN" "http://dtd.example/x[1].dtd" [
  <!ENTITY orchard "Mistle ] > Bank"> <!-- don't end here: ]> -->
  %more;
] >
<html xmlns="http://www.w3.org/1999/xhtml"><head><title>Grafts</title></head>
<body><p>At &orchard;<br/>since 1911.</p></body></html>"""
_EVIL = b"""<!DOCTYPE html [<!ENTITY a SYSTEM "file:///etc/hostname"><!ENTITY b "&a;&a;&a;">]>
<html><body><h1>Bad</h1><p>Read: &a; &b;</p></body></html>"""


class HtmlType(unittest.TestCase):
    def test_declarations_are_left_out(self) -> None:
        made = without_declarations(_PAGE)
        self.assertIn(b'"http://dtd.example/x[1].dtd" \n\n\n>\n<html', made)
        self.assertEqual(made.count(b"\n"), _PAGE.count(b"\n"))
        for other in (b"<p>[<!ENTITY x>]></p>", b"<!DOCTYPE html><p><!ENTITY [ ] ></p>", b"<!DOCTYPE html [ <!ENTITY a"):  # fmt: skip
            self.assertEqual(without_declarations(other), other)

    def test_other_documents_are_not_html(self) -> None:
        self.assertTrue(is_html(b"\xef\xbb\xbf <!doctype HTML>"))
        for other in (b"<!DOCTYPE rss [", b"<rss><!DOCTYPE html>", b"<!DOCTYPE htmlx>", b""):
            self.assertFalse(is_html(other), other)


class OfASite(FolderCase):
    def test_such_pages_are_pages(self) -> None:
        self.write(
            "site/index.html", "<main><h1>Home</h1><p><a href='grafts.html'>x</a></p></main>"
        )
        self.write("site/grafts.html", _PAGE)
        self.write("site/evil.html", _EVIL)
        counts = self.survey("site", "--site", SITE)["counts"]
        self.assertEqual(counts, {"page": 3})
        shown = newburrow("show", "site", "grafts.html", folder=self.folder).stdout
        self.assertIn("<p>At &amp;orchard;<br>since 1911.</p>", shown)
        self.assertNotIn("]", shown)
        shown = newburrow("show", "site", "evil.html", folder=self.folder).stdout
        self.assertIn("<p>Read: &amp;a; &amp;b;</p>", shown)

    def test_other_documents_that_declare_entities_are_refused(self) -> None:
        self.write("feed.xml", '<!DOCTYPE rss [<!ENTITY html "x">]><rss><channel/></rss>')
        self.assertIn("declares an entity", self.refused("survey", "feed.xml"))
