"""What Prove shows: each piece's edge-cover proof, findings, and where they lie."""

from __future__ import annotations

import json
from typing import Any

from velamen.core.building import Build, BuiltPiece
from velamen.core.constructions import colour_of
from velamen.core.proofs.edge_cover import EdgeCover
from velamen.core.proofs.finding import Finding
from velamen.web.bench.plans import build_of
from velamen.web.jobs.models import Job
from velamen.web.jobs.pictures import MARGIN, ring_path


def proof_context(job: Job) -> dict[str, Any]:
    """Proofs, findings and the picture of both."""
    build = build_of(job.head)
    rows = [_row(built, built.edge_cover, build) for built in build.pieces if built.edge_cover is not None]
    marks = [mark for row in rows for mark in row["marks"]]
    bounds = [built.work.region.bounds for built in build.pieces] or [(-50.0, -50.0, 50.0, 50.0)]
    left = min(box[0] for box in bounds) - MARGIN
    top = min(box[1] for box in bounds) - MARGIN
    width = max(box[2] for box in bounds) + MARGIN - left
    height = max(box[3] for box in bounds) + MARGIN - top
    return {
        "rows": rows,
        "held": sum(row["proof"].held for row in rows),
        "others": [_finding(finding) for finding in build.findings if finding.code != "edge_bare"],
        "box": f"{left:.2f} {top:.2f} {width:.2f} {height:.2f}",
        "mark_size": max(width, height) / 70.0,
        "marks": marks,
        "spots": [
            {"x": x, "y": y, "message": finding.message, "severity": finding.severity}
            for finding in build.findings
            if finding.code != "edge_bare"
            for x, y in finding.at
        ],
        "build": build,
    }


def _row(built: BuiltPiece, proof: EdgeCover, build: Build) -> dict[str, Any]:
    rings = [[(x, y) for x, y in ring.coords[:-1]] for ring in
             (built.work.region.exterior, *built.work.region.interiors)]  # fmt: skip
    return {
        "built": built,
        "proof": proof,
        "share": f"{100 * proof.share:.1f}",
        "bare": f"{sum(place.length for place in proof.bare):.1f}",
        "colour": colour_of(built.piece, build.library),
        "path": ring_path(rings),
        "marks": [
            {"x": place.x, "y": place.y, "length": f"{place.length:.1f}", "name": built.piece.name,
             "path": "M" + "L".join(f"{x},{y}" for x, y in place.line)}
            for place in proof.bare
        ],
        "fixes": [
            {"label": fix.label, "share": f"{100 * fix.share:.1f}", "values": json.dumps(fix.values)}
            for fix in built.fixes
        ],
    }  # fmt: skip


def _finding(finding: Finding) -> dict[str, Any]:
    return {
        "code": finding.code,
        "severity": finding.severity,
        "message": finding.message,
        "piece": finding.piece,
        "at": finding.at,
        "values": json.dumps(finding.fix) if finding.fix else "",
        "brief": json.dumps(finding.brief) if finding.brief else "",
        "label": finding.label,
    }
