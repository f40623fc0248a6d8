"""Demo job of chenille: a crab traced from a scanned drawing, its body and claws slit and fluffy, a face on top.

The spots of the drawing are left out: between them and the face channels would be trapped.
"""

from __future__ import annotations

from collections.abc import Mapping
from importlib.resources import files

import numpy as np

from velamen.core.artwork.tracing.picture import read_picture
from velamen.core.artwork.tracing.trace import TraceSettings, trace
from velamen.core.edits.shapes.drawing import mended
from velamen.core.edits.shapes.import_parts import backdrop_of, take_traced
from velamen.core.edits.stack.shared_stops import shared
from velamen.core.geometry.combine import fill_holes
from velamen.core.job.document import Job, Piece, brief_for, change
from velamen.core.job.regions import region_of
from velamen.core.setting import Plain

CRAB, PICTURE = "Crab cushion", "crab-cushion.png"
WIDTH = 220.0  # mm of the picture
SPECKS, SMOOTHING = 2.0, 0.1
REDS: Mapping[str, Plain] = {
    "chenille_layers": 3, "chenille_cloth_1": "shell_pink", "chenille_cloth_2": "sail_red",
    "chenille_cloth_3": "sail_red",
}  # fmt: skip
NAMES = {
    "sail_red": ("Body", "Claw"), "deck_cream": ("Face",), "night_ink": ("Smile", "Eye"),
    "otter_brown": ("Leg", "Arm", "Spot", "Stalk"),
}  # fmt: skip
ORDER = ("Leg", "Arm", "Stalk", "Claw", "Body", "Face", "Smile", "Eye")
SEWN: Mapping[str, tuple[str, str, str, Mapping[str, Plain]]] = {
    "Leg": ("applique", "otter_brown", "108", {}),
    "Arm": ("applique", "otter_brown", "108", {}),
    "Stalk": ("column", "otter_brown", "108", {}),
    "Claw": ("chenille", "sail_red", "140", REDS),
    "Body": ("chenille", "sail_red", "140", REDS),
    "Face": ("applique", "deck_cream", "104", {}),
    "Smile": ("column", "night_ink", "117", {}),
    "Eye": ("fill", "night_ink", "117", {}),
}
"""Construction, cloth, thread and own values by what a part is."""


def crab_document(picture_key: str) -> Job:
    """The crab traced, by the key under which the shop keeps its picture."""
    picture = read_picture(files("velamen.web.demo").joinpath(PICTURE).read_bytes())
    brief = change(brief_for("felt", "h360x200"), stabilizer="cut_away")
    job = backdrop_of(Job(name=CRAB, brief=brief), picture_key, picture.width, picture.height)
    assert job.backdrop is not None
    job = change(job, backdrop=change(job.backdrop, width=WIDTH, shown=False))
    assert job.backdrop is not None
    job = take_traced(job, trace(picture, TraceSettings(WIDTH, 0, (), None, SPECKS, SMOOTHING)), job.backdrop)
    holed = [one.shape for one in job.pieces if _part(job, one) in ("Body", "Face")]
    job = mended(job, holed, lambda region: [fill_holes(region, np.inf)])
    parts = {one.id: _part(job, one) for one in job.pieces}
    body, face = (next(key for key, part in parts.items() if part == name) for name in ("Body", "Face"))
    on = {"Face": body, "Smile": face}
    sewn = [one for one in job.pieces if parts[one.id] in SEWN]
    pieces = [_made(job, one, parts[one.id], on.get(parts[one.id], "")) for one in sewn]
    pieces.sort(key=lambda one: ORDER.index(parts[one.id]))
    return shared(change(job, pieces=pieces))


def _part(job: Job, piece: Piece) -> str:
    """What a traced region is, by its colour, its size and where it lies."""
    region = region_of(next(one for one in job.shapes if one.id == piece.shape))
    x, y = region.centroid.x, region.centroid.y
    names = NAMES[piece.cloth]
    if piece.cloth == "sail_red":
        return names[0] if abs(x) < 10.0 else names[1]
    if piece.cloth == "night_ink":
        return names[0] if abs(x) < 5.0 else names[1]
    if piece.cloth == "deck_cream":
        return names[0]
    leg, arm, spot, stalk = names
    if abs(x) > 45.0:
        return arm if y < -5.0 else leg
    return stalk if y < -25.0 else spot


def _made(job: Job, piece: Piece, part: str, on: str) -> Piece:
    construct, cloth, thread, own = SEWN[part]
    region = region_of(next(one for one in job.shapes if one.id == piece.shape))
    side = "" if abs(region.centroid.x) < 5.0 else "Left " if region.centroid.x < 0 else "Right "
    name = f"{side}{part.lower() if side else part}"
    mirrored: dict[str, Plain] = {"channel_mirrored": True} if name == "Right claw" else {}
    return change(piece, name=name, construct=construct, cloth=cloth, thread=thread, own={**own, **mirrored}, on=on)
