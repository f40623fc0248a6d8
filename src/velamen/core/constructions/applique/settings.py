"""Settings of appliqué: how its cloth comes, what holds it and what covers its edge (handbook, section 5)."""

from __future__ import annotations

from velamen.core.geometry.corners import CORNERS
from velamen.core.materials.records import UNDERLAYS
from velamen.core.setting import Setting

COVERS = (
    ("satin", "satin"), ("estitch", "E-stitch"), ("blanket", "blanket"), ("overedge", "overedge"),
    ("raw", "raw edge, bean"), ("none", "none"),
)  # fmt: skip
TACKS = (
    ("zigzag", "zigzag"), ("run", "run"), ("double_run", "double run"), ("estitch", "E-stitch"), ("none", "none"),
)  # fmt: skip
SECOND = (("none", "none"), ("zigzag", "zigzag"), ("run", "run"))
CLOSE, BITES = ("satin", "overedge"), ("estitch", "blanket")

CLOTH = (
    Setting("precut", "Pre-cut cloth", "Cloth",
            "The cloth comes cut to shape, from a cutter or a die: nothing is trimmed in the hoop.",
            kind="switch", unit="", early=True),
    Setting("trim_when", "Trimmed", "Cloth", "At a stop, or once everything is sewn.", kind="choice", unit="",
            choices=(("now", "in the hoop"), ("after", "after finishing")), needs=("precut", "False"), early=True),
    Setting("fusible", "Fusible web", "Cloth", "Web on the back of the cloth; it is cut from the back, mirrored.",
            kind="switch", unit="", early=True),
    Setting("shadow", "Shadow", "Cloth", "Its decoration is sewn first, the sheer cloth laid over it.",
            kind="switch", unit="", early=True),
    Setting("padding", "Foam under it", "Cloth",
            "Foam laid under the cloth and cut with it, for a raised piece.", kind="foam", unit="", early=True),
    Setting("run_under", "Runs on under", "Cloth",
            "How far the cloth runs on under cloth laid later that covers or meets its edge.", low=0.0, high=10.0,
            early=True),
    Setting("cut_back", "Trimmed to that", "Cloth",
            "Cloth drawn farther under later cloth is cut away, as long as it stays one piece.", kind="switch",
            unit="", early=True),
)  # fmt: skip
COVER = (
    Setting("cover_kind", "Stitch", "Cover", "What covers the cut edge.", kind="choice", unit="", choices=COVERS,
            early=True),
    Setting("cover_width", "Width", "Cover", "Width of the finished cover over the cloth edge.", low=1.0, high=10.0,
            role="cover", needs=("cover_kind", "|".join(CLOSE))),
    Setting("cover_share", "Share outside", "Cover", "How much of the width lies off the cloth.", unit="%", low=10,
            high=90, step=1, role="cover", needs=("cover_kind", "|".join(CLOSE))),
    Setting("cover_spacing", "Spacing", "Cover", "Distance between neighbouring penetrations on one rail.", low=0.15,
            high=3.0, step=0.01, role="cover", measure="satin_spacing", needs=("cover_kind", "satin")),
    Setting("cover_pull", "Pull, per side", "Cover",
            "Added on either side, because the stitches draw the fabric in.", low=0.0, high=1.0, step=0.01,
            role="cover", measure="pull", needs=("cover_kind", "|".join(CLOSE))),
    Setting("cover_underlay", "Underlay", "Cover", "Sewn first, under the satin.", kind="choice", unit="",
            choices=UNDERLAYS, role="cover", measure="underlay", needs=("cover_kind", "satin")),
    Setting("cover_corner", "Corners", "Cover", "Turned round, mitred on the diagonal, or one side lapped over the "
            "other.", kind="choice", unit="", choices=CORNERS, measure="corner", needs=("cover_kind", "satin")),
    Setting("cover_bite", "Bite", "Cover", "From the edge onto the cloth.", low=0.5, high=8.0,
            needs=("cover_kind", "|".join(BITES))),
    Setting("cover_step", "Step", "Cover", "Between bites.", low=1.0, high=8.0, measure="bite_step",
            needs=("cover_kind", "|".join(BITES))),
    Setting("cover_slant", "Spacing", "Cover", "Between bites of the overedge.", low=0.3, high=2.0, step=0.05,
            measure="overedge_spacing", needs=("cover_kind", "overedge")),
    Setting("cover_inset", "Inset", "Cover", "How far inside the raw edge the bean lies.", low=0.5, high=6.0,
            needs=("cover_kind", "raw")),
    Setting("cover_length", "Length", "Cover", "Of a bean stitch.", low=1.0, high=5.0, needs=("cover_kind", "raw")),
)  # fmt: skip
HOLD = (
    Setting("tack_kind", "Stitch", "Tack-down", "What holds the cloth before it is trimmed and covered.",
            kind="choice", unit="", choices=TACKS, early=True),
    Setting("tack_width", "Width", "Tack-down", "Of the zigzag, or of a bite; its outer edge is the cloth edge.",
            low=0.6, high=4.0, needs=("tack_kind", "zigzag|estitch"), role="tack"),
    Setting("tack_spacing", "Spacing", "Tack-down", "Distance between neighbouring penetrations on one rail.",
            low=0.5, high=4.0, needs=("tack_kind", "zigzag|estitch"), role="tack"),
    Setting("tack_length", "Length", "Tack-down", "Stitch length of the run.", low=1.0, high=6.0,
            needs=("tack_kind", "run|double_run"), role="tack"),
    Setting("tack_inset", "Inset", "Tack-down", "How far inside the cloth edge the run lies.", low=0.2, high=6.0,
            needs=("tack_kind", "run|double_run"), role="tack"),
    Setting("second_tack", "Second", "Tack-down", "Once more after trimming, with a stop to tidy frays and threads.",
            kind="choice", unit="", choices=SECOND, early=True),
)  # fmt: skip
PLACEMENT = (
    Setting("placement_line", "Line", "Placement", "Sewn first: it shows where the cloth goes.", kind="switch",
            unit="", early=True),
    Setting("placement_length", "Length", "Placement",
            "Stitch length of the line that shows where the cloth goes.", low=1.0, high=4.0,
            needs=("placement_line", "True")),
)  # fmt: skip

SETTINGS = CLOTH + COVER + HOLD + PLACEMENT
