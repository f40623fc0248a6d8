"""Serifs: short wings at the end of a stem, which are part of its end or one stroke across it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from velamen.core.arrays import Array
from velamen.core.geometry.strokes.branches import Branches, heading

SQUARE = 0.75  # |cos| between a wing and its stem, above which it is no serif
LONG, FAR, SHORT_STEM = 1.25, 1.6, 0.9  # stem widths: a serif's length, how far it reaches out, the stem's length
ONWARD = -0.64  # cos to the stem below which a branch carries it on
SHORT_WAY = 1.5  # radii of a branch that only leads from one junction to the next
IN_LINE = -0.6  # cos between the two wings of a foot across a slanted stem
WING_SHARE = 0.95  # stem widths by which wings may reach out and be part of the stem's end
FLAG_SHARE = 0.6  # and a wing on one side alone
WIDEST, WIDER = 12.5, 1.45  # mm, and stem widths, of such an end with its wings
ALIKE = 1.25  # feet of one shape that differ less are sewn alike


@dataclass(frozen=True)
class Foot:
    """The end of a stem: its junction, its wings, how far they reach out in stem widths, the whole width in mm."""

    junction: int
    wings: tuple[int, ...]
    out: float
    total: float
    stem: float


def settle_serifs(found: Branches) -> dict[int, tuple[int, int]]:
    """Drops the wings that are part of their stem's end; gives, by junction, the two that are a stroke across it."""
    feet = [foot for junction in sorted(found.at) if (foot := _foot(found, junction)) is not None]
    across: dict[int, tuple[int, int]] = {}
    for group in _alike(feet):
        out = float(np.mean([foot.out for foot in group]))
        total = float(np.mean([foot.total for foot in group]))
        stem = float(np.mean([foot.stem for foot in group]))
        narrow = total <= max(WIDEST, WIDER * stem)
        for foot in group:
            part = out <= WING_SHARE and narrow if len(foot.wings) > 1 else out <= FLAG_SHARE
            if not part and len(foot.wings) == 2:
                across[foot.junction] = (foot.wings[0], foot.wings[1])
            elif part:
                found.drop(*foot.wings)
    return across


def _foot(found: Branches, junction: int) -> Foot | None:
    """The foot at a junction of three branches, if it is one."""
    ends = found.at[junction]
    if len(ends) != 3 or len({nth for nth, _ in ends}) < 3:
        return None
    names = [nth for nth, _ in ends]
    free = [nth for nth in names if found.free(nth) == junction]
    if not free:
        return None
    mesh = found.mesh
    tips = {nth: heading(mesh.centre[[junction, found.out(nth, junction)[-1]]]) for nth in names}
    wing = min(free, key=found.length)
    others = [nth for nth in names if nth != wing]
    ways = {nth: _leaving(found, nth, junction) for nth in names}
    stem = max(others, key=lambda nth: ways[nth][1] * (1.02 - abs(float(tips[wing] @ ways[nth][0])))
               * min(1.0, found.length(nth) / max(2.0 * ways[nth][1], 1e-9)))  # fmt: skip
    third = next(nth for nth in others if nth != stem)
    way, half = ways[stem]
    width = 2.0 * half
    aside = np.array([-way[1], way[0]])
    opposite = float(tips[wing] @ aside) * float(tips[third] @ aside) < 0.0
    square = abs(float(tips[third] @ way)) <= SQUARE
    twin = third in free and opposite and (square or float(tips[wing] @ tips[third]) < IN_LINE)
    if found.length(stem) < SHORT_STEM * width or (not twin and abs(float(tips[wing] @ way)) > SQUARE):
        return None
    if not twin and (
        _carried_on(found, third, junction, way) or not found.concave(wing, found.end_at(wing, junction))
    ):
        return None
    wings = (wing, third) if twin else (wing,)
    outs = [_overhang(found, one, junction, way, half) for one in wings]
    length = max(found.length(one) - float(mesh.radius[junction]) for one in wings)
    if outs[0] > FAR * width or length > LONG * width or (twin and outs[1] > FAR * width):
        return None
    return Foot(junction, wings, max(outs) / width, width + sum(outs), width)


def _carried_on(found: Branches, nth: int, junction: int, stem: Array) -> bool:
    """Whether a branch goes on where a stem came from, or leads over a short way to one that does."""
    if float(_leaving(found, nth, junction)[0] @ stem) < ONWARD:
        return True
    other = found.out(nth, junction)[-1]
    if len(found.at[other]) < 3 or found.length(nth) > SHORT_WAY * float(found.mesh.radius[junction]):
        return False
    return any(float(_leaving(found, one, other)[0] @ stem) < ONWARD for one, _ in found.at[other] if one != nth)


def _leaving(found: Branches, nth: int, junction: int) -> tuple[Array, float]:
    """The direction of a branch once it has left the junction's circle, and its half width there."""
    mesh = found.mesh
    nodes = np.array(found.out(nth, junction))
    off = np.linalg.norm(mesh.centre[nodes] - mesh.centre[junction], axis=1)
    radius = float(mesh.radius[junction])
    first = int(np.argmax(off >= radius)) if (off >= radius).any() else 0
    half = float(mesh.radius[nodes[first]])
    beyond = off >= radius + 1.5 * half
    last = int(np.argmax(beyond)) if beyond.any() else len(nodes) - 1
    if last <= first:
        first = 0
    return heading(mesh.centre[nodes[[first, last]]]), float(np.median(mesh.radius[nodes[first : last + 1]]))


def _overhang(found: Branches, nth: int, junction: int, stem: Array, half: float) -> float:
    """How far a wing reaches past its stem's side, mm."""
    mesh = found.mesh
    aside = np.array([-stem[1], stem[0]])
    off = (mesh.wall[found.samples(nth, junction)] - mesh.centre[junction]) @ aside
    tip = (mesh.centre[found.out(nth, junction)[-1]] - mesh.centre[junction]) @ aside
    return float((off * np.sign(tip)).max()) - half


def _alike(feet: list[Foot]) -> list[list[Foot]]:
    """Feet in groups of those that hardly differ."""
    groups: list[list[Foot]] = []
    for foot in feet:
        near = [group for group in groups if any(_near(foot, one) for one in group)]
        groups = [group for group in groups if group not in near]
        groups.append([foot, *(one for group in near for one in group)])
    return groups


def _near(one: Foot, other: Foot) -> bool:
    return all(max(a, b) <= ALIKE * max(min(a, b), 0.1) for a, b in
               ((one.out, other.out), (one.total, other.total)))  # fmt: skip
