"""What constructions that repeat a motif have in common: which motif, how large, how far apart, how it is sewn."""

from __future__ import annotations

from velamen.core.artwork.motif import Figure, figure_of
from velamen.core.constructions.base import Work
from velamen.core.materials.library import pick
from velamen.core.setting import NONE, Setting
from velamen.core.stitching.motif_thread import Sewing
from velamen.core.stitching.roles import declare
from velamen.core.values.value import Values, choice, number

MOTIF = declare("motif", "motif")

WHICH = (
    Setting("motif", "Motif", "Motif", "The figure that is repeated.", kind="motif", unit="",
            optional=False),
    Setting("motif_second", "In turn with", "Motif", "A second figure, sewn by turns with the first.", kind="motif",
            unit=""),
    Setting("motif_size", "Size", "Motif", "Height of a figure above its base line.", low=1.0, high=80.0),
    Setting("motif_gap", "Gap", "Motif", "Between neighbours in a row; they overlap where it is negative.", low=-20.0,
            high=60.0),
)  # fmt: skip
ROW_GAP = Setting("motif_row_gap", "Row gap", "Motif", "Between rows; they overlap where it is negative.", low=-20.0,
                  high=60.0)  # fmt: skip
SEWN = (
    Setting("motif_length", "Length", "Stitching", "Of a stitch, at most; corners are always hit.", low=1.0,
            high=5.0),
    Setting("motif_times", "Times", "Stitching", "How often each figure is gone along.", unit="", low=1, high=3,
            step=1),
)  # fmt: skip
GROWN = Setting("motif_grown", "Grows to", "Motif", "Size at the far side or end, of that at the near one.", unit="%",
                low=20, high=500, step=5)  # fmt: skip


def figures(work: Work, values: Values) -> tuple[Figure, ...]:
    """The figures that are sewn in turn."""
    return tuple(figure_of(pick(work.motifs, key, "motif")) for key in _keys(values))


def _keys(values: Values) -> list[str]:
    second = choice(values, "motif_second")
    return [choice(values, "motif"), *([] if second == NONE else [second])]


def sewing(values: Values) -> Sewing:
    """How the figures are sewn."""
    return Sewing(MOTIF, number(values, "motif_length"), int(number(values, "motif_times")))


def told(work: Work, values: Values) -> str:
    """The motifs of a pass in words."""
    return (
        " and ".join(work.motifs[key].name.lower() for key in _keys(values)) + f" {number(values, 'motif_size'):.1f}"
    )
