"""Travel: the numbers of sewing from place to place under stitches sewn later."""

from __future__ import annotations

STITCH = 2.5  # mm
CHORD = 0.06  # mm a travel stitch may leave its way
SEWN_ON = 3.0  # mm from one place to the next that are sewn on without a trim (handbook, section 2)
