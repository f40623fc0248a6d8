"""What Prove shows: edge cover, density, ties and trims, findings, and where each of them lies."""

from __future__ import annotations

import json
from typing import Any

import numpy as np
import shapely

from velamen.core.building.build import Build
from velamen.core.building.built_piece import BuiltPiece
from velamen.core.building.whole_proofs import DensityProof, order_broken, prove_access, prove_density
from velamen.core.constructions import colour_of, listed_proofs
from velamen.core.outputs.density_picture import steps_of
from velamen.core.proofs.density import CELL, LEAST, Dense, densest, density_limit, density_map
from velamen.core.proofs.finding import Finding
from velamen.core.proofs.proved import Proof, Proved
from velamen.core.proofs.thread_ends import Thread, threads_of
from velamen.core.proofs.told import told_of
from velamen.web.jobs.models import Job
from velamen.web.jobs.needed import needed
from velamen.web.jobs.pictures import MARGIN, ring_path
from velamen.web.stages.plans import build_of
from velamen.web.stages.prove_lace import lace_context, rinse_told

LACE = ("lace", "After the rinse")
SHOWN = (("pieces", "Pieces"), ("density", "Density"), ("threads", "Ties and trims"), LACE)
SAME = 3.0  # mm, within which a dense place is that of a finding
ORDER = ("error", "warning", "info")


def proof_context(job: Job, asked: str) -> dict[str, Any]:
    """Proofs, findings and the picture of both. asked: the picture, or what is none for the one that matters most."""
    build = build_of(job.head)
    tables = [table for proof in listed_proofs() if (table := _table(proof, build))["rows"]]
    rows = [row for table in tables for row in table["rows"]]
    box, found = box_of(build), _findings(build)
    told = [one.held for every in _told_in_a_line(build).values() for one in every]
    dense = prove_density(build)
    held = [*told, *(row["proof"].held for row in rows)]
    shown = asked if asked in dict(SHOWN) else _matters_most(build, held, dense)
    context: dict[str, Any] = {
        "tables": tables,
        "rows": rows,
        "held": sum(row["proof"].held for row in rows),
        "findings": found,
        "errors": any(one["severity"] == "error" for one in found),
        "held_by": _held_by(build, tables, dense),
        "box": " ".join(f"{one:.2f}" for one in box),
        "cloth": dict(zip(("x", "y", "width", "height"), box, strict=True)),
        "mark_size": max(box[2:]) / 70.0,
        "length_size": max(box[2:]) / 48.0,
        "marks": [mark for row in rows for mark in row["marks"]],
        "outlines": [_path(built) for built in build.pieces if not built.outline.is_empty],
        "shown": shown if shown != LACE[0] or build.rinse else SHOWN[0][0],
        "views": [one for one in SHOWN if one is not LACE or build.rinse],
        "build": build,
        **needed(build),
    }
    if shown == "density":
        context |= _density(build)
    if shown == "threads":
        context |= _threads(build)
    if shown == LACE[0] and build.rinse:
        context |= lace_context(build, build.rinse)
    return context


def _matters_most(build: Build, held: list[bool], dense: DensityProof) -> str:
    """Which picture Prove opens on: that of what does not hold, then the job's own proof."""
    if not all(held):
        return "pieces"
    if build.rinse:
        return LACE[0]
    return "density" if not held or not dense.held else "pieces"


def _table(proof: Proof, build: Build) -> dict[str, Any]:
    """What a proof says of every piece that has it."""
    rows = [_row(built, built.proofs[proof.key], build) for built in build.pieces if proof.key in built.proofs]
    return {"proof": proof, "rows": rows, "held": sum(row["proof"].held for row in rows)}


def _told_in_a_line(build: Build) -> dict[str, list[Proved]]:
    """What proofs that have no table say of the pieces they judge, by title."""
    found: dict[str, list[Proved]] = {}
    for built in build.pieces:
        for proof in built.kind.proofs:
            proved = built.proofs.get(proof.key)
            if not proof.listed and proved is not None and proved.told:
                found.setdefault(proof.title, []).append(proved)
    return found


def _held_by(build: Build, tables: list[dict[str, Any]], dense: DensityProof) -> list[dict[str, Any]]:
    """Every proof in one line: its name, whether it holds, and how far."""
    stops, wrong = prove_access(build), order_broken(build)
    reached = sum(one.held for one in stops)
    spots = dense.held and dense.most > dense.limit
    most = f"{dense.most:.1f} per mm² at most, {dense.limit:g} are borne"
    if spots:
        most = f"over {dense.limit:g} per mm² in spots under {LEAST:g} mm² alone, {dense.most:.1f} at most"
    lines = [
        *((one["proof"].title, one["held"] == len(one["rows"]), f"{one['held']} of {len(one['rows'])} pieces", True)
          for one in tables),
        *((title, all(one.held for one in every), every[0].told.lower() if len(every) == 1 else
           f"{sum(one.held for one in every)} of {len(every)} pieces", True)
          for title, every in _told_in_a_line(build).items()),
        ("Access", reached == len(stops), f"{reached} of {len(stops)} stop{'s' * (len(stops) != 1)}", bool(stops)),
        ("Order", not wrong, "every step after what it needs" if not wrong else f"{len(wrong)} steps", True),
        ("Rinse", bool(build.rinse and build.rinse.held), rinse_told(build.rinse) if build.rinse else "",
         build.rinse is not None),
        ("Density", dense.held, most, bool(build.pieces)),
    ]  # fmt: skip
    return [{"name": name, "held": held, "told": told} for name, held, told, asked in lines if asked]


def box_of(build: Build) -> tuple[float, float, float, float]:
    """Left, top, width and height of the picture, mm."""
    xy = build.plan.xy[build.plan.sewn]
    bounds = [built.work.region.bounds for built in build.pieces if not built.work.region.is_empty]
    if len(xy):
        bounds.append((*xy.min(axis=0), *xy.max(axis=0)))
    low_high = np.array(bounds or [(-50.0, -50.0, 50.0, 50.0)])
    left, top = low_high[:, :2].min(axis=0) - MARGIN
    right, bottom = low_high[:, 2:].max(axis=0) + MARGIN
    return float(left), float(top), float(right - left), float(bottom - top)


def _path(built: BuiltPiece) -> str:
    return ring_path([ring.coords[:-1] for ring in shapely.get_rings(shapely.get_parts(built.outline))], decimals=2)


def _density(build: Build) -> dict[str, Any]:
    """The limit with its reasons, the legend, where the picture lies, and the densest places."""
    limit = density_limit(build.job.brief, build.library)
    found = density_map(build.plan.xy[build.plan.sewn])
    rows, columns = found.values.shape
    names = {built.piece.id: built.piece.name for built in build.pieces}
    blocks = build.plan.blocks
    return {
        "limit": limit,
        "steps": [{"from": f"{low:.1f}", "colour": colour} for low, colour in steps_of(float(limit.value))],
        "map": {"x": found.left, "y": found.top, "width": columns * CELL, "height": rows * CELL},
        "dense": [
            {"x": one.x, "y": one.y, "value": f"{one.value:.1f}", "over": _over(one, float(limit.value), build),
             "sewn": [f"{names.get(blocks[block].piece, '')}: {blocks[block].label}, {100 * share:.0f} %"
                      for block, share in one.sewn if share >= 0.1]}
            for one in densest(build.plan)
        ],
    }  # fmt: skip


def _over(one: Dense, limit: float, build: Build) -> str:
    """Whether a place is over the limit: "" if not, "spot" where it is too small to be told as a finding."""
    if one.value <= limit:
        return ""
    told = [at for finding in build.findings if finding.code.startswith("density") for at in finding.at]
    return "over" if any(np.hypot(one.x - x, one.y - y) < SAME for x, y in told) else "spot"


THEN = {"color": "thread change", "jump": "jump", "end": "end"}


def _threads(build: Build) -> dict[str, Any]:
    """Every thread from tie to trim, and the stops and jumps between them."""
    found = threads_of(build.plan)
    stops = {stop.row: nth for nth, stop in enumerate(build.plan.stops, 1)}
    names = {built.piece.id: built.piece.name for built in build.pieces}
    ends = [*(one.begins for one in found[1:]), None]
    return {
        "threads": [_thread(nth, one, build, names, stops, upto) for nth, (one, upto)
                    in enumerate(zip(found, ends, strict=True), 1)],
        "jumps": sum(one.then == "jump" for one in found),
    }  # fmt: skip


def _thread(
    nth: int,
    one: Thread,
    build: Build,
    names: dict[str, str],
    stops: dict[int, int],
    to: tuple[float, float] | None,
) -> dict[str, Any]:
    block, last = build.plan.blocks[one.block], build.plan.blocks[one.upto]
    stop = next((stops[row] for row in range(one.last + 1, one.last + 4) if row in stops), 0)
    then = f"stop {stop}" if one.then == "stop" else THEN[one.then]
    return {
        "nth": nth, "at": one, "row": one.last + 1, "piece": names.get(block.piece, ""), "label": block.label,
        "upto": "" if last is block else last.label, "thread": build.library.threads[block.thread],
        "then": then, "onward": f"{one.onward:.1f}" if one.then == "jump" else "", "to": to,
        "metres": f"{one.length / 1000.0:.2f}",
    }  # fmt: skip


def _row(built: BuiltPiece, proof: Proved, build: Build) -> dict[str, Any]:
    return {
        "built": built,
        "proof": proof,
        "colour": colour_of(built.piece, build.library),
        "path": _path(built),
        "marks": [
            {"x": place.x, "y": place.y, "length": f"{place.length:.1f}", "name": built.piece.name,
             "path": "M" + "L".join(f"{x},{y}" for x, y in place.line)}
            for place in proof.spots
        ],
        "lines": "".join("M" + "L".join(f"{x},{y}" for x, y in line) for line in proof.lines),
        "fixes": [
            {"label": fix.label, "share": f"{100 * fix.share:.1f}", "values": json.dumps(dict(fix.values))}
            for fix in proof.fixes
        ],
    }  # fmt: skip


def _findings(build: Build) -> list[dict[str, Any]]:
    """Findings but those that a table tells, the gravest first, with their numbers and their ways out."""
    found = sorted(told_of(build.findings), key=lambda one: ORDER.index(one.severity))
    return [_finding(nth, one, build) for nth, one in enumerate(found, 1)]


def _finding(nth: int, finding: Finding, build: Build) -> dict[str, Any]:
    ended = bool(finding.fix or finding.brief)
    return {
        "nth": nth,
        "code": finding.code,
        "severity": finding.severity,
        "message": finding.message,
        "piece": finding.piece,
        "at": finding.at,
        "values": json.dumps(finding.fix) if finding.fix else "",
        "brief": json.dumps(finding.brief) if finding.brief else "",
        "label": finding.label,
        "later": not ended,
    }
