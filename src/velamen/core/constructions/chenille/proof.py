"""Channel proof of chenille: what can be cut open, and the angles and spacings that open more."""

from __future__ import annotations

from collections.abc import Sequence

from velamen.core.constructions.base import Sewn, Work
from velamen.core.constructions.chenille.settings import asked
from velamen.core.proofs.channels import SECONDS_PER_CM, Channels, prove_channels
from velamen.core.proofs.finding import Finding
from velamen.core.proofs.proved import Fix, Proof, Proved, spots_row
from velamen.core.stitching.channels import CHANNEL, channels, trapped
from velamen.core.stitching.strand import Strand
from velamen.core.timeline.passes import Pass
from velamen.core.values.value import Values, number, plain_values

TURNS = (15, -15, 30, -30, 45, -45, 60, 75, 90)  # degrees by which another angle is tried, the nearest first
OFFERED, TRIED = 2, 4  # fixes at most, and angles that are sewn to find them
MARGIN = 1.0  # mm that channels are wider than the scissors


def opened(found: Sewn) -> Proved | None:
    """Whether scissors come through every channel."""
    strands = strands_of(found.passes)
    if not strands and found.work.region.is_empty:
        return None
    proof = proof_of(found.work, found.values, strands)
    closed, narrow = ([one.spot for one in every] for every in (proof.closed, proof.narrow))
    row = spots_row(closed=closed, narrow=narrow)
    minutes = proof.cut / 10.0 * SECONDS_PER_CM / 60.0
    about = f"{len(proof.every)} channels, {proof.cut / 1000.0:.2f} m to cut, about {max(round(minutes), 1)} min"
    open_ones = tuple(one.line for one in proof.every if one.open)
    if proof.held:
        return Proved(True, "Channels can be cut", row, about=about, lines=open_ones)
    told = _told(proof)
    bad = (*closed, *narrow)
    finding = Finding("channels_closed", "warning", found.work.piece, f"{found.work.name}: {told}",
                      tuple(one.at for one in bad), proof="channels")  # fmt: skip
    return Proved(False, "Channels stay closed", row, about=about, fails=told, spots=bad, lines=open_ones,
                  fixes=_fixes(found, proof), hopeless=_hopeless(proof),
                  findings=(finding,))  # fmt: skip


def strands_of(passes: Sequence[Pass]) -> list[Strand]:
    """The threads of its channels."""
    return [strand for one in passes if one.role == CHANNEL for strand in one.strands]


def proof_of(work: Work, values: Values, strands: Sequence[Strand]) -> Channels:
    """The proof of a piece."""
    return prove_channels(work.region, strands, asked(plain_values(values)), work.decorated)


def _told(proof: Channels) -> str:
    if not proof.every:
        return "there is no channel that scissors come into."
    several = len(proof.closed) > 1
    closed = f"{len(proof.closed)} channels are" if several else "a channel is"
    parts = [f"{closed} closed at both ends"] if proof.closed else []
    several = len(proof.narrow) > 1
    narrow = f"{len(proof.narrow)} channels" if several else "a channel"
    parts += [f"scissors come to a stop in {narrow}"] if proof.narrow else []
    return f"{', '.join(parts)}."


def _hopeless(proof: Channels) -> str:
    if not proof.every:
        return "Sew it larger: bands need room for a channel along them."
    return "Move or join what is sewn on it, or leave those channels uncut."


def _fixes(found: Sewn, proof: Channels) -> tuple[Fix, ...]:
    """A spacing that scissors come through and angles at which more can be cut, each built and proved."""
    values, fixes = found.values, []
    wanted = number(values, "channel_scissors") + MARGIN
    if number(values, "channel_spacing") < wanted:
        fixes += _tried(found, proof, {"channel_spacing": wanted}, f"spacing {wanted:g}")
    angles = [(number(values, "channel_angle") + turn + 90.0) % 180.0 - 90.0 for turn in TURNS]
    for angle in sorted(angles, key=lambda one: _trapped(found, one))[:TRIED]:  # the nearest first among equals
        if len(fixes) < OFFERED:
            fixes += _tried(found, proof, {"channel_angle": angle}, f"angle {angle:g}°")
    return tuple(fixes[:OFFERED])


def _trapped(found: Sewn, angle: float) -> int:
    known = asked({**plain_values(found.values), "channel_angle": angle})
    return trapped(found.work.region, known, found.work.decorated)


def _tried(found: Sewn, before: Channels, own: dict[str, float], label: str) -> list[Fix]:
    """A fix where fewer channels stay closed or stop scissors by it."""
    work, known = found.work, asked({**plain_values(found.values), **own})
    after = prove_channels(work.region, channels(work.region, known, work.decorated), known, work.decorated)
    stay, stayed = (len(one.closed) + len(one.narrow) for one in (after, before))
    if not after.every or (stay >= stayed and before.every):
        return []
    return [Fix(own, label if not stay else f"{label}, {stay} stay", 1.0 - stay / len(after.every))]


def findings(found: Sewn) -> list[Finding]:
    """Channels that are no wider than the scissors."""
    spacing, scissors = (number(found.values, f"channel_{key}") for key in ("spacing", "scissors"))
    if spacing >= scissors + MARGIN:
        return []
    told = f"{found.work.name} has channels of {spacing:.1f} mm: scissors of {scissors:.1f} mm want {MARGIN:g} more."
    wider = scissors + MARGIN
    return [Finding("channels_tight", "info", found.work.piece, told, fix={"channel_spacing": wider},
                    label=f"Set spacing {wider:.1f}")]  # fmt: skip


CHANNELS = Proof("channels", "Channels", opened, "a channel that scissors open", "one that they cannot",
                 joined=True)  # fmt: skip
