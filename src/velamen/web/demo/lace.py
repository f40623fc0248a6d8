"""Demo jobs of free-standing lace: the coral fan ornament and the scallop edging."""

from __future__ import annotations

from collections.abc import Mapping
from importlib.resources import files

from velamen.core.artwork.svg import read_svg
from velamen.core.edits.shapes.bring_in import bring_in
from velamen.core.edits.stack.pieces import free_number
from velamen.core.job.document import Job, Piece, brief_for, change
from velamen.core.setting import Plain

FAN, CORAL, FOAM_WHITE = "Coral fan ornament", "140", "103"
FAN_SEWN: Mapping[str, tuple[str, Mapping[str, Plain]]] = {
    "Left lobe": ("motif_fill", {"motif": "leaf", "motif_size": 6.5, "motif_angle": -44.0}),
    "Middle lobe": ("motif_fill", {"motif": "ring", "motif_size": 5.0}),
    "Right lobe": ("motif_fill", {"motif": "leaf", "motif_size": 6.5, "motif_angle": 44.0}),
    "Left rib": ("motif_column", {"motif": "lozenge", "motif_gap": -0.6}),
    "Right rib": ("motif_column", {"motif": "lozenge", "motif_gap": -0.6}),
    "Stem": ("motif_fill", {"motif": "shell", "motif_size": 4.0}),
}
"""Construction and own values of each shape of the fan."""
BORDER = {"border_width": 2.4}


def fan_document() -> Job:
    """Three kinds of motif fills, motif columns as ribs, and a border round each."""
    artwork = read_svg(files("velamen.web.demo").joinpath("coral-fan.svg").read_bytes())
    job = bring_in(Job(name=FAN, brief=change(brief_for("none", "h130x180"), thread=CORAL)), artwork, "motif_fill")
    pieces = []
    for piece in job.pieces:
        construct, own = FAN_SEWN[piece.name]
        pieces.append(change(piece, construct=construct, own=dict(own), thread=CORAL))
    job = change(job, pieces=pieces)
    for piece in pieces:
        if piece.construct == "motif_column":
            continue  # the borders of the lobes cover its sides
        border = Piece(
            f"p{free_number(job)}", f"{piece.name} border", piece.shape, "satin_border", piece.cloth, CORAL
        )
        job = change(job, pieces=[*job.pieces, border])
    return job
