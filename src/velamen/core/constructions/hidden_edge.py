"""A cloth edge under a border: what is told of its proof, and values that hide more of it, tried and proved."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence

from msgspec.structs import replace

from velamen.core.proofs.edge_cover import IN_HAND, EdgeCover, wanted_width
from velamen.core.proofs.finding import Finding
from velamen.core.proofs.proved import Fix, Proof, Proved, spots_row
from velamen.core.setting import Setting
from velamen.core.values.value import Values, number

WHOLE = 0.9995  # of an edge, from which all of it counts as hidden

Tries = Iterable[tuple[Mapping[str, float], str]]
"""Values that may hide more of an edge, and what they are in words."""


def shown(proof: EdgeCover, piece: str, name: str, fixes: tuple[Fix, ...]) -> Proved:
    """The proof of a piece's edge as it is told, with what would end a bare place."""
    findings = () if proof.held else (_finding(piece, name, proof, fixes),)
    word = "hidden" if proof.hides else "held"
    return Proved(
        proof.held, _told(proof), _row(proof), f"{100 * proof.share:.1f} % {word}", _about(proof),
        _fails(proof), "No width or share within bounds hides it: reshape the outline there.", proof.bare, fixes,
        findings, proof,
    )  # fmt: skip


def _told(proof: EdgeCover) -> str:
    if proof.held:
        return f"Edge cover held, {min(proof.spare_inside, proof.spare_outside):.1f} mm spare"
    count = len(proof.bare)
    return f"Edge can show in {count} place{'' if count == 1 else 's'}: {100 * proof.share:.1f} % hidden"


def _row(proof: EdgeCover) -> dict[str, object]:
    return {
        "share_hidden": round(proof.share, 4), "trim_error_mm": proof.error, "pull_mm": proof.pull,
        "spare_outside_mm": proof.spare_outside, "spare_inside_mm": proof.spare_inside,
        **spots_row(bare=proof.bare),
    }  # fmt: skip


def _about(proof: EdgeCover) -> str:
    text = f"Cut edge up to {proof.error:.1f} mm off, pull {proof.pull:.2f} mm a side."
    if proof.held:
        outside = f"{proof.spare_outside:.1f} mm outside, " if proof.hides else ""
        text += f" Spare {outside}{proof.spare_inside:.1f} mm inside."
    return text


def _fails(proof: EdgeCover) -> str:
    if proof.held:
        return ""
    bare, count = sum(place.length for place in proof.bare), len(proof.bare)
    fails = "show" if proof.hides else "come loose"
    return f"{bare:.1f} mm of edge can {fails} in {count} place{'' if count == 1 else 's'}."


def _finding(piece: str, name: str, proof: EdgeCover, fixes: tuple[Fix, ...]) -> Finding:
    """The finding of an edge that can show."""
    best = next((fix for fix in fixes if fix.share >= WHOLE), None)
    bare = sum(place.length for place in proof.bare)
    fails, ends = ("can show", "hides it") if proof.hides else ("can come loose", "holds it")
    message = (
        f"{bare:.1f} mm of the edge of {name} {fails} after a trimming error of "
        f"{proof.error:g} mm and {proof.pull:g} mm pull"
    )
    message += f": {best.label} {ends}." if best else "."
    at = tuple((place.x, place.y) for place in proof.bare)
    label = f"Set {best.label}" if best else ""
    values = {key: float(value) for key, value in best.values.items()} if best else {}
    return Finding("edge_bare", "warning", piece, message, at, values, label,
                   proof="edge_cover")  # fmt: skip


def fixes_of(
    tries: Tries, settings: Sequence[Setting], values: Values, proof: EdgeCover,
    prove: Callable[[Values], EdgeCover | None],
) -> tuple[Fix, ...]:  # fmt: skip
    """Those of some tries, within the bounds of settings, that hide or hold more: each is sewn and proved."""
    found, known = [], {one.key: one for one in settings}
    for change, label in tries:
        if any(not known[key].low <= wanted <= known[key].high for key, wanted in change.items()):
            continue
        changed = {**values, **{key: replace(values[key], value=wanted) for key, wanted in change.items()}}
        after = prove(changed)
        if after is not None and after.share > proof.share:
            found.append(Fix(change, label, after.share))
    return tuple(found)


def hiding(name: str, values: Values, proof: EdgeCover) -> list[tuple[dict[str, float], str]]:
    """Closer, more pull, wider or another share of a close border; name: first word of its settings' keys."""
    width, share, extra, spacing = (number(values, f"{name}_{key}") for key in ("width", "share", "pull", "spacing"))
    tried: list[tuple[dict[str, float], str]] = []
    matched = float(values[f"{name}_spacing"].matched)
    close = {f"{name}_spacing": matched} if spacing > matched else {}
    if close:
        tried.append((close, f"spacing {matched:g}"))
    if extra < proof.pull:  # also between the sides of a mitre, which no width closes
        tried.append(({**close, f"{name}_pull": proof.pull}, f"pull {proof.pull:g} mm a side"))
    least = 100.0 * (proof.error + proof.pull - extra + IN_HAND) / width
    if least <= 50.0:
        fitting = float(round(min(max(share, least), 100.0 - least)))
        tried.append(({**close, f"{name}_share": fitting}, f"share outside {fitting:g} %"))
    wide = wanted_width(share, extra, proof.error, proof.pull)
    if wide > width:
        tried.append(({**close, f"{name}_width": wide}, f"width {wide:g} mm"))
    even = wanted_width(50.0, extra, proof.error, proof.pull)
    if even > width:
        tried.append(({**close, f"{name}_width": even, f"{name}_share": 50.0}, f"width {even:g} mm, half outside"))
    return tried


def edge_proof(prove: Callable[..., Proved | None]) -> Proof:
    """The proof of a construction's edge, by what it finds of a piece."""
    return Proof(
        "edge_cover", "Edge cover", prove, "held: every cut edge stays under thread", "a stretch that can show"
    )
