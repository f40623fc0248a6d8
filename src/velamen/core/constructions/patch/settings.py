"""Settings of a patch: how it is made, its ground, and the border round its edge (handbook, section 8)."""

from __future__ import annotations

from dataclasses import replace

from velamen.core.constructions.edge import satin_settings
from velamen.core.constructions.framing import OUTLINES, ROUND
from velamen.core.geometry.corners import CORNERS
from velamen.core.setting import Setting

WAYS = (
    ("film", "pre-cut cloth on film"), ("trimmed", "cloth trimmed in the hoop"), ("sheet", "a whole sheet of cloth"),
    ("direct", "straight onto the item"),
)  # fmt: skip
EDGES = (("satin", "satin"), ("overedge", "overedge"), ("none", "none"))
GROUNDS = (("none", "none"), ("fill", "fill"), ("cloth", "cloth"))
STARTS = (("calm", "on the calmest stretch"), ("bottom", "at the bottom centre"))
SATIN, SEWN = ("patch_edge", "satin"), ("patch_edge", "satin|overedge")

PATCH = (
    Setting("patch_way", "Made", "Patch", "Pre-cut cloth on film that is torn off, cloth trimmed in the hoop, a "
            "whole sheet cut free at the end, or sewn onto the item itself.", kind="choice", unit="", choices=WAYS,
            early=True),
    Setting("patch_ground", "Ground", "Patch", "A fill under the decoration; straight onto an item also a cloth, or "
            "nothing.", kind="choice", unit="", choices=GROUNDS, early=True),
    Setting("patch_ground_spacing", "Spacing", "Patch", "Between neighbouring rows of the ground.", low=0.3, high=3.0,
            step=0.01, role="ground", measure="fill_spacing", needs=("patch_ground", "fill")),
    Setting("patch_ground_angle", "Angle", "Patch", "Of the rows, clockwise from the horizontal.", unit="°", low=-180,
            high=180, step=1, measure="row_angle", needs=("patch_ground", "fill")),
)  # fmt: skip
OUTLINE = (
    Setting("patch_outline", "Outline", "Outline", "Of its cloth: its shape as it is drawn, a calm line round the "
            "design, or the smallest of these that holds it.", kind="choice", unit="", choices=OUTLINES, early=True),
    Setting("patch_margin", "Margin", "Outline", "From the shapes of the design to the edge of the cloth.", low=0.0,
            high=60.0, early=True, needs=("patch_outline", ROUND)),
    Setting("patch_gap", "Gaps closed", "Outline", "Gaps up to this width are closed; as wide as it takes for one "
            "outline.", low=0.0, high=60.0, early=True, needs=("patch_outline", "calm")),
    Setting("patch_calm", "Calmness", "Outline", "Bumps and notches up to this size are smoothed away.", low=0.0,
            high=20.0, early=True, needs=("patch_outline", "calm")),
)  # fmt: skip
BORDER = (
    Setting("patch_edge", "Stitch", "Border", "What is sewn round the edge, last of all.", kind="choice", unit="",
            choices=EDGES, early=True),
    Setting("patch_width", "Width", "Border", "Of the finished border.", low=2.0, high=7.0, role="border",
            needs=SEWN),
    Setting("patch_share", "Share outside", "Border", "How much of it lies off the cloth.", unit="%", low=0, high=90,
            step=1, role="border", needs=SEWN),
    *(replace(one, needs=SATIN if one.key != "patch_pull" else SEWN) for one in satin_settings("patch", "border")),
    Setting("patch_clearance", "Clearance", "Border", "That its decoration keeps from the border.", low=0.0,
            high=10.0),
    Setting("patch_corner", "Corners", "Border", "Turned round, mitred on the diagonal, or one side lapped over the "
            "other; an overedge goes round them.", kind="choice", unit="", choices=CORNERS, measure="corner",
            needs=SATIN),
    Setting("patch_start", "Begins", "Border", "Where its start and end lie one over the other, unless a place is "
            "given for them.", kind="choice", unit="", choices=STARTS, needs=SEWN),
)  # fmt: skip

SETTINGS = PATCH + OUTLINE + BORDER
