"""Findings about live text: letters set smaller than their typeface's strokes bear."""

from __future__ import annotations

import numpy as np

from velamen.core.artwork.typeface import at_hand, name_of, smallest_height
from velamen.core.job.document import Job
from velamen.core.job.shape import Text
from velamen.core.proofs.finding import Finding


def letter_findings(job: Job) -> list[Finding]:
    """A finding for every live text whose strokes fall under a millimetre (handbook, section 4).

    Its height counts as it lies now, sized and squeezed to a width where it was.
    """
    found = []
    for text in job.makers:
        if not isinstance(text, Text) or text.style != "lines" or not at_hand(text.typeface):
            continue
        members = [shape for shape in job.shapes if shape.maker == text.id]
        pieces = [piece for piece in job.pieces if any(piece.shape == shape.id for shape in members)]
        if not pieces:
            continue
        least = smallest_height(text.typeface)
        height = text.height * float(np.linalg.svd(np.array(text.matrix[:4]).reshape(2, 2), compute_uv=False).min())
        if height >= least - 0.05:
            continue
        ring = np.asarray(members[0].rings[0])
        x, y = ring.mean(axis=0).round(2).tolist()
        found.append(Finding(
            "lettering_small", "warning", pieces[0].id,
            f"The letters of {text.text.split()[0]!r} are {height:.1f} mm high: strokes of "
            f"{name_of(text.typeface).split(',')[0]} fall under a millimetre below {least:.1f}. "
            "Set them larger, or in a bolder typeface.",
            ((x, y),),
        ))  # fmt: skip
    return found
