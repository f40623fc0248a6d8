"""What the panels of the stages show, worked out of a revision."""

from __future__ import annotations

from itertools import groupby
from typing import Any

from django.http import HttpRequest

from velamen.core.building import Build, BuiltPiece
from velamen.core.constructions import construction, constructions
from velamen.core.constructions.base import FAMILIES, Construction, Pass
from velamen.core.matching.value import Value, Values, matters
from velamen.core.proofs.edge_cover import EdgeCover
from velamen.core.sequencing.order import WORDS
from velamen.web.bench.plans import build_of
from velamen.web.bench.routes import neighbours
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
        "families": families(chosen.work.line is not None, not chosen.piece.shape) if chosen else [],
        "route": route_of(build, chosen) if chosen else None,
        "sewing": sewing_of(build, chosen) if chosen else None,
        "may_share": len(build.cut) > 1 and not build.job.order,
        "grounds": [one for one in constructions().values() if one.under],
        "neighbours": len(neighbours(build.job, chosen.piece.id)) if chosen else 0,
    }


def sewing_of(build: Build, chosen: BuiltPiece) -> dict[str, Any]:
    """Threads by pass, the cloths that a piece can decorate, and where its sewing begins and ends."""
    roles = list(dict.fromkeys(step.role for step in chosen.steps if isinstance(step, Pass)))
    piece = chosen.piece
    words = {one: WORDS.get(one, one.replace("_", " ")) for one in roles}
    return {
        "roles": [(one, words[one], piece.threads.get(one, piece.thread)) for one in roles],
        "hosts": [one for one in build.cut if one.piece.id != piece.id] if piece.shape else [],
        "ends": [(key, "" if at is None else f"{at[0]:g}, {at[1]:g}")
                 for key, at in (("start", piece.start), ("end", piece.end))],
        "others": [one.piece for one in build.pieces if one.piece.own and one.piece.id != piece.id],
    }  # fmt: skip


def families(line: bool, derived: bool = False) -> list[tuple[str, list[Construction]]]:
    """Constructions that a shape, an open line, or what goes round others can be sewn as, by family."""
    known = [one for one in constructions().values() if (one.lines if line else one.areas)]
    known = [one for one in known if one.ground] if derived else known
    order = sorted(known, key=lambda one: (FAMILIES.index(one.family), one.title))
    return [(name, list(group)) for name, group in groupby(order, key=lambda one: one.family)]


def route_of(build: Build, chosen: BuiltPiece) -> dict[str, Any] | None:
    """The route that a piece is sewn on, for its panel."""
    asked = next((one for one in build.job.routes if chosen.piece.id in one.pieces), None)
    built = next((one for one in build.routes if chosen.piece.id in one.pieces), None)
    if asked is None or built is None:
        return None
    ends = {
        name: "" if at is None else f"{at[0]:g}, {at[1]:g}"
        for name, at in (("start", asked.start), ("end", asked.end))
    }
    return {"count": len(built.pieces), "before": built.before, "after": built.after, **ends}


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
