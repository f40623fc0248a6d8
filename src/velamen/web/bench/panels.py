"""What the panels of the stages show, worked out of a revision."""

from __future__ import annotations

from itertools import groupby
from typing import Any

from django.http import HttpRequest

from velamen.core.building import BuiltPiece, values_of
from velamen.core.job import Brief, brief_for
from velamen.core.job import Job as Document
from velamen.core.matching.settings import Value, Values
from velamen.core.materials.library import bases, cloths, stabilizers, threads, toppings
from velamen.web.bench.plans import build_of
from velamen.web.bench.stack import stack_of
from velamen.web.jobs.history import following
from velamen.web.jobs.models import Job

STAGES = (
    ("brief", "Brief"),
    ("artwork", "Artwork"),
    ("build", "Build"),
    ("prove", "Prove"),
    ("hand-over", "Hand over"),
)


def stage(request: HttpRequest, job: Job, here: str) -> dict[str, Any]:
    """What every stage's frame shows."""
    forward = following(job.head)
    return {
        "job": job,
        "stage": here,
        "stages": STAGES,
        "undoes": job.head.label if job.head.parent_id else None,
        "redoes": forward.label if forward else None,
    }


def piece_context(job: Job, piece_id: str | None) -> dict[str, Any]:
    """Stack, chosen piece and its values for Build."""
    build = build_of(job.head)
    chosen = build.piece(piece_id or "") or (build.pieces[-1] if build.pieces else None)
    return {
        "build": build,
        "stack": stack_of(build),
        "chosen": chosen,
        "groups": value_groups(chosen.values) if chosen else [],
        "cloths": cloths().values(),
        "threads": threads().values(),
        "cloth": cloths()[chosen.piece.cloth] if chosen else None,
        "thread": threads()[chosen.piece.thread] if chosen else None,
        "own_count": len(chosen.piece.own) if chosen else 0,
        "proof": proof_line(chosen) if chosen else None,
    }


def asks_for(brief: Brief) -> dict[str, Any]:
    """What a base asks for under and over it, and whether the brief has it so."""
    base = bases()[brief.base]
    return {
        "base": base,
        "stabilizer": stabilizers()[base.stabilizer],
        "topping": toppings()[base.topping],
        "so": brief == brief_for(brief.base, brief.hoop),
    }


def value_groups(values: Values) -> list[tuple[str, list[Value]]]:
    """Values that matter now, by the group of their setting."""
    shown = [value for value in values.values() if matters(value, values)]
    return [(name, list(group)) for name, group in groupby(shown, key=lambda value: value.setting.group)]


def proof_line(built: BuiltPiece) -> dict[str, Any]:
    """The edge-cover proof of a piece in one line."""
    proof = built.edge_cover
    return {
        "held": proof.held,
        "share": f"{100 * proof.share:.1f}",
        "spare": f"{min(proof.spare_inside, proof.spare_outside):.1f}",
        "places": len(proof.bare),
    }


def value_changes(before: Document, after: Document) -> list[dict[str, str]]:
    """Values that differ between two documents, with the reason of the new one."""
    if before.brief == after.brief:
        return []
    was = {piece.id: values_of(piece, before.brief) for piece in before.pieces}
    rows: dict[tuple[str, str, str, str], list[str]] = {}
    for piece in after.pieces:
        for key, value in values_of(piece, after.brief).items():
            old = was[piece.id][key] if piece.id in was else None
            if old is not None and old.value != value.value:
                unit = value.setting.unit
                row = (f"{value.setting.group}: {value.setting.label.lower()}",
                       f"{old.shown} {unit}".strip(), f"{value.shown} {unit}".strip(),
                       value.reasons[-1] if value.reasons else "")  # fmt: skip
                rows.setdefault(row, []).append(piece.name)
    base = bases()[after.brief.base].name
    return [
        {"value": row[0], "before": row[1], "after": row[2], "reason": row[3], "base": base,
         "pieces": "all pieces" if len(names) == len(after.pieces) > 1 else ", ".join(names)}
        for row, names in rows.items()
    ]  # fmt: skip


def matters(value: Value, values: Values) -> bool:
    needs = value.setting.needs
    return needs is None or values[needs[0]].value == needs[1]
