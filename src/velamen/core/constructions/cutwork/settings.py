"""Settings of cutwork: bars across its opening, and the satin over the cut edge (handbook, section 12)."""

from __future__ import annotations

from velamen.core.constructions.edge import satin_settings
from velamen.core.geometry.corners import CORNERS
from velamen.core.setting import Setting

SETTINGS = (
    Setting("bar_spacing", "Spacing", "Bars", "From bar to bar, where no number is asked for.", low=3.0, high=30.0),
    Setting("bar_count", "Number", "Bars", "How many lie beside one another; 0 for what the spacing gives, and more "
            "where bars spread apart.", unit="", low=0, high=100, step=1),
    Setting("bar_width", "Width", "Bars", "Of a finished bar.", low=1.0, high=4.0),
    Setting("bar_angle", "Angle", "Bars", "Of the bars; along a guide line drawn on the shape, how far off square to "
            "it.", unit="°", low=-180, high=180, step=1),
    Setting("bar_crossed", "Cross bars", "Bars", "Over bars longer than 25 mm, sewn to each of them.", kind="switch",
            unit=""),
    Setting("cut_width", "Width", "Edge", "Of the satin over the cut edge.", low=2.0, high=8.0, early=True),
    Setting("cut_share", "Share outside", "Edge", "How much of it lies on the cloth.", unit="%", low=30, high=80,
            step=1, early=True),
    *satin_settings("cut", "border"),
    Setting("cut_corner", "Corners", "Edge", "Turned round, mitred on the diagonal, or one side over the other.",
            kind="choice", unit="", choices=CORNERS, measure="corner"),
)  # fmt: skip
