"""What the panels of the stages show, worked out of a revision."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache
from itertools import groupby
from typing import Any

from django.http import HttpRequest

from velamen.core.building.build import Build
from velamen.core.building.built_piece import BuiltPiece
from velamen.core.building.routes import together_by
from velamen.core.constructions import construction, constructions, lays_cloth
from velamen.core.constructions.base import Construction, Family
from velamen.core.edits.shapes.live_shapes import OUTLINES
from velamen.core.edits.stack.grounds import cloth_under, may_be_frozen, may_get_cloth
from velamen.core.edits.stack.thread_routes import neighbours
from velamen.core.stitching.roles import role_of
from velamen.core.values.advice import course_of
from velamen.core.values.value import Value, Values, matters, plain_values
from velamen.web.jobs.history import following
from velamen.web.jobs.models import Job
from velamen.web.library import recipes
from velamen.web.library.presets import for_piece
from velamen.web.library.rows import shop_library
from velamen.web.stages.makers import live_of
from velamen.web.stages.plans import build_of
from velamen.web.stages.stack_rows import as_sewn, stack_of
from velamen.web.stages.typed import FIELDS, NUMBERS

Place = tuple[float, float]
MOST_DRAWN = 300_000  # stitches of a hooping; of more the one design is drawn

STAGES = (
    ("brief", "Brief"),
    ("artwork", "Artwork"),
    ("build", "Build"),
    ("prove", "Prove"),
    ("hand-over", "Hand over"),
)


def hooping_shown(build: Build) -> bool:
    """Whether a build has copies in the hoop that can all be drawn."""
    return build.grid is not None and build.grid.copies * build.figures.stitches <= MOST_DRAWN


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


def piece_context(request: HttpRequest, job: Job, piece_id: str | None, also: list[str]) -> dict[str, Any]:
    """Stack, chosen piece and its values for Build; rows the job alone still knows stay on offer.

    also: ids of pieces chosen beside it.
    """
    build = build_of(job.head)
    chosen = build.piece(piece_id or "") or (build.pieces[-1] if build.pieces else None)
    known, shop = build.library, shop_library(request.shop)
    others = [one for key in also if (one := build.piece(key)) is not None and one is not chosen]
    return {
        "build": build,
        "stack": stack_of(build),
        "opened": opened(request),
        "as_sewn": as_sewn(build) if rows_shown(request) == "sewn" else None,
        "chosen": chosen,
        "others": others,
        "together": together_of(chosen, others) if chosen else None,
        "groups": value_groups(chosen.values, [one.values for one in others]) if chosen else [],
        "cloths": {**known.cloths, **shop.cloths}.values(),
        "threads": {**known.threads, **shop.threads}.values(),
        "foams": {**known.foams, **shop.foams},
        "figures": {**known.motifs, **shop.motifs},
        "cloth": known.cloths[chosen.piece.cloth] if chosen else None,
        "thread": known.threads[chosen.piece.thread] if chosen else None,
        "presets": for_piece(request.shop, chosen.piece, build.job.brief.base) if chosen else [],
        "bases": {**known.bases, **shop.bases},
        "proofs": [one for one in chosen.proofs.values() if one.told] if chosen else [],
        "kind": construction(chosen.piece.construct) if chosen else None,
        "may": may(build, chosen) if chosen else {},
        "places": places_of(chosen) if chosen and "places" in opened(request) and not others else [],
        "guides": guides_of(chosen) if chosen and not others else None,
        "strip": strip_of(build, chosen) if chosen and not others else None,
        "needles": needles_of(chosen) if chosen and not others else None,
        "route": route_of(build, chosen) if chosen else None,
        "live": live_of(build.job, chosen.piece.id) if chosen and not others else None,
        "outlines": OUTLINES,
        "numbers": FIELDS,
        "sewing": sewing_of(build, chosen) if chosen else None,
        "recipes": recipes.on_offer(request.shop),
        "hooping_shown": hooping_shown(build),
        "course": course_of(build.job.brief, known),
        "may_share": len(build.cut) > 1 and not build.job.order,
        "grounds": [one for one in constructions().values() if one.around and not one.around.motif],
        "motifs": [one for one in constructions().values() if one.around and one.around.motif],
        "neighbours": _may_route(build, chosen) if chosen else 0,
    }


def sewing_of(build: Build, chosen: BuiltPiece) -> dict[str, Any]:
    """Threads by pass, the cloths that a piece can decorate, and where its sewing begins and ends."""
    roles = list(dict.fromkeys(one.role for one in chosen.sewn))
    piece = chosen.piece
    return {
        "roles": [(one, role_of(one).words, piece.threads.get(one, piece.thread)) for one in roles],
        "hosts": hosts_of(build, piece.id) if piece.shape else [],
        "ends": _ends(piece.start, piece.end) if construction(piece.construct).ends else [],
        "others": [one.piece for one in build.pieces if one.piece.own and one.piece.id != piece.id],
    }  # fmt: skip


def _may_route(build: Build, chosen: BuiltPiece) -> int:
    """How many pieces beside one could be sewn on with it as a route, itself among them."""
    by, ids = together_by(chosen), neighbours(build.job, chosen.piece.id)
    beside = [one for key in ids if (one := build.piece(key)) is not None and by is not None]
    return sum(together_by(one) == by for one in beside)


def places_of(chosen: BuiltPiece) -> list[dict[str, Any]]:
    """The places of a piece that can have values of their own, each with its fields."""
    local = chosen.kind.local
    if local is None:
        return []
    return [
        {"spot": spot, "at": f"{spot.at[0]:.2f},{spot.at[1]:.2f}",
         "line": " ".join(f"{x:.2f},{y:.2f}" for x, y in spot.line),
         "off": any(one.kind == "switch" and not spot.values[one.key] for one in local.settings),
         "fields": [(one, spot.values[one.key], one.show(spot.values[one.key])) for one in local.settings]}
        for spot in local.spots(chosen.work, chosen.values)
    ]  # fmt: skip


def guides_of(chosen: BuiltPiece) -> dict[str, Any] | None:
    """The guide lines of a piece that goes by some at once, and whether it may have more."""
    if chosen.kind.led is None or chosen.kind.guides < 2 or not chosen.piece.shape:
        return None
    lines = [" ".join(f"{x:.2f},{y:.2f}" for x, y in one.tolist()) for one in chosen.work.guides]
    return {"lines": lines, "more": len(lines) < chosen.kind.guides}


def strip_of(build: Build, chosen: BuiltPiece) -> list[dict[str, Any]]:
    """What can be dragged along the way across a piece, with the colour that it has there."""
    if chosen.kind.strip is None:
        return []
    stops = chosen.kind.strip(chosen.work, plain_values(chosen.values))
    return [{"key": one.key, "label": one.label, "share": round(one.share, 1), "dense": round(one.dense, 2),
             "colour": build.library.threads[one.thread].colour} for one in stops]  # fmt: skip


def needles_of(chosen: BuiltPiece) -> dict[str, Any] | None:
    """What the panel of a piece's needle points shows; nothing where it has no stitches."""
    if not chosen.sewn:
        return None
    points = sum(len(strand.xy) for each in chosen.sewn for strand in each.strands)
    changed = sum(len(set(one.moved) | set(map(str, one.gone))) for one in chosen.piece.by_hand)
    return {
        "free": chosen.kind.needles and chosen.work.needles is not None, "points": points, "changed": changed,
        "passes": len(chosen.sewn),
        "unfit": bool(chosen.unfit), "may_turn": not any(one.does for one in chosen.operations),
        "degrees": NUMBERS["degrees"],
    }  # fmt: skip


def hosts_of(build: Build, piece_id: str) -> list[BuiltPiece]:
    """The pieces that one can decorate."""
    return [
        one for one in build.pieces if one.piece.id != piece_id and any(each.decorated for each in one.operations)
    ]


def may(build: Build, chosen: BuiltPiece) -> dict[str, Any]:
    """What can be done with a piece as it is now."""
    piece = chosen.piece
    return {
        "freeze": may_be_frozen(piece),
        "cloth": bool(piece.shape) and not lays_cloth(piece) and chosen.work.line is None,
        "under": may_get_cloth(build.job, piece),
        "bare": cloth_under(build.job, piece) is not None,
        "let_go": bool(chosen.work.die),
        "turn": [
            (one.name, one.of_cloth)
            for one in constructions().values()
            if one.of_cloth and one is not chosen.kind and bool(piece.shape) and lays_cloth(piece)
        ],
        "apart": chosen.kind.apart is not None,
    }


def families(line: bool, derived: bool = False) -> list[tuple[str, list[Construction]]]:
    """Constructions that a shape, an open line, or what goes round others can be sewn as, by family."""
    known = [one for one in constructions().values() if (one.lines if line else one.areas)]
    known = [one for one in known if one.around] if derived else known
    order = sorted(known, key=lambda one: (list(Family).index(one.family), one.title))
    return [(name, list(group)) for name, group in groupby(order, key=lambda one: one.family)]


def route_of(build: Build, chosen: BuiltPiece) -> dict[str, Any] | None:
    """The route that a piece is sewn on, for its panel."""
    asked = next((one for one in build.job.routes if chosen.piece.id in one.pieces), None)
    built = next((one for one in build.routes if chosen.piece.id in one.pieces), None)
    if asked is None or built is None:
        return None
    return {"count": len(built.pieces), "before": built.before, "after": built.after,
            "ends": _ends(asked.start, asked.end)}  # fmt: skip


def _ends(start: Place | None, end: Place | None) -> list[tuple[str, str, str]]:
    """Key, words and typed form of where sewing begins and ends."""
    return [(key, word, "" if at is None else f"{at[0]:g}, {at[1]:g}")
            for key, word, at in (("start", "Starts near", start), ("end", "Ends near", end))]  # fmt: skip


@dataclass(frozen=True)
class ValueRow:
    """A value as it is shown."""

    value: Value
    differs: str = ""  # what the chosen pieces have, where they do not agree


def value_groups(values: Values, others: list[Values]) -> list[tuple[str, list[ValueRow]]]:
    """Values that matter now, by the group of their setting, over those of the pieces chosen beside."""
    shown = [_row(value, others) for value in values.values() if matters(value, values)]
    return [(name, list(group)) for name, group in groupby(shown, key=lambda row: row.value.setting.group)]


def _row(value: Value, others: list[Values]) -> ValueRow:
    key = value.setting.key
    every = list(dict.fromkeys([value.shown, *(one[key].shown for one in others if key in one)]))
    return ValueRow(value, " · ".join(every) if len(every) > 1 else "")


def together_of(chosen: BuiltPiece, others: list[BuiltPiece]) -> dict[str, Any]:
    """What several chosen pieces have in common, "" where they differ, and what can be done with them."""
    every = [chosen.piece, *(one.piece for one in others)]

    def common(key: str) -> str:
        found = {getattr(one, key) for one in every}
        return str(found.pop()) if len(found) == 1 else ""

    return {
        "ids": ",".join(one.piece.id for one in others),
        "count": len(every),
        **{key: common(key) for key in ("cloth", "thread", "construct", "on")},
        "lays": any(lays_cloth(one) for one in every),
        "shaped": all(one.shape for one in every),
        "families": families(
            any(one.work.line is not None for one in (chosen, *others)), any(not one.shape for one in every)
        ),
    }


PARTS = "stitches", "sewing", "presets", "add", "places", "guides", "needles"
ROWS = "pieces", "sewn"


def opened(request: HttpRequest) -> list[str]:
    """Which parts of the panels stand open; the others are sent without what is in them."""
    sent = request.POST if request.method == "POST" else request.GET
    return [one for one in (*PARTS, *_pictured()) if one in sent.get("open", "").split(",")]


@cache
def _pictured() -> list[str]:
    """Keys of the settings that are chosen by picture: their lists are parts of the panels too."""
    every = [one for kind in constructions().values() for one in kind.settings if one.kind == "motif" or one.pictures]
    return list(dict.fromkeys(one.key for one in every))


def rows_shown(request: HttpRequest) -> str:
    """How the Stack is listed: by piece, or pass by pass as it is sewn."""
    sent = request.POST if request.method == "POST" else request.GET
    return sent.get("rows", "") if sent.get("rows", "") in ROWS else ROWS[0]
