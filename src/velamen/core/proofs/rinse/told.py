"""What the rinse proof tells, as findings."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from velamen.core.proofs.finding import Finding
from velamen.core.proofs.rinse.openings import WIRE, Spot
from velamen.core.proofs.rinse.proof import WIDEST_CELL, Rinse

MOST_TOLD = 12  # places


def rinse_findings(proof: Rinse, owner: Callable[[int], str], names: Mapping[str, str]) -> list[Finding]:
    """Findings of a proof. owner: id of the piece that sews a row of the plan; names: of all pieces, by id."""
    found = [*_apart(proof, tuple(names)), *_hinged(proof, tuple(names))]
    for piece in dict.fromkeys(owner(one.row[0]) for one in proof.unsupported):
        mine = [one for one in proof.unsupported if owner(one.row[0]) == piece]
        rows = sum(one.rows for one in mine)
        found.append(Finding(
            "lace_bare", "error", piece, f"{rows} rows of {names.get(piece, piece)} have no thread under them: they "
            "unravel once the stabilizer is gone.", tuple(one.at for one in mine[:MOST_TOLD]),
        ))  # fmt: skip
    if proof.sagging:
        widest = proof.sagging[0].much
        count = "A cell is" if len(proof.sagging) == 1 else f"{len(proof.sagging)} cells are"
        found.append(Finding(
            "lace_sags", "error", "", f"{count} up to {widest:.1f} mm wide: over {WIDEST_CELL:g} mm lace sags.",
            tuple(one.at for one in proof.sagging[:MOST_TOLD]),
        ))  # fmt: skip
    return [*found, *_wire(proof.wire)]


def _apart(proof: Rinse, pieces: tuple[str, ...]) -> list[Finding]:
    if len(proof.parts) < 2:
        return []
    places = tuple(one.at for one in proof.parts[1:][::-1][:MOST_TOLD])
    least = proof.parts[-1].length
    told = f"It comes out of the water in {len(proof.parts)} parts: the smallest is {least:.0f} mm of thread."
    if proof.touching < len(proof.parts):
        told += " Some of them only touch, which does not hold."
    return [Finding("lace_apart", "error", "", told, places, others=pieces)]


def _hinged(proof: Rinse, pieces: tuple[str, ...]) -> list[Finding]:
    if proof.weakest is None or not proof.hinged:
        return []
    share = 100 * proof.weakest.share
    told = f"{share:.0f} % of it hang by a single strand."
    return [Finding("lace_hinge", "error", "", told, (proof.weakest.at,), others=pieces)]


def _wire(spots: tuple[Spot, ...]) -> list[Finding]:
    if not spots:
        return []
    most = spots[0].much
    told = (
        f"{most:.0f} mm of thread lie in one mm²: it turns to wire." if most > WIRE else
        f"{most:.0f} mm of thread lie in one mm²: it turns stiff."
    )  # fmt: skip
    return [Finding("lace_wire", "warning" if most > WIRE else "info", "", told, tuple(one.at for one in spots))]
