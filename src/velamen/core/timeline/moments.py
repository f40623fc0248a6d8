"""Moments: what lies there when each operation of a timeline has its turn."""

from __future__ import annotations

from collections.abc import Sequence

from velamen.core.timeline.effects import after
from velamen.core.timeline.layers import Layer
from velamen.core.timeline.operation import Operation
from velamen.core.timeline.stops import Step, together

END = ""


def layers_before(operations: Sequence[Operation]) -> dict[str, tuple[Layer, ...]]:
    """For every operation by its key the layers lying there when its turn comes, lowest first; under END the last.

    Hand operations done at one stop have the same layers before them, whichever of them comes first.
    """
    found: dict[str, tuple[Layer, ...]] = {}
    layers: tuple[Layer, ...] = ()
    for step in together(operations):
        for one in (step,) if isinstance(step, Operation) else step.operations:
            found[one.key] = layers
        layers = _after(layers, step)
    return {**found, END: layers}


def moment_of(operations: Sequence[Operation], own: Sequence[Operation], role: str) -> str:
    """The key under which to ask for the layers beneath what a piece sews under a role of its settings.

    Where it sews nothing so, it is as if it did once all of its own operations but the late ones are done.
    """
    asked = next((one for one in own if one.asked_as == role), None)
    if asked is not None:
        return asked.key
    mine = {one.key for one in own if not one.late}
    last = max((nth for nth, one in enumerate(operations) if one.key in mine), default=len(operations))
    return operations[last + 1].key if last + 1 < len(operations) else END


def _after(layers: tuple[Layer, ...], step: Step) -> tuple[Layer, ...]:
    if not step.effects:
        return layers
    changed = list(layers)
    for effect in step.effects:
        changed = after(changed, effect)
    return tuple(changed)
