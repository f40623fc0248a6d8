"""Stops: hand operations that follow one another and may be done together are one stop."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace as replaced

import numpy as np
import shapely
from msgspec.structs import replace

from velamen.core.geometry.region import Area
from velamen.core.timeline.effects import Effect, Lays, TakesAway
from velamen.core.timeline.layers import Layer
from velamen.core.timeline.operation import HANDS, Operation, Stop

Step = Operation | Stop


def together(operations: Sequence[Operation]) -> list[Step]:
    """Operations in order, what hands do as stops, each of one or several of them."""
    found: list[Step] = []
    group: list[Operation] = []
    for operation in operations:
        if group and not _joins(group[-1], operation):
            found.append(_stop(group))
            group = []
        if operation.does is None:
            found.append(operation)
        else:
            group.append(operation)
    return [*found, _stop(group)] if group else found


def _joins(one: Operation, other: Operation) -> bool:
    """Whether an operation is done at the stop of the one before it."""
    if one.does is None or other.does is None or one.share is None or one.share != other.share:
        return False
    return (one.does.kind, one.does.pattern, one.when) == (other.does.kind, other.does.pattern, other.when)


def _stop(group: Sequence[Operation]) -> Stop:
    first = group[0].does
    assert first is not None
    spared = HANDS[first.kind].spared * (len(group) - 1)
    seconds = sum(one.does.seconds for one in group if one.does is not None) - spared
    return Stop(tuple(group), _effects(group), seconds, first)


def _effects(group: Sequence[Operation]) -> tuple[Effect, ...]:
    """What the operations of a stop change; of a sheet laid over all of them there is one, round their boxes."""
    effects = [effect for one in group for effect in one.effects]
    share = group[0].share
    if len(group) == 1 or share is None or not share.sheet:
        return tuple(effects)
    taken = [effect for effect in effects if isinstance(effect, TakesAway)]
    found: list[Effect] = [effect for effect in effects if not isinstance(effect, (Lays, TakesAway))]
    if any(isinstance(effect, Lays) for effect in effects):
        sheets: dict[tuple[str, int], list[Layer]] = {}
        for effect in effects:
            for nth, layer in enumerate(effect.layers if isinstance(effect, Lays) else ()):
                sheets.setdefault((layer.key, nth), []).append(layer)
        found.append(Lays(tuple(_sheet(every) for every in sheets.values())))
    kinds = dict.fromkeys(one.kind for one in taken)
    return (*found, *(_taken([one for one in taken if one.kind == kind]) for kind in kinds))


def _taken(taken: Sequence[TakesAway]) -> TakesAway:
    """What is taken of a sheet by all that share it: what each keeps stays."""
    owners = tuple(dict.fromkeys(owner for one in taken for owner in one.owners))
    keeps = [one.keeps for one in taken if one.keeps is not None]
    return replaced(taken[0], owners=owners, keeps=shapely.union_all(keeps) if keeps else None)


def _sheet(layers: Sequence[Layer]) -> Layer:
    """One layer round the boxes of several; it belongs to all of their pieces."""
    boxes = [one.region for one in layers if one.region is not None]
    if len(boxes) < len(layers):
        return layers[0]
    left, top, right, bottom = shapely.total_bounds(np.array(boxes, dtype=object))
    region: Area = shapely.box(left, top, right, bottom)
    return replace(
        layers[0], region=region, owners=tuple(dict.fromkeys(owner for one in layers for owner in one.owners))
    )
