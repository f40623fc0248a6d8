"""Foam-tear proof of puff, and the caps and perforations that end what it finds."""

from __future__ import annotations

from collections.abc import Mapping

from msgspec import structs

from velamen.core.constructions.base import Sewn
from velamen.core.constructions.puff.satin import CUTTING, RUNS, satin
from velamen.core.constructions.puff.settings import CAPPED
from velamen.core.proofs.finding import Finding
from velamen.core.proofs.foam_tear import FoamTear, prove_foam_tear
from velamen.core.proofs.proved import Fix, Proof, Proved, Spot
from velamen.core.setting import Plain

WAYS: tuple[tuple[str, Mapping[str, Plain]], ...] = (
    ("caps at open ends", {"puff_ends": CAPPED}),
    ("caps and perforations", {"puff_ends": CAPPED, "puff_perforate": True}),
    ("perforations", {"puff_perforate": True}),
)


def tears(found: Sewn) -> Proved | None:
    """Whether the foam tears clean all round."""
    strands = [strand for one in found.passes for strand in one.strands]
    if not any(one.part == "lay" for one in found.operations):
        return None
    proof = prove_foam_tear(strands, CUTTING, RUNS)
    if proof.held:
        return Proved(
            True, "Foam tears clean", _row(proof), about=f"{proof.edge:.0f} mm of edge, needle-cut all along"
        )
    told = " ".join(_told(proof))
    every = (*proof.uncut, *proof.over)
    name, place = found.work.name, tuple(one.at for one in every)
    code = "foam_uncut" if proof.uncut else "foam_crossed"
    finding = Finding(code, "warning", found.work.piece, f"{name}: {told}", place, proof="foam_tear")
    spots = tuple(Spot(*one.at, one.length, one.line) for one in every)
    return Proved(False, "Foam does not tear clean", _row(proof), fails=told, spots=spots,
                  fixes=_capped(found, proof), hopeless="Make its ends bolder, or sew it larger.",
                  findings=(finding,))  # fmt: skip


def _told(proof: FoamTear) -> list[str]:
    told = []
    if proof.uncut:
        many = (
            f"{len(proof.uncut)} stretches of foam edge are" if len(proof.uncut) > 1 else "A stretch of foam edge is"
        )
        told.append(f"{many} not cut, up to {proof.uncut[0].length:.1f} mm: the foam tears ragged there.")
    if proof.over:
        told.append(f"{sum(one.length for one in proof.over):.1f} mm of thread lie across foam that is torn away.")
    return told


def _capped(found: Sewn, proof: FoamTear) -> tuple[Fix, ...]:
    """Caps and perforations where there are none, built and proved."""
    fixes = []
    for label, changed in WAYS:
        fresh = {key: value for key, value in changed.items() if found.values[key].value != value}
        if not fresh:
            continue
        own = {key: structs.replace(found.values[key], value=value) for key, value in fresh.items()}
        after = satin(found.work, {**found.values, **own})
        proved = prove_foam_tear([strand for one in after for strand in one.strands], CUTTING, RUNS)
        if len(proved.uncut) < len(proof.uncut) and len(proved.over) <= len(proof.over):
            left = sum(one.length for one in proved.uncut)
            fixes.append(Fix(fresh, label, 1.0 - left / max(proved.edge, 1e-9)))
        if proved.held:
            break
    return tuple(fixes)


def _row(proof: FoamTear) -> dict[str, object]:
    found = {"uncut": proof.uncut, "over_foam": proof.over}
    return {key: [{"at": list(one.at), "length_mm": one.length} for one in every] for key, every in found.items()}


FOAM_TEAR = Proof("foam_tear", "Foam tear", tears, "foam edge that the needle cuts", "foam edge that stays uncut",
                  joined=True)  # fmt: skip
