"""How high threads stand, and how much of the pile stays up under what lies on it."""

from __future__ import annotations

from velamen.core.timeline.layers import TOPPING, UNDER_TOPPING, Layer

THREAD_WIDE, THREAD_HIGH = 0.4, 0.18  # mm of a 40-weight thread lying under tension
SETTLED = 0.8  # of its height by which a pass raises the next: threads sink between each other
PRESSED_BY_CLOTH = 0.5  # of the pile stays up under a cloth laid on it
PRESSED_BY_THREAD = 0.2  # of the pile stays up under stitches
PRESSES_FROM = 0.25  # threads one over another, from which they press all of the pile down: an open ground does


def pile_left(layer: Layer) -> float:
    """Share of the pile beneath a layer that stays up."""
    return UNDER_TOPPING if layer.kind == TOPPING else PRESSED_BY_CLOTH
