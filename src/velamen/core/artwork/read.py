"""Artwork out of any file that is read, told apart by what is in it: SVG or DXF, or a picture to be traced."""

from __future__ import annotations

from velamen.core.artwork.dxf import is_dxf, read_dxf, unit_factor
from velamen.core.artwork.svg import Artwork, read_svg


def read_artwork(data: bytes, unit: str = "", lines_alone: bool = False) -> Artwork:
    """Closed regions and open lines of an SVG or DXF file.

    unit: of a DXF that does not say its own; lines_alone: whether a file of open lines alone will do.
    """
    if unit:
        unit_factor(unit)
    return read_dxf(data, unit, lines_alone) if is_dxf(data) else read_svg(data, lines_alone)


def is_picture(data: bytes) -> bool:
    """Whether a file is one of the pictures that are read, by its first bytes."""
    return data[:8] == b"\x89PNG\r\n\x1a\n" or data[:3] == b"\xff\xd8\xff" or data[:4] + data[8:12] == b"RIFFWEBP"
