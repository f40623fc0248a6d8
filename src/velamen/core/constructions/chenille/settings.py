"""Settings of chenille: its layers, and the channels sewn through them (handbook, section 11)."""

from __future__ import annotations

from collections.abc import Mapping

from numpy import radians

from velamen.core.setting import Plain, Setting
from velamen.core.stitching.channels import Asked

MOST_LAYERS = 6
LAYERS = range(1, MOST_LAYERS + 1)


def _from(nth: int) -> str:
    """Numbers of layers among which there is an nth."""
    return "|".join(f"{count}|{count}.0" for count in range(nth, MOST_LAYERS + 1))


SETTINGS = (
    Setting("chenille_layers", "Layers", "Layers", "Laid over the backing, and slit.", unit="", low=2,
            high=MOST_LAYERS, step=1, early=True),
    *(Setting(f"chenille_cloth_{nth}", f"Cloth {nth}", "Layers", "From below." if nth == 1 else "One more.",
              kind="cloth", unit="", early=True, needs=("chenille_layers", _from(nth))) for nth in LAYERS),
    Setting("channel_spacing", "Spacing", "Channels", "From channel to channel: at least the scissors plus 1.",
            low=4.0, high=14.0),
    Setting("channel_angle", "Angle", "Channels", "Slanting to the weave, so that edges do not ravel.", unit="°",
            low=-180, high=180, step=1),
    Setting("channel_mirrored", "Mirrored", "Channels", "At that angle the other way, for the other one of a pair.",
            kind="switch", unit=""),
    Setting("channel_length", "Length", "Channels", "Of a stitch.", low=1.5, high=4.0),
    Setting("channel_scissors", "Scissors", "Channels", "How wide a channel they need.", low=2.0, high=12.0),
)  # fmt: skip


def asked(known: Mapping[str, Plain]) -> Asked:
    """How channels are to be sewn by the values of a piece."""
    spacing, angle, length, scissors = (float(known[f"channel_{key}"])
                                        for key in ("spacing", "angle", "length", "scissors"))  # fmt: skip
    return Asked(spacing, float(radians(-angle if known["channel_mirrored"] else angle)), length, scissors)
