"""Content codings of HTTP: whatever was packed comes back, in pieces of any size, and what is missing is named."""

import gzip
import io
import unittest
import zlib
from collections.abc import Callable

import brotli
from hypothesis import given
from hypothesis import strategies as st

from newburrow.intake.coded_stream import CodedStream


def _raw(data: bytes) -> bytes:
    packer = zlib.compressobj(6, zlib.DEFLATED, -15)
    return packer.compress(data) + packer.flush()


_PACK: tuple[tuple[str, Callable[[bytes], bytes]], ...] = (
    ("gzip", gzip.compress),
    ("gzip", lambda data: gzip.compress(data[:9]) + gzip.compress(data[9:])),
    ("deflate", zlib.compress),
    ("deflate", _raw),
    ("br", brotli.compress),
)
_data = st.binary(max_size=200) | st.builds(
    lambda piece, times: piece * times, st.binary(min_size=1, max_size=40), st.integers(1, 9000)
)


class CodedStreams(unittest.TestCase):
    @given(_data, st.sampled_from(_PACK), st.integers(1, 70_000))
    def test_there_and_back(self, data: bytes, packing: tuple, size: int) -> None:  # type: ignore[type-arg]
        coding, pack = packing
        stream = CodedStream(io.BytesIO(pack(data)), coding)
        self.assertEqual(
            b"".join(iter(lambda: stream.read(max(size, len(data) // 50)), b"")), data
        )
        self.assertEqual(stream.damage, "")

    @given(
        _data.filter(lambda data: len(data) > 100), st.sampled_from(_PACK), st.integers(1, 20)
    )
    def test_what_is_cut_off_is_read_so_far(
        self, data: bytes, packing: tuple, cut: int
    ) -> None:  # type: ignore[type-arg]
        coding, pack = packing
        if coding == "deflate":  # too little is left of some to know its wrapping
            cut = 1
        packed = pack(data)
        stream = CodedStream(io.BytesIO(packed[:-cut]), coding)
        found = stream.read()
        if len(packed) > 90:
            self.assertTrue(data.startswith(found))
            self.assertTrue(stream.damage)

    def test_what_is_not_compressed_comes_as_it_is(self) -> None:
        page = b"<!DOCTYPE html><html><p>Words</p></html>" * 900
        for coding in ("gzip", "deflate", "br"):
            for data in (page, page[:20], b""):
                stream = CodedStream(io.BytesIO(data), coding)
                self.assertEqual((stream.read(), stream.damage), (data, ""), coding)
