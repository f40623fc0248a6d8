"""What the panels of the stages show, worked out of a revision."""

from __future__ import annotations

from itertools import groupby
from typing import Any

from django.http import HttpRequest

from velamen.core.constructions import construction, constructions
from velamen.core.matching.value import Value, Values
from velamen.core.proofs.edge_cover import EdgeCover
from velamen.web.bench.plans import build_of
from velamen.web.bench.stack import stack_of
from velamen.web.jobs.history import following
from velamen.web.jobs.models import Job
from velamen.web.library.presets import for_piece
from velamen.web.library.rows import shop_library

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


def piece_context(request: HttpRequest, job: Job, piece_id: str | None) -> dict[str, Any]:
    """Stack, chosen piece and its values for Build; rows the job alone still knows stay on offer."""
    build = build_of(job.head)
    chosen = build.piece(piece_id or "") or (build.pieces[-1] if build.pieces else None)
    known, shop = build.library, shop_library(request.shop)
    return {
        "build": build,
        "stack": stack_of(build),
        "chosen": chosen,
        "groups": value_groups(chosen.values) if chosen else [],
        "cloths": {**known.cloths, **shop.cloths}.values(),
        "threads": {**known.threads, **shop.threads}.values(),
        "cloth": known.cloths[chosen.piece.cloth] if chosen else None,
        "thread": known.threads[chosen.piece.thread] if chosen else None,
        "presets": for_piece(request.shop, chosen.piece, build.job.brief.base) if chosen else [],
        "bases": {**known.bases, **shop.bases},
        "proof": proof_line(chosen.edge_cover) if chosen and chosen.edge_cover else None,
        "kind": construction(chosen.piece.construct) if chosen else None,
        "kinds": constructions().values(),
    }


def value_groups(values: Values) -> list[tuple[str, list[Value]]]:
    """Values that matter now, by the group of their setting."""
    shown = [value for value in values.values() if matters(value, values)]
    return [(name, list(group)) for name, group in groupby(shown, key=lambda value: value.setting.group)]


def proof_line(proof: EdgeCover) -> dict[str, Any]:
    """The edge-cover proof of a piece in one line."""
    return {
        "held": proof.held,
        "share": f"{100 * proof.share:.1f}",
        "spare": f"{min(proof.spare_inside, proof.spare_outside):.1f}",
        "places": len(proof.bare),
    }


def matters(value: Value, values: Values) -> bool:
    needs = value.setting.needs
    return needs is None or values[needs[0]].value == needs[1]
