"""The outline of what is laid round a design: as it is drawn, or one round the shapes of the design."""

from __future__ import annotations

from collections.abc import Mapping

from velamen.core.artwork.framed import FORMS, framed
from velamen.core.constructions.base import Work
from velamen.core.geometry.even import joined
from velamen.core.geometry.region import Area
from velamen.core.setting import Plain

OWN = "own"
OUTLINES = ((OWN, "as it is drawn"), *FORMS)
ROUND = "|".join(key for key, _ in FORMS)  # the outlines that have a margin


def ground_of(work: Work, known: Mapping[str, Plain], name: str) -> Area:
    """The shape as it is drawn, or an outline round what lies on it, by the settings `name`_outline and so on."""
    form = str(known[f"{name}_outline"])
    if form == OWN:
        return work.sources[0] if len(work.sources) == 1 else joined(work.sources)
    margin, gap, calm = (float(known[f"{name}_{key}"]) for key in ("margin", "gap", "calm"))
    return framed(work.sources, form, margin, gap, calm)
