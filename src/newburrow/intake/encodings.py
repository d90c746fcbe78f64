"""Character encodings: which one a text file is in, and the file read as UTF-8.

Names and meanings of encodings are those of the Encoding Standard (WHATWG): ISO-8859-1 means
Windows-1252, Shift_JIS means Windows-31J, and so on. All readers get UTF-8; nobody else decodes.
"""

from __future__ import annotations

import codecs
import io
import re
from collections.abc import Callable
from functools import lru_cache
from typing import BinaryIO, cast

from msgspec import Struct

from newburrow.core.problem import refusal
from newburrow.intake.html_type import without_declarations
from newburrow.model.record import Where

_BLOCK = 1 << 18
_DECLARATION = re.compile(
    rb"""\A(?:\xef\xbb\xbf)?\s*<\?xml\b[^>]*?\sencoding\s*=\s*["']([A-Za-z0-9._:+-]+)["']"""
)
_PRESCAN = 1024  # bytes within which a page declares its encoding
_LATE = 1 << 16  # bytes within which browsers still find it
_HTML = re.compile(
    rb"(?:\xef\xbb\xbf)?(?:\s|<!--.*?-->)*<(?:!doctype\s+html|html|head|meta)",
    re.IGNORECASE | re.DOTALL,
)
_META = re.compile(
    rb"""<meta\s[^>]*?charset\s*=\s*["']?\s*([A-Za-z0-9._:+-]+)""", re.IGNORECASE
)
_IN_TEXT = re.compile(r"""(\A\s*<\?xml\b[^>]*?\sencoding\s*=\s*)(["'])[^"']*\2""")
_MARKS = (
    (codecs.BOM_UTF32_LE, "utf-32le"),
    (codecs.BOM_UTF32_BE, "utf-32be"),
    (codecs.BOM_UTF16_LE, "utf-16le"),
    (codecs.BOM_UTF16_BE, "utf-16be"),
)
# Without a mark: the first character is one of ASCII (XML 1.0 appendix F, RFC 4627 section 3).
_WITHOUT_MARK = (
    (re.compile(rb"[\x09-\x7e]\x00\x00\x00", re.DOTALL), "utf-32le"),
    (re.compile(rb"\x00\x00\x00[\x09-\x7e]", re.DOTALL), "utf-32be"),
    (re.compile(rb"[\x09-\x7e]\x00[\x09-\x7e]\x00", re.DOTALL), "utf-16le"),
    (re.compile(rb"\x00[\x09-\x7e]\x00[\x09-\x7e]", re.DOTALL), "utf-16be"),
)
_UTF_8 = "utf-8"
_SURE = (
    0.1  # the detector's confidence in a right guess is mostly above this, in a wrong one below
)
# Python's names of encodings of the standard that are not among its labels
_SAME = {
    "cp932": "shift_jis",
    "cp949": "euc-kr",
    "cp874": "windows-874",
    "utf-32-le": "utf-32le",
    "utf-32-be": "utf-32be",
    "utf-32": "utf-32le",
}
# What of Python's codecs is not an encoding of text, or can hide markup from a check of the bytes.
_NO_TEXT = (
    "unicode-escape",
    "idna",
    "punycode",
    "undefined",
    "mbcs",
    "oem",
    "utf-7",
    "raw-unicode-escape",
)
# Characters that Python's codecs map otherwise than the standard: those of JIS X 0208 as Windows has them,
# those of GB 18030 that had no code point of their own when its first edition was written.
_JIS = str.maketrans("〜‖−¢£¬", "～∥－￠￡￢")
_GB = str.maketrans(
    "\ue5e5\ue78d\ue78e\ue78f\ue790\ue791\ue792\ue793\ue794\ue795\ue796\ue7c7"
    "\ue81e\ue826\ue82b\ue82c\ue832\ue843\ue854\ue864",
    "\u3000\ufe10\ufe12\ufe11\ufe13\ufe14\ufe15\ufe16\ufe17\ufe18\ufe19\u1e3f"
    "\u9fb4\u9fb5\u9fb6\u9fb7\u9fb8\u9fb9\u9fba\u9fbb",
)
_MAPPED = {
    "euc-jp": _JIS,
    "iso-2022-jp": _JIS,
    "gbk": _GB,
    "gb18030": _GB,
    "koi8-u": str.maketrans("╝╬", "ўЎ"),
}


OpenFile = Callable[[], BinaryIO]


class TextEncoding(Struct, frozen=True):
    """The encoding of one file."""

    name: str  # as the Encoding Standard has it
    declared: str = ""  # the name that the file itself declares, if another
    guessed: bool = False  # whether only the bytes suggest it


@lru_cache(maxsize=64)
def encoding_named(label: str) -> str:
    """The name of the encoding that a label means; empty if none does.

    Labels are those of the Encoding Standard, section 4.2, and the names of Python's other encodings of text.
    """
    import webencodings  # needed for few files

    found = webencodings.lookup(label)
    if found and found.name != "replacement":
        return str(found.name)
    try:
        codec = codecs.lookup(label)
    except LookupError:
        return ""
    name = codec.name.replace("_", "-").lower()
    if name in _NO_TEXT or not getattr(codec, "_is_text_encoding", False):
        return ""
    return _SAME.get(name, name)


def encoding_of(start: bytes, stated: str = "") -> TextEncoding | None:
    """The encoding of a file by its first bytes; None for UTF-8 and if nothing shows any.

    A byte order mark comes first, then what a server said with it (`stated`), then what the file declares (XML 1.0
    appendix F; HTML standard section 13.2.3.2). A declaration that cannot be true, since it is itself readable as
    ASCII, does not count.
    """
    mark = next((name for mark, name in _MARKS if start.startswith(mark)), "")
    mark = mark or next((name for form, name in _WITHOUT_MARK if form.match(start)), "")
    if mark:
        return TextEncoding(mark)
    if start.startswith(codecs.BOM_UTF8):
        return None
    found = _DECLARATION.match(start) or _declared_in_html(start)
    label = stated if encoding_named(stated) else ""
    if not label and found:
        label = found[1].decode("ascii")
    if not label:
        return None
    name = encoding_named(label)
    if name.startswith(("utf-16", "utf-32")) or not name:
        return TextEncoding(_UTF_8, declared=label)
    if name == _UTF_8 or label.lower() in ("us-ascii", "ascii"):
        return None
    return TextEncoding(name)


def _declared_in_html(start: bytes) -> re.Match[bytes] | None:
    """What the head of an HTML page declares (HTML standard section 13.2.3.2)."""
    if _HTML.match(start[:_PRESCAN]):
        return _META.search(start[:_PRESCAN])
    return None


def true_encoding(open_file: OpenFile, encoding: TextEncoding) -> TextEncoding:
    """The encoding that a file is really in, if its declaration is plainly wrong.

    A file that is valid UTF-8, and not only ASCII, is UTF-8: text in another encoding is not so by chance.
    """
    if encoding.name.startswith("utf-") or encoding.declared:
        return encoding
    if is_utf8(open_file) == "beyond ascii":
        return TextEncoding(_UTF_8, declared=encoding.name)
    return encoding


def is_utf8(open_file: OpenFile) -> str:
    """`ascii` or `beyond ascii` for a file that is UTF-8 throughout; empty for any other."""
    decoder, found = codecs.getincrementaldecoder(_UTF_8)(), "ascii"
    with open_file() as stream:
        try:
            while block := stream.read(_BLOCK):
                if not block.isascii():
                    found = "beyond ascii"
                decoder.decode(block)
            decoder.decode(b"", True)
        except UnicodeDecodeError:
            return ""
    return found


def guessed_encoding(open_file: OpenFile) -> TextEncoding | None:
    """The encoding of a text without a declaration that is not UTF-8, by its letters; None if it is UTF-8.

    Among the encodings of the standard. Windows-1252 if nothing fits better: every byte has a meaning in it.
    """
    if is_utf8(open_file):
        return None
    if _is_mostly_utf8(open_file):
        return TextEncoding(_UTF_8, guessed=True)
    from chardet import EncodingEra, detect  # needed for few files

    with open_file() as stream:
        lines = [line for line in stream.readlines(_BLOCK * 8) if not line.isascii()]
    found = detect(b"".join(lines), encoding_era=EncodingEra.MODERN_WEB)
    name = encoding_named(found["encoding"] or "")
    if not name or found["confidence"] < _SURE or not _decodes(open_file, name):
        name = "windows-1252"
    return TextEncoding(name, guessed=True)


class PageText(Struct, frozen=True):
    """The text of an HTML page."""

    text: str
    encoding: TextEncoding | None = None  # None for UTF-8
    wrong_lines: tuple[int, ...] = ()  # those with bytes that mean nothing, which became U+FFFD


def page_text(data: bytes, of_dialect: str = "") -> PageText:
    """An HTML page that is UTF-8, as most are, or does not declare its encoding where that is looked for.

    Else a declaration further below counts, then the encoding that a dialect names, then the letters.
    """
    data = without_declarations(data)
    try:
        return PageText(data.decode())
    except UnicodeDecodeError:
        pass
    late = _META.search(data[:_LATE])
    label = late[1].decode("ascii") if late else of_dialect
    name = encoding_named(label)
    if name and name != _UTF_8:
        encoding = TextEncoding(name)
    else:
        encoding = guessed_encoding(lambda: io.BytesIO(data)) or TextEncoding(_UTF_8)
    wrong: list[int] = []
    stream = utf8_stream(
        lambda: io.BytesIO(data), encoding, "", lambda line, _bytes: wrong.append(line)
    )
    return PageText(stream.read().decode(), encoding, tuple(wrong))


def _is_mostly_utf8(open_file: OpenFile) -> bool:
    """Whether more characters are right in UTF-8 than bytes are wrong: a file of several origins."""
    right = wrong = 0
    with open_file() as stream:
        for line in stream:
            if not line.isascii():
                text = line.decode(_UTF_8, "surrogateescape")
                wrong += sum("\udc80" <= letter <= "\udcff" for letter in text)
                right += sum(letter > "\x7f" for letter in text)
    return right - wrong > wrong


def mended_from(open_file: OpenFile, stated: TextEncoding | None) -> TextEncoding | None:
    """The encoding from which a whole file is converted when it is mended; None to mend it byte by byte.

    `stated` is what the file itself shows (`Head.encoding`).
    """
    if stated and stated.name != _UTF_8:
        return stated
    guessed = guessed_encoding(open_file)
    if guessed and guessed.name not in (_UTF_8, "windows-1252"):
        return guessed
    return None


def _decodes(open_file: OpenFile, name: str) -> bool:
    decoder = _Decoder(name)
    with open_file() as stream:
        try:
            while block := stream.read(_BLOCK):
                decoder.decode(block)
            decoder.decode(b"", True)
        except UnicodeDecodeError:
            return False
    return True


WrongBytes = Callable[[int, bytes], None]  # takes the line and the bytes


def utf8_stream(
    open_file: OpenFile, encoding: TextEncoding, label: str, wrong: WrongBytes | None = None
) -> BinaryIO:
    """A file as UTF-8 without a byte order mark; an XML declaration says so too.

    Lines keep their numbers. Bytes that are not valid in the encoding are passed to `wrong` and become
    U+FFFD; without `wrong`, reading them raises BurrowError with the line in `label`.
    """
    return cast(BinaryIO, _Utf8Stream(open_file(), encoding.name, label, wrong))


class _Decoder:
    """The incremental decoder of an encoding."""

    def __init__(self, name: str) -> None:
        import webencodings

        known = webencodings.lookup(name)
        if known:
            codec = known.codec_info
        else:
            codec = codecs.lookup(name)
        if name == "gbk":
            codec = codecs.lookup("gb18030")  # section 10.1.1: its decoder is that of gb18030
        self.further = _Further(name)
        codecs.register_error(f"newburrow-{name}", self.further)
        self._decoder = codec.incrementaldecoder(f"newburrow-{name}")
        self._mapped = _MAPPED.get(name, {})

    def decode(self, data: bytes, final: bool = False) -> str:
        """The text of the next bytes. Raises UnicodeDecodeError."""
        text = self._decoder.decode(data, final)
        if self._mapped:
            return text.translate(self._mapped)
        return text


class _Further:
    """The characters that the standard has in an encoding and Python's codec does not."""

    def __init__(self, name: str) -> None:
        self.name = name
        self.wrong: Callable[[bytes, int, int], None] | None = None

    def __call__(self, error: UnicodeError) -> tuple[str, int]:
        assert isinstance(error, UnicodeDecodeError)
        data, at = error.object, error.start
        if self.name.startswith("windows-") and 0x80 <= data[at] < 0xA0:
            return chr(data[at]), at + 1
        if self.name in ("gbk", "gb18030") and data[at] == 0x80:
            return "€", at + 1
        if self.name == "windows-1255" and data[at] == 0xCA:
            return "\u05ba", at + 1
        pair = data[at : at + 2]
        try:
            if self.name == "euc-jp" and len(pair) == 2 and min(pair) > 0xA0:
                return _shift_jis(pair).decode("cp932"), at + 2
            if self.name == "big5" and len(pair) == 2:
                return pair.decode("cp950"), at + 2
        except UnicodeDecodeError:
            pass
        if self.wrong is None:
            raise error
        self.wrong(data, at, error.end)
        return "\ufffd", error.end


def _shift_jis(pair: bytes) -> bytes:
    """Two bytes of EUC-JP for a character of JIS X 0208 and its further rows, as Shift_JIS has it."""
    row, cell = pair[0] - 0xA1, pair[1] - 0xA1
    lead = row // 2 + 0x81
    if lead > 0x9F:
        lead += 0x40
    if row % 2:
        trail = cell + 0x9F
    else:
        trail = cell + 0x40
        if trail > 0x7E:
            trail += 1
    return bytes((lead, trail))


class _Utf8Stream(io.RawIOBase):
    """A stream of UTF-8 that is decoded from another encoding while it is read."""

    def __init__(
        self, inner: BinaryIO, name: str, label: str, wrong: WrongBytes | None
    ) -> None:
        self._inner, self._name, self._label = inner, name, label
        self._lines = 1
        self._decoder = _Decoder(name)
        if wrong:
            self._decoder.further.wrong = lambda data, at, end: wrong(
                self._lines + data.count(b"\n", 0, at), data[at:end]
            )
        self._ready, self._begun, self._ended = b"", False, False

    def readable(self) -> bool:
        return True

    def readinto(self, buffer: object) -> int:
        view = memoryview(cast(bytearray, buffer))
        while not self._ready and not self._ended:
            self._ready = self._next()
        data, self._ready = self._ready[: len(view)], self._ready[len(view) :]
        view[: len(data)] = data
        return len(data)

    def _next(self) -> bytes:
        block = self._inner.read(_BLOCK)
        self._ended = not block
        try:
            text = self._decoder.decode(block, self._ended)
        except UnicodeDecodeError as error:
            line = self._lines + error.object.count(b"\n", 0, error.start)
            wrong = " ".join(f"{byte:02X}" for byte in error.object[error.start : error.end])
            raise refusal(
                "not-in-encoding",
                f"The file is in {self._name}, and the bytes {wrong} mean nothing there.",
                "Export the site again, if possible in UTF-8, or mend the file with "
                "`newburrow mend EXPORT -o FIXED`.",
                Where(self._label, line),
            ) from None
        if not self._begun and text:
            self._begun = True
            text = _IN_TEXT.sub(
                r"\1\2UTF-8\2", text.removeprefix("\N{ZERO WIDTH NO-BREAK SPACE}")
            )
        self._lines += text.count("\n")
        return text.encode("utf-8", "surrogatepass")

    def close(self) -> None:
        if not self.closed:
            self._inner.close()
        super().close()
