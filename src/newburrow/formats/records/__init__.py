"""Plain records of any shape: XML, JSON, JSON Lines and CSV. A dialect says where their facts are.

Records stream: of XML and JSON one is held at a time, of the others one line.
"""

from __future__ import annotations

from newburrow.formats.records.document_records import Json, Xml
from newburrow.formats.records.line_records import Csv, JsonLines

XML, JSON, JSON_LINES, CSV = Xml(), Json(), JsonLines(), Csv()
