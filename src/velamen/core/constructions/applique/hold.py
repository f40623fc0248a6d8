"""What shows where the cloth goes and what holds it: placement line, tack-down, second tack-down."""

from __future__ import annotations

from velamen.core.constructions.applique.cover import starts_apart
from velamen.core.constructions.base import Work
from velamen.core.constructions.laid_cloth import PLACEMENT, SECOND_TACK, TACK
from velamen.core.geometry.region import Area
from velamen.core.stitching.border import edge_borders, offset_outlines, run_borders, zigzag_borders
from velamen.core.stitching.line import line_stitch
from velamen.core.timeline.passes import Pass
from velamen.core.values.value import Values, choice, number

SECOND_WIDTH, SECOND_SPACING = 1.5, 2.0  # mm of a second tack-down's zigzag
SECOND_LENGTH, SECOND_INSET = 2.5, 0.5  # mm of a second tack-down's run
LINES = {"run": "run", "double_run": "double"}


def placement(cloth: Area, work: Work, values: Values) -> list[Pass]:
    """The line that shows where the cloth goes, on its edge."""
    strands = run_borders(cloth, PLACEMENT, number(values, "placement_length"), start=starts_apart(cloth)[2])
    return [Pass(PLACEMENT, "Placement, run", work.thread, work.piece, tuple(strands))]


def tack(cloth: Area, work: Work, values: Values) -> list[Pass]:
    """The tack-down, wholly on the cloth; scissors follow its outer edge."""
    kind, start = choice(values, "tack_kind"), starts_apart(cloth)[1]
    width, spacing = number(values, "tack_width"), number(values, "tack_spacing")
    if kind in LINES:
        lines = offset_outlines(cloth, number(values, "tack_inset"))
        strands = line_stitch(lines, True, LINES[kind], TACK, number(values, "tack_length"), start=start)
        label = f"Tack-down, {kind.replace('_', ' ')}"
    elif kind == "estitch":
        strands = edge_borders(cloth, TACK, "estitch", 0.0, width, spacing, "auto", start)
        label = f"Tack-down, E-stitch {width:.1f}"
    else:
        strands = zigzag_borders(cloth, TACK, 0.0, width, spacing, start=start)
        label = f"Tack-down, zigzag {width:.1f}"
    return [Pass(TACK, label, work.thread, work.piece, tuple(strands))]


def second_tack(cloth: Area, work: Work, values: Values) -> list[Pass]:
    """A second tack-down over the trimmed edge."""
    kind = choice(values, "second_tack")
    if kind == "zigzag":
        strands = zigzag_borders(cloth, SECOND_TACK, SECOND_WIDTH / 3, 2 * SECOND_WIDTH / 3, SECOND_SPACING)
    else:
        strands = run_borders(cloth, SECOND_TACK, SECOND_LENGTH, SECOND_INSET)
    return [Pass(SECOND_TACK, f"Second tack-down, {kind}", work.thread, work.piece, tuple(strands))]
