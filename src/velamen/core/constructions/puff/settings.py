"""Settings of puff: of the whole piece, and of single caps."""

from __future__ import annotations

from collections.abc import Mapping

from velamen.core.constructions.foam_steps import foam_settings
from velamen.core.materials.records import UNDERLAYS
from velamen.core.setting import Plain, Setting
from velamen.core.stitching.foam_caps import BEYOND, FORMS

CAPPED = "capped"
ENDS = ((CAPPED, "with caps"), ("flat", "without caps"))

SETTINGS = (
    *foam_settings("puff", "Foam"),
    Setting("puff_spacing", "Spacing", "Puff", "Between neighbouring penetrations on one rail.", low=0.12, high=1.0,
            step=0.01, role="column", measure="satin_spacing"),
    Setting("puff_pull", "Pull, per side", "Puff", "Added on either side, as stitches draw the fabric in.", low=0.0,
            high=1.0, step=0.01, role="column", measure="pull"),
    Setting("puff_ends", "Open ends", "Puff", "A short satin across each open end, sewn first, cuts the foam there.",
            kind="choice", unit="", choices=ENDS),
    Setting("puff_cap", "Caps", "Puff", "Their form: as wide inside as at the end, narrower inwards, or two at the "
            "corners with a perforation between.", kind="choice", unit="", choices=FORMS,
            needs=("puff_ends", CAPPED)),
    Setting("puff_perforate", "Perforation", "Puff", "A run, needle points under 1 mm apart, just inside each foam "
            "edge that satin and caps leave uncut.", kind="switch", unit=""),
    Setting("puff_underlay", "Underlay", "Puff", "Sewn first, under the satin.", kind="choice", unit="",
            choices=UNDERLAYS, role="column", measure="underlay"),
)  # fmt: skip


LOCAL_SETTINGS = (
    Setting("cap_on", "Cap", "Cap", "Whether it is sewn.", kind="switch", unit=""),
    Setting("cap_width", "Width", "Cap", "Along the edge, 0 for all that is uncut.", low=0.0, high=20.0),
    Setting("cap_shift", "Moved", "Cap", "Along the edge, back where negative.", low=-10.0, high=10.0),
    Setting("cap_beyond", "Past the edge", "Cap", "How far it is sewn beyond the end.", low=0.2, high=1.5),
)  # fmt: skip
AS_FOUND: Mapping[str, Plain] = {"cap_on": True, "cap_width": 0.0, "cap_shift": 0.0, "cap_beyond": BEYOND}


LOCALS = {one.key: one for one in LOCAL_SETTINGS}
