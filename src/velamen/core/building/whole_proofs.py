"""The proofs of a whole build beside those of its edges: access at every stop, order of steps, density."""

from __future__ import annotations

from dataclasses import dataclass

from velamen.core.building.build import Build
from velamen.core.proofs.density import density_limit, density_map
from velamen.core.proofs.finding import Finding
from velamen.core.timeline.operation import Hand

AT = {Hand.LAY: ("lay_not_flat",), Hand.TRIM: ("trim_blocked", "notch_narrow"), Hand.CUT_OPENING: ("opening_sewn",)}
"""Codes of the findings that keep hands from a step, by the kind of step."""


@dataclass(frozen=True)
class StopAccess:
    """What the access proof says of one stop. stop: its number, 1 being the first; against: what keeps hands off."""

    stop: int
    kind: str
    pieces: tuple[str, ...]
    against: tuple[Finding, ...]

    @property
    def held(self) -> bool:
        return not self.against


@dataclass(frozen=True)
class DensityProof:
    """The densest square of a plan and what its base bears, per mm², and what is told where it is too dense."""

    most: float
    limit: float
    against: tuple[Finding, ...]

    @property
    def held(self) -> bool:
        return not self.against


def prove_access(build: Build) -> list[StopAccess]:
    """The access proof of every stop: can cloth be laid flat, can scissors reach all round?"""
    found = []
    for nth, stop in enumerate(build.plan.stops, 1):
        step = stop.step
        codes = AT.get(step.kind, ())
        against = [one for one in build.findings if one.code in codes and one.piece in step.pieces]
        found.append(StopAccess(nth, step.kind, step.pieces, tuple(against)))
    return found


def order_broken(build: Build) -> list[Finding]:
    """What is sewn or done before what it needs; none where the order proof holds."""
    return [one for one in build.findings if one.code == "order_wrong"]


def prove_density(build: Build) -> DensityProof:
    """The density proof of a whole plan."""
    most = float(density_map(build.plan.xy[build.plan.sewn]).values.max())
    limit = float(density_limit(build.job.brief, build.library).value)
    return DensityProof(most, limit, tuple(one for one in build.findings if one.code.startswith("density")))
