"""Strokes too narrow or too wide for foam: lettering in another typeface, or the shape in another size."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import shapely

from velamen.core.artwork.typeface import TYPEFACES
from velamen.core.building.build import Build
from velamen.core.constructions.puff.strokes import NARROW, WIDE, span
from velamen.core.constructions.puff.typefaces import judged
from velamen.core.edits.shapes.arranging import moved
from velamen.core.edits.shapes.live_shapes import remade
from velamen.core.errors import BadInput
from velamen.core.job.document import Job, change
from velamen.core.job.shape import Text
from velamen.core.proofs.finding import Finding

SPARE = 0.02  # of its size by which it is made larger or smaller than it must be
OFFERED = 2  # typefaces, the nearest in the width of their strokes


def stroke_width(build: Build, finding: Finding) -> Iterator[tuple[str, Job]]:
    """Another typeface whose strokes all fit, where it is live text; another size, where one fits."""
    found = build.piece(finding.piece)
    if found is None or not found.piece.shape:
        return
    shape = next(one for one in build.job.shapes if one.id == found.piece.shape)
    text = next((one for one in build.job.makers if one.id == shape.maker and isinstance(one, Text)), None)
    if text is not None:
        yield from _other_typefaces(build.job, text)
    members = {shape.id, *(one.id for one in build.job.shapes if text and one.maker == text.id)}
    together = [one for one in build.pieces if one.piece.shape in members]
    spans = [each for one in together if (each := span(one.work.region)) is not None]
    if not spans:
        return
    low, high = min(each[0] for each in spans), max(each[1] for each in spans)
    factor = NARROW / low * (1.0 + SPARE) if low < NARROW else WIDE / high * (1.0 - SPARE)
    if low * factor >= NARROW and high * factor <= WIDE:
        middle = np.array(shapely.unary_union([one.work.region for one in together]).centroid.coords[0])
        percent = abs(100 * (factor - 1.0))
        word = "larger" if factor > 1 else "smaller"
        ids = [one.piece.shape for one in together]
        yield f"Make it {percent:.0f} % {word}", moved(build.job, ids, factor * np.eye(2), middle * (1.0 - factor))


def _other_typefaces(job: Job, text: Text) -> Iterator[tuple[str, Job]]:
    """The text in those typefaces that fit, the nearest in the width of their strokes first."""
    scale = float(np.linalg.norm(np.array(text.matrix[:2])))
    fitting = []
    for key, name in TYPEFACES.items():
        try:
            one = judged(text.text, key, round(text.height * scale, 2))
        except BadInput:
            continue
        if one.fits and key != text.typeface:
            fitting.append(((one.low + one.high) / 2, key, name))
    middle = (NARROW + WIDE) / 2
    for _, key, name in sorted(fitting, key=lambda one: abs(one[0] - middle))[:OFFERED]:
        yield f"Set it in {name.split(',')[0]}", remade(job, change(text, typeface=key))
