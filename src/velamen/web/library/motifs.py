"""Motifs of a shop, kept from shapes and lines of its jobs."""

from __future__ import annotations

import numpy as np

from velamen.core.artwork.motif import path_of
from velamen.core.errors import BadInput
from velamen.core.job.document import Job, Piece
from velamen.core.materials.records import MOTIFS
from velamen.web.accounts.models import Shop
from velamen.web.library.rows import free_key, save_row, shop_library


def keep(shop: Shop, document: Job, piece: Piece, typed: str) -> str:
    """Keeps the shape of a piece as a motif; its name. Raises BadInput where it is none, or has no name."""
    name = " ".join(typed.split())[:60]
    shape = next((one for one in document.shapes if one.id == piece.shape), None)
    if shape is None:
        raise BadInput(f"{piece.name} has no shape of its own that could be a motif.")
    if not name:
        raise BadInput("Give the motif a name.")
    path = path_of([np.array(ring) for ring in shape.rings], not shape.open, piece.name)
    save_row(shop, MOTIFS, free_key(shop_library(shop), MOTIFS, name), {"name": name, "path": path})
    return name
