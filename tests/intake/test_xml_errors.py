import unittest

from lxml import etree

from newburrow.intake.xml_errors import explained, not_well_formed


class Explained(unittest.TestCase):
    def test_faults_of_real_exports_in_plain_words(self) -> None:
        for text, words in (
            ("<a>x & y</a>", "a bare &"),
            ("<a>x &y</a>", "a bare &"),
            ("<a>&nbsp;</a>", "XML has no entity &nbsp;"),
            ("<a>1 < 2</a>", "a bare <"),
            ("<a><b></a>", "<b>, opened in line 1, is closed by </a>"),
            ("<a><b>", "the file ends while <b>, opened in line 1, is still open"),
            ("<a>\x08</a>", "a control character"),
            ("<a><x:b/></a>", "the prefix x is not declared"),
            ("<a><![CDATA[x</a>", "a CDATA section has no end"),
            ("<a>]]></a>", "the text has ]]>"),
            ('<a b="1" b="2"/>', "the attribute b appears twice"),
            ("notice<a/>", "it begins with something other than XML"),
            ("\n<?xml version='1.0'?><a/>", "there is something before the XML declaration"),
            ("<a/>notice", "there is something after its end"),
            (b"<a>\xff\xfe</a>", "bytes that are not valid in its encoding"),
            ("<b>" * 300 + "</b>" * 300, "nested deeper than 2,000 levels"),
        ):
            with self.assertRaises(etree.XMLSyntaxError) as caught:
                etree.fromstring(text)
            problem = not_well_formed(caught.exception, "a.xml").problem
            self.assertIn(words, problem.message, text)
            self.assertEqual((problem.where.file, problem.code), ("a.xml", "not-well-formed"))

    def test_what_is_not_known_is_passed_on(self) -> None:
        self.assertEqual(
            explained("Strange things, line 3, column 4 (a.xml, line 3)"), "Strange things"
        )
        self.assertEqual(explained(""), "it ends too early")
