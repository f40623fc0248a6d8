"""report.json: figures, blocks, values with reasons, findings and proofs of a build."""

from __future__ import annotations

from typing import Any

import msgspec

from velamen.core.building.build import Build, BuiltPiece
from velamen.core.piece_proofs.edge_cover import EdgeCover
from velamen.core.proofs.density import density_limit
from velamen.core.proofs.whole import order_broken, prove_access, prove_density


def report(build: Build) -> dict[str, Any]:
    """The report as plain data (docs/formats.md)."""
    figures = build.figures
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
            for key in build.plan.threads
        ],
        "blocks": [
            {
                "block": block.index + 1, "role": block.role, "label": block.label, "piece": block.piece,
                "thread": block.thread, "first_row": block.first + 1,
                "stitches": len(build.plan.stitches(block)),
            }
            for block in build.plan.blocks
        ],
        "steps": [
            {"row": stop.row + 1, "kind": stop.step.kind, "piece": stop.step.piece, "text": stop.step.text}
            for stop in build.plan.stops
        ],
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
        "proofs": {"edge_cover": [
            _edge_cover(built, built.edge_cover) for built in build.pieces if built.edge_cover is not None
        ], "access": _access(build), "order": _order(build), "density": _density(build)},
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


def _edge_cover(built: BuiltPiece, proof: EdgeCover) -> dict[str, Any]:
    return {
        "piece": built.piece.id,
        "held": proof.held,
        "share_hidden": round(proof.share, 4),
        "trim_error_mm": proof.error,
        "pull_mm": proof.pull,
        "spare_outside_mm": proof.spare_outside,
        "spare_inside_mm": proof.spare_inside,
        "bare": [{"at": [place.x, place.y], "length_mm": place.length} for place in proof.bare],
        "fixes": [
            {"values": fix.values, "label": fix.label, "share_hidden": round(fix.share, 4)} for fix in built.fixes
        ],
    }
