"""Passes: what one sewing operation comes to once its values are known."""

from __future__ import annotations

from dataclasses import dataclass

from velamen.core.stitching.strand import Strand


@dataclass(frozen=True)
class Pass:
    """Stitching with one role, tied at both ends of every strand."""

    role: str
    label: str
    thread: str  # key of the thread
    piece: str
    strands: tuple[Strand, ...]  # in sewing order
