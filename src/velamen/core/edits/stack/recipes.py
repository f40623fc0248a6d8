"""How something is built, kept from one job and put round the design of another."""

from __future__ import annotations

import tomllib
from collections.abc import Sequence
from functools import cache
from importlib.resources import files

import msgspec

from velamen.core.building.following import hosts, is_ground
from velamen.core.constructions import construction, lays_cloth
from velamen.core.edits.shapes.bring_in import MAX_PIECES
from velamen.core.edits.shapes.live_shapes import free_maker, with_maker
from velamen.core.edits.stack.grounds import base_thread, new_ground
from velamen.core.edits.stack.pieces import free_number
from velamen.core.errors import BadInput
from velamen.core.job.document import EVERY, Job, Piece, change
from velamen.core.job.recipe import Line, Part, Recipe, check_recipe, part_of
from velamen.core.job.regions import region_of
from velamen.core.job.shape import Around


@cache
def shipped_recipes() -> dict[str, Recipe]:
    """The recipes that come with it, by key."""
    rows = tomllib.loads(files(__package__).joinpath("recipes.toml").read_text("utf-8"))
    return {key: check_recipe(msgspec.convert(row, Recipe)) for key, row in rows.items()}


def design_of(job: Job, piece_ids: Sequence[str] = ()) -> list[Piece]:
    """The pieces that a recipe goes round: those chosen, or all that stand round no other."""
    around = set(_round_design(job))
    return [one for one in job.pieces if one.shape and not is_ground(one) and one.id not in around
            and (not piece_ids or one.id in piece_ids)]  # fmt: skip


def recipe_of(job: Job, name: str, about: str = "") -> Recipe:
    """How a job is built round its design. Raises BadInput where nothing stands round one."""
    around = _round_design(job)
    design = design_of(job)
    if not around or not design:
        raise BadInput("Nothing in this job goes round a design: there is no way of building to keep.")
    first = job.pieces.index(design[0])
    lines = {one.id: one for one in job.makers if isinstance(one, Around)}
    shapes = {one.id: one for one in job.shapes}
    parts = []
    for one in job.pieces:
        if one.id not in around:
            continue
        maker = lines.get(shapes[one.shape].maker) if one.shape else None
        line = Line(**{key: getattr(maker, key) for key in Line.__struct_fields__}) if maker else None
        part = part_of(one, line=line, over=job.pieces.index(one) > first, host=around[one.id],
                       around=[key for key in one.around if key in around])  # fmt: skip
        parts.append(part if line or not one.shape else _found_again(job, part, one, design))
    return check_recipe(Recipe(" ".join(name.split()), parts, about, job.brief))


def _round_design(job: Job) -> dict[str, bool]:
    """Ids of the pieces that stand round a design, with whether that decorates them."""
    on = set(hosts(job.pieces).values())
    lines = {one.id for one in job.makers if isinstance(one, Around)}
    live = {one.id for one in job.shapes if one.maker in lines}
    found = {}
    for one in job.pieces:
        around = construction(one.construct).around
        if not one.shape or one.shape in live or (around is not None and around.early and one.id in on):
            found[one.id] = bool(one.shape) and one.id in on
    return found


def _found_again(job: Job, part: Part, piece: Piece, design: Sequence[Piece]) -> Part:
    """A part that stands on a shape of its own, with the values that find the like of it round any design."""
    around = construction(piece.construct).around
    shapes = {one.id: one for one in job.shapes}
    regions = [region_of(shapes[one.shape]) for one in design if not shapes[one.shape].open]
    values = around.read(region_of(shapes[piece.shape]), regions) if around and regions else {}
    return change(part, own={**part.own, **values}, host=False)


def with_recipe(job: Job, recipe: Recipe, piece_ids: Sequence[str] = ()) -> Job:
    """The job with all of a recipe's pieces round its design, or round the chosen pieces of it."""
    design = design_of(job, piece_ids)
    if not design:
        raise BadInput(f"There is nothing yet that {recipe.name} could go round: bring in artwork first.")
    if any(one.same for one in recipe.parts):
        return _made_of_itself(job, recipe, design)
    if len(job.pieces) + len(recipe.parts) > MAX_PIECES:
        raise BadInput(f"The job has {len(job.pieces)} pieces: at most {MAX_PIECES} fit into one.")
    every = len(design) == len(design_of(job))
    inside = [EVERY] if every else [one.id for one in design]
    made: dict[str, str] = {}  # ids of pieces by those of parts
    for part in recipe.parts:
        known = {one.id for one in job.pieces}
        job = _with_part(job, part, [one.id for one in design], inside)
        fresh = [one.id for one in job.pieces if one.id not in known]
        made[part.id] = fresh[0]
        if part.host:
            guests = {one.id for one in design}
            job = change(job, pieces=[change(one, on=fresh[0]) if one.id in guests and not one.on else one
                                      for one in job.pieces])  # fmt: skip
    around = {made[one.id]: [made[key] for key in one.around] for one in recipe.parts if one.around}
    pieces = [change(one, around=around[one.id]) if one.id in around else one for one in job.pieces]
    return change(job, pieces=pieces)


def _made_of_itself(job: Job, recipe: Recipe, design: Sequence[Piece]) -> Job:
    """The job with the parts of a recipe on each shape of the design, part after part, in place of its pieces."""
    lines = {one.id for one in job.shapes if one.open}
    closed = [one for one in design if one.shape not in lines]
    if not closed:
        raise BadInput(f"{recipe.name} is made of closed shapes: there is none among what is chosen.")
    parts = [one for one in recipe.parts if one.same]
    if len(job.pieces) + (len(parts) - 1) * len(closed) > MAX_PIECES:
        raise BadInput(f"The job has {len(job.pieces)} pieces: at most {MAX_PIECES} fit into one.")
    free = iter(range(free_number(job), free_number(job) + len(parts) * len(closed)))
    made = []
    for nth, part in enumerate(parts):
        for one in closed:
            title = construction(part.construct).title.lower()
            own = {key: value for key, value in part.own.items() if construction(part.construct).setting(key)}
            made.append(_in_its_materials(job, part, change(
                one, id=one.id if nth == 0 else f"p{next(free)}", construct=part.construct, own=own, threads={},
                local=[], start=None, end=None, name=f"{one.name}, {title}",
            )))  # fmt: skip
    at = job.pieces.index(closed[0])
    taken = {one.id for one in closed}
    before = [one for one in job.pieces[:at] if one.id not in taken]
    after = [one for one in job.pieces[at:] if one.id not in taken]
    return change(job, pieces=[*before, *made, *after])


def _in_its_materials(job: Job, part: Part, piece: Piece) -> Piece:
    """A piece in a part's cloth and threads, where the job has them."""
    library = job.library
    named: Piece = change(
        piece, cloth=part.cloth if part.cloth in library.cloths else piece.cloth,
        thread=part.thread if part.thread in library.threads else piece.thread,
        threads={role: key for role, key in part.threads.items() if key in library.threads},
    )  # fmt: skip
    return named


def _with_part(job: Job, part: Part, design: Sequence[str], around: list[str]) -> Job:
    """The job with one part more, under the design or over it, in the recipe's materials where the job has them."""
    kind = construction(part.construct)
    places = [nth for nth, one in enumerate(job.pieces) if one.id in design]
    at = max(places) + 1 if part.over else min(places)
    own = {key: value for key, value in part.own.items() if kind.setting(key)}
    if part.line is None:
        piece = new_ground(job, part.construct, around)
        job = change(job, pieces=[*job.pieces[:at], piece, *job.pieces[at:]])
    else:
        sources = [one.shape for one in job.pieces if one.id in design]
        line = Around(free_maker(job), sources, **msgspec.structs.asdict(part.line))
        known = {one.id for one in job.pieces}
        job = with_maker(job, line, at=at)
        piece = next(one for one in job.pieces if one.id not in known)
        if not lays_cloth(change(piece, construct=part.construct)):
            piece = change(piece, thread=base_thread(job))
    changed = _in_its_materials(job, part, change(
        piece, construct=part.construct, name=part.name or piece.name, own=own))  # fmt: skip
    return change(job, pieces=[changed if one.id == piece.id else one for one in job.pieces])
