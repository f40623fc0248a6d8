"""What is told of a foam-tear proof, whichever way the foam is cut."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from velamen.core.constructions.base import Sewn
from velamen.core.proofs.finding import Finding
from velamen.core.proofs.foam_tear import FoamTear
from velamen.core.proofs.proved import Fix, Proof, Proved, spots_row
from velamen.core.stitching.strand import Strand
from velamen.core.timeline.operation import Hand

Proves = Callable[[Sewn, list[Strand]], FoamTear]


def no_fixes(found: Sewn, proof: FoamTear) -> tuple[Fix, ...]:
    """Nothing to try."""
    return ()


def foam_proof(
    proves: Proves,
    fixes: Callable[[Sewn, FoamTear], Sequence[Fix]] = no_fixes,
    hopeless: Callable[[Sewn], str] = lambda found: "",
) -> Proof:
    """The proof of a construction that has foam torn away. hopeless: what to do where no fix helps."""

    def tears(found: Sewn) -> Proved | None:
        if not any(one.does is not None and one.does.kind is Hand.TEAR_FOAM for one in found.operations):
            return None
        proof = proves(found, [strand for one in found.passes for strand in one.strands])
        row = spots_row(uncut=proof.uncut, over_foam=proof.over)
        if proof.held:
            about = f"{proof.edge:.0f} mm of edge, needle-cut all along"
            return Proved(True, "Foam tears clean", row, about=about)
        told = " ".join(_told(proof))
        every = (*proof.uncut, *proof.over)
        code = "foam_uncut" if proof.uncut else "foam_crossed"
        finding = Finding(code, "warning", found.work.piece, f"{found.work.name}: {told}",
                          tuple(one.at for one in every), proof="foam_tear")  # fmt: skip
        return Proved(False, "Foam does not tear clean", row, fails=told, spots=every,
                      fixes=tuple(fixes(found, proof)), hopeless=hopeless(found), findings=(finding,))  # fmt: skip

    return Proof("foam_tear", "Foam tear", tears, "foam edge that the needle cuts", "foam edge that stays uncut",
                 joined=True)  # fmt: skip


def _told(proof: FoamTear) -> list[str]:
    told = []
    if proof.uncut:
        many = len(proof.uncut)
        some = f"{many} stretches of foam edge are" if many > 1 else "A stretch of foam edge is"
        told.append(f"{some} not cut, up to {proof.uncut[0].length:.1f} mm: the foam tears ragged there.")
    if proof.over:
        told.append(f"{sum(one.length for one in proof.over):.1f} mm of thread lie across foam that is torn away.")
    return told
