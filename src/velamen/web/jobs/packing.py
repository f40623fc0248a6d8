"""Documents of revisions packed: what differs from a whole one before, or whole again where that is too much."""

from __future__ import annotations

import zstandard

LEVEL = 3  # higher ones take longer than an edit may, for a tenth less
TOO_MUCH = 0.25  # of a whole document's packed size
MOST = 100_000_000  # bytes of one document


def whole(document: bytes) -> bytes:
    """A document packed by itself."""
    return zstandard.ZstdCompressor(level=LEVEL).compress(document)


def difference(document: bytes, base: bytes, base_size: int) -> bytes | None:
    """A document packed as what differs from another; None where too much does.

    base_size: bytes that the other takes, packed by itself.
    """
    window = min(max((len(document) + len(base)).bit_length(), 17), 27)  # all of both is looked back to
    how = zstandard.ZstdCompressionParameters.from_level(LEVEL, window_log=window, enable_ldm=True)
    packed = zstandard.ZstdCompressor(dict_data=_like(base), compression_params=how).compress(document)
    return packed if len(packed) < TOO_MUCH * base_size else None


def unpacked(packed: bytes, base: bytes | None = None) -> bytes:
    """The document itself. base: the one it was packed against, None where by itself."""
    reader = zstandard.ZstdDecompressor(dict_data=_like(base) if base is not None else None)
    return reader.decompress(packed, max_output_size=MOST)


def _like(base: bytes) -> zstandard.ZstdCompressionDict:
    return zstandard.ZstdCompressionDict(base, dict_type=zstandard.DICT_TYPE_RAWCONTENT)
