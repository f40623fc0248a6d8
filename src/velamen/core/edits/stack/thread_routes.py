"""Edits of routes: pieces of one thread sewn on without trims."""

from __future__ import annotations

from velamen.core.constructions import lays_cloth
from velamen.core.errors import BadInput
from velamen.core.job.document import Job, Route, change
from velamen.core.numbers import read_number

FARTHEST = 1000.0  # mm


def neighbours(job: Job, piece_id: str) -> list[str]:
    """Pieces round one in the stack that sew with its thread and lay no cloth, itself among them."""
    ids = [piece.id for piece in job.pieces]
    if piece_id not in ids:
        return []
    at = ids.index(piece_id)
    thread = job.pieces[at].thread
    like = [piece.thread == thread and not lays_cloth(piece) for piece in job.pieces]
    if not like[at]:
        return []
    low = high = at
    while low > 0 and like[low - 1]:
        low -= 1
    while high < len(ids) - 1 and like[high + 1]:
        high += 1
    return ids[low : high + 1]


def with_route(job: Job, piece_id: str, do: str, start: str = "", end: str = "") -> Job:
    """The job with a route made of a piece and its neighbours, given other ends, or taken apart."""
    others = [one for one in job.routes if piece_id not in one.pieces]
    mine = next((one for one in job.routes if piece_id in one.pieces), None)
    if do == "drop":
        return change(job, routes=others)
    if do == "make":
        group = neighbours(job, piece_id)
        if len(group) < 2:
            raise BadInput("A route needs two pieces of one thread that lie together in the stack.")
        others = [one for one in others if not set(one.pieces) & set(group)]
        return change(job, routes=[*others, Route(group)])
    if mine is None:
        raise BadInput("That piece is on no route any more: reload the page.")
    changed = change(mine, start=place_of(start, "start"), end=place_of(end, "end"))
    return change(job, routes=[*others, changed])


def place_of(text: str, what: str) -> tuple[float, float] | None:
    """A typed place, None where nothing is typed."""
    if not text.strip():
        return None
    try:
        x, y = (read_number(one) for one in text.replace(";", ",").split(","))
    except ValueError:
        raise BadInput(f"The {what} {text[:40]!r} cannot be read: type it as x, y in mm, from the middle.") from None
    if not (abs(x) <= FARTHEST and abs(y) <= FARTHEST):
        raise BadInput(f"The {what} lies beyond {FARTHEST:g} mm from the middle.")
    return x, y
