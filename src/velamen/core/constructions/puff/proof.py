"""Foam-tear proof of puff, and the caps and perforations that end what it finds."""

from __future__ import annotations

from collections.abc import Mapping

from msgspec import structs

from velamen.core.constructions.base import Sewn
from velamen.core.constructions.foam_proof import foam_proof
from velamen.core.constructions.puff.satin import CUTTING, RUNS, satin
from velamen.core.constructions.puff.settings import CAPPED
from velamen.core.proofs.foam_tear import FoamTear, prove_foam_tear
from velamen.core.proofs.proved import Fix
from velamen.core.setting import Plain

WAYS: tuple[tuple[str, Mapping[str, Plain]], ...] = (
    ("caps at open ends", {"puff_ends": CAPPED}),
    ("caps and perforations", {"puff_ends": CAPPED, "puff_perforate": True}),
    ("perforations", {"puff_perforate": True}),
)


def _fixes(found: Sewn, proof: FoamTear) -> tuple[Fix, ...]:
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


def _hopeless(found: Sewn) -> str:
    """What hands can do where no value helps."""
    if found.work.local:
        return "Caps of it were set by hand on Build: switch them on, or let them be as they were found."
    return "Make its ends bolder, or sew it larger."


FOAM_TEAR = foam_proof(lambda found, strands: prove_foam_tear(strands, CUTTING, RUNS), _fixes, _hopeless)
