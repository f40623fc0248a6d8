"""Demo jobs of free-standing lace: the coral fan ornament and the scallop edging."""

from __future__ import annotations

from collections.abc import Mapping
from importlib.resources import files

from velamen.core.artwork.svg import read_svg
from velamen.core.edits.shapes.bring_in import bring_in
from velamen.core.edits.stack.copies import with_copies, with_strip
from velamen.core.edits.stack.pieces import free_number
from velamen.core.job.document import STEP, Job, Piece, Route, brief_for, change
from velamen.core.setting import Plain

FAN, CORAL = "Coral fan ornament", "140"
BORDER: Mapping[str, Plain] = {"border_width": 2.2, "border_spacing": 0.5, "border_underlay": "centre_run"}
FAN_SEWN: Mapping[str, tuple[str, Mapping[str, Plain]]] = {
    "Left lobe": ("motif_fill", {"motif": "leaf", "motif_size": 6.5, "motif_angle": -44.0}),
    "Middle lobe": ("motif_fill", {"motif": "ring", "motif_size": 5.0}),
    "Right lobe": ("motif_fill", {"motif": "leaf", "motif_size": 6.5, "motif_angle": 44.0}),
    "Left rib": ("motif_column", {"motif": "lozenge", "motif_gap": -0.6}),
    "Right rib": ("motif_column", {"motif": "lozenge", "motif_gap": -0.6}),
    "Stem": ("motif_fill", {"motif": "shell", "motif_size": 4.0}),
}
"""Construction and own values of each shape of the fan."""
EDGING, WHITE = "Scallop edging", "103"
EDGING_SEWN: Mapping[str, tuple[str, Mapping[str, Plain]]] = {
    "Band": ("net", {}),
    "Scallop": ("motif_fill", {"motif": "shell", "motif_size": 5.0}),
}
EDGING_OVERLAP, EDGING_LENGTH, EDGING_FULLNESS = 1.5, 2400.0, 1.5
"""mm that repeats overlap, mm that are sewn, and how much is gathered in."""


def fan_document() -> Job:
    """Three kinds of motif fills, motif columns as ribs, and a border round each."""
    job = _bordered(FAN, "coral-fan.svg", "h130x180", CORAL, FAN_SEWN)
    keys = [piece.id for piece in job.pieces]
    under, borders = keys[: len(FAN_SEWN)], keys[len(FAN_SEWN) :]
    return change(job, routes=[Route(under), Route(borders)])


def edging_document() -> Job:
    """One repeat of a strip, two of them in the hoop that overlap."""
    job = _bordered(EDGING, "scallop-edging.svg", "h100x100", WHITE, EDGING_SEWN)
    job = with_copies(job, 2, 1, -EDGING_OVERLAP, STEP)
    return with_strip(job, EDGING_LENGTH, EDGING_FULLNESS)


def _bordered(
    name: str, artwork: str, hoop: str, thread: str, sewn: Mapping[str, tuple[str, Mapping[str, Plain]]]
) -> Job:  # fmt: skip
    """A job of lace in one thread: each shape sewn as asked, and bordered with satin after all of them."""
    drawn = read_svg(files("velamen.web.demo").joinpath(artwork).read_bytes())
    brief = change(brief_for("none", hoop), thread=thread, stabilizer_layers=3)
    job = bring_in(Job(name=name, brief=brief), drawn, "motif_fill")
    pieces = [change(piece, construct=sewn[piece.name][0], own=dict(sewn[piece.name][1]), thread=thread)
              for piece in job.pieces]  # fmt: skip
    job = change(job, pieces=pieces)
    for piece in pieces:
        if piece.construct == "motif_column":
            continue  # the borders beside it cover its sides
        key = f"p{free_number(job)}"
        border = Piece(
            key, f"{piece.name} border", piece.shape, "satin_border", piece.cloth, thread, own=dict(BORDER)
        )
        job = change(job, pieces=[*job.pieces, border])
    return job
