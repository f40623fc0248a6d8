"""report.json: figures, blocks, values with reasons, findings and proofs of a build."""

from __future__ import annotations

from typing import Any

import msgspec

from velamen.core.building.build import Build
from velamen.core.building.built_piece import BuiltPiece
from velamen.core.building.needs import needs_of
from velamen.core.building.whole_proofs import order_broken, prove_access, prove_density
from velamen.core.constructions import listed_proofs
from velamen.core.proofs.density import density_limit
from velamen.core.timeline.operation import When


def report(build: Build) -> dict[str, Any]:
    """The report as plain data (docs/formats.md)."""
    figures, plan = build.hooping_figures, build.hooping
    return {
        "job": build.job.name,
        "size_mm": [figures.width, figures.height],
        "stitches": figures.stitches,
        "trims": figures.trims,
        "stops": figures.stops,
        "changes": figures.changes,
        "seconds": figures.seconds,
        "threads": [
            {"key": key, "name": build.library.threads[key].name, "colour": build.library.threads[key].colour}
            for key in plan.threads
        ],
        "loads": [{"thread": one.thread, "first_row": one.first + 1, "again": one.again} for one in plan.loads],
        "blocks": [
            {
                "block": block.index + 1, "role": block.role, "label": block.label, "piece": block.piece,
                "thread": block.thread, "first_row": block.first + 1,
                "stitches": len(plan.stitches(block)),
            }
            for block in plan.blocks
        ],
        "repeat": _repeat(build),
        "needs": _needs(build),
        "steps": _steps(build),
        "values": [row for built in build.pieces for row in _values(built)],
        "findings": [
            {
                "code": finding.code, "severity": finding.severity, "piece": finding.piece,
                "message": finding.message, "at": [list(spot) for spot in finding.at], "fix": finding.fix,
                "brief": finding.brief, "label": finding.label,
            }
            for finding in build.findings
        ],
        "routes": [
            {"pieces": list(one.pieces), "trims_before": one.before, "trims_after": one.after} for one in build.routes
        ],
        "proofs": {
            **_piece_proofs(build), "access": _access(build), "order": _order(build), "density": _density(build),
            "rinse": _rinse(build),
        },
    }  # fmt: skip


def report_json(build: Build) -> bytes:
    """The report as indented JSON."""
    return msgspec.json.format(msgspec.json.encode(report(build)), indent=1) + b"\n"


def _values(built: BuiltPiece) -> list[dict[str, Any]]:
    return [
        {
            "piece": built.piece.id, "key": key, "value": value.value, "unit": value.setting.unit,
            "source": value.source, "matched": value.matched, "reasons": list(value.reasons),
        }
        for key, value in built.values.items()
    ]  # fmt: skip


def _access(build: Build) -> dict[str, Any]:
    stops = prove_access(build)
    return {
        "held": all(one.held for one in stops),
        "stops": [
            {"stop": one.stop, "kind": one.kind, "pieces": list(one.pieces), "held": one.held,
             "against": [finding.message for finding in one.against]}
            for one in stops
        ],
    }  # fmt: skip


def _order(build: Build) -> dict[str, Any]:
    wrong = order_broken(build)
    return {"held": not wrong, "against": [finding.message for finding in wrong]}


def _density(build: Build) -> dict[str, Any]:
    limit, proof = density_limit(build.job.brief, build.library), prove_density(build)
    return {"held": proof.held, "limit_per_mm2": limit.value, "reasons": list(limit.reasons),
            "most_per_mm2": round(proof.most, 2)}  # fmt: skip


def _rinse(build: Build) -> dict[str, Any] | None:
    """What is left once the stabilizer is gone; null where that is no lace."""
    proof = build.rinse
    if proof is None:
        return None
    weak, loose = proof.weakest, proof.parts[1:]
    return {
        "held": proof.held, "parts": len(proof.parts), "touching": proof.touching,
        "loose": [{"at": list(one.at), "length_mm": round(one.length, 1)} for one in loose],
        "weakest": None if weak is None else {
            "at": list(weak.at), "threads": weak.strands, "passes": weak.threads, "share": round(weak.share, 4),
            "exact": weak.exact,
        },
        "sagging": [{"at": list(one.at), "width_mm": one.much} for one in proof.sagging],
        "unsupported": [{"at": list(one.at), "rows": one.rows, "first_row": one.row[0] + 1,
                         "last_row": one.row[1] + 1} for one in proof.unsupported],
        "wire": [{"at": list(one.at), "mm_per_mm2": one.much} for one in proof.wire],
    }  # fmt: skip


def _steps(build: Build) -> list[dict[str, Any]]:
    """Everything hands do, in order; what is done off the machine has the row of its first or last command."""
    last = len(build.hooping.xy)
    steps = [(1, one) for one in build.before_sewing] + [(halt.row + 1, halt.step) for halt in build.hooping.stops]
    steps += [(last, one) for one in build.after_sewing]
    found = []
    for row, step in steps:
        told: dict[str, Any] = {"row": row, "kind": step.kind, "piece": step.piece, "pieces": list(step.pieces),
                                "text": step.text, "seconds": round(step.seconds, 1)}  # fmt: skip
        if step.when is not When.SEWING:
            told["when"] = "before" if step.when is When.BEFORE else "after"
        found.append(told)
    return found


def _repeat(build: Build) -> dict[str, Any] | None:
    """The copies in the hoop, and the figures of one of them alone."""
    grid, repeat, one = build.grid, build.job.repeat, build.figures
    if grid is None or repeat is None:
        return None
    return {
        "columns": grid.columns, "rows": grid.rows, "gap": grid.gap, "order": repeat.order, "copies": grid.copies,
        "one": {"stitches": one.stitches, "trims": one.trims, "stops": one.stops, "changes": one.changes,
                "seconds": one.seconds},
    }  # fmt: skip


def _needs(build: Build) -> dict[str, Any] | None:
    """What all the pieces that are wanted need; null where nobody has said how many."""
    if not build.wanted:
        return None
    needs, strip = needs_of(build, build.wanted), build.job.strip
    return {
        "pieces": needs.wanted, "hoopings": needs.hoopings, "last": needs.left, "seconds": needs.seconds,
        "strip": None if strip is None else {
            "length_mm": strip.length, "fullness": strip.fullness, "repeat_mm": round(build.repeat_length, 2),
        },
        "threads_m": needs.threads, "bobbin_m": needs.bobbin, "stabilizer_m2": needs.stabilizer,
        "cloths": [{"cloth": one.key, "pieces": one.pieces, "width": one.width, "height": one.height}
                   for one in needs.cloths],
    }  # fmt: skip


def _piece_proofs(build: Build) -> dict[str, Any]:
    """What the proofs of constructions say under the key of each: piece by piece, or joined."""
    found: dict[str, Any] = {}
    for proof in listed_proofs():
        of_pieces = {one.piece.id: one.proofs[proof.key] for one in build.pieces if proof.key in one.proofs}
        rows = [
            {"piece": piece, "held": proved.held, **proved.row, "fixes": [
                {"values": dict(one.values), "label": one.label, "share_hidden": round(one.share, 4)}
                for one in proved.fixes
            ]}
            for piece, proved in of_pieces.items()
        ]  # fmt: skip
        found[proof.key] = _joined(rows) if proof.joined else rows
    return found


def _joined(rows: list[dict[str, Any]]) -> dict[str, Any] | None:
    """What a proof says of several pieces as of one, each of its places and fixes with its piece; none of none."""
    if not rows:
        return None
    lists = [key for key, value in rows[0].items() if isinstance(value, list)]
    places = {key: [{"piece": row["piece"], **each} for row in rows for each in row[key]] for key in lists}
    return {"held": all(row["held"] for row in rows), **places}
