"""Artwork out of any file that is read: SVG or DXF, told apart by what is in it."""

from __future__ import annotations

from velamen.core.artwork.dxf import is_dxf, read_dxf
from velamen.core.artwork.svg import Artwork, read_svg


def read_artwork(data: bytes, unit: str = "") -> Artwork:
    """Closed regions of an SVG or DXF file. unit: of a DXF that does not say its own."""
    return read_dxf(data, unit) if is_dxf(data) else read_svg(data)
