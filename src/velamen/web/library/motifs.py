"""Motifs of a shop, kept from shapes and lines of its jobs."""

from __future__ import annotations

import numpy as np

from velamen.core.arrays import Array
from velamen.core.artwork.motif import path_of
from velamen.core.errors import BadInput
from velamen.core.job.document import Job, Piece
from velamen.core.materials.records import MOTIFS
from velamen.web.accounts.models import Shop
from velamen.web.library.rows import free_key, save_row, shop_library

CLOSED = 0.5  # mm between the ends of a line that goes round


def keep(shop: Shop, document: Job, piece: Piece, typed: str) -> str:
    """Keeps the shape of a piece as a motif; its name. Raises BadInput where it is none, or has no name."""
    shape = next((one for one in document.shapes if one.id == piece.shape), None)
    if shape is None:
        raise BadInput(f"{piece.name} has no shape of its own that could be a motif.")
    return _kept(shop, path_of([np.array(ring) for ring in shape.rings], not shape.open, piece.name), typed)


def keep_line(shop: Shop, line: Array, typed: str) -> str:
    """Keeps a line of needle points (n, 2) as a motif; its name. Raises BadInput as above."""
    closed = bool(np.linalg.norm(line[0] - line[-1]) < CLOSED)
    return _kept(shop, path_of([line], closed, "This stretch"), typed)


def _kept(shop: Shop, path: str, typed: str) -> str:
    name = " ".join(typed.split())[:60]
    if not name:
        raise BadInput("Give the motif a name.")
    save_row(shop, MOTIFS, free_key(shop_library(shop), MOTIFS, name), {"name": name, "path": path})
    return name
