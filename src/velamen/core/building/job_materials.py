"""The materials that a job is made of: keys it names, and rows of a shop's own that travel with it."""

from __future__ import annotations

from velamen.core.constructions import construction
from velamen.core.job.document import NEAREST, Job, change
from velamen.core.materials.library import Library, differing, library_with
from velamen.core.setting import NONE


def materials_used(job: Job) -> dict[str, set[str]]:
    """Keys of all materials that a job names, by kind."""
    brief = job.brief
    used: dict[str, set[str]] = {
        "bases": {brief.base},
        "stabilizers": {brief.stabilizer},
        "toppings": {brief.topping},
        "hoops": {brief.hoop},
        "threads": {brief.thread} - {NEAREST},
    }
    for kind, keys in made_of(job).items():
        used[kind] = used.get(kind, set()) | keys
    return used


def made_of(job: Job) -> dict[str, set[str]]:
    """Keys of the materials that shapes and pieces name themselves, by kind."""
    used: dict[str, set[str]] = {
        "cloths": {piece.cloth for piece in job.pieces},
        "threads": {key for piece in job.pieces for key in (piece.thread, *piece.threads.values())},
        "dies": {shape.die for shape in job.shapes if shape.die},
        "tools": {key for piece in job.pieces for key in construction(piece.construct).tools},
    }
    for piece in job.pieces:
        for key, value in piece.own.items():
            setting = construction(piece.construct).setting(key)
            if setting is not None and setting.material:
                used.setdefault(setting.material, set()).add(str(value))
    return {kind: keys - {NONE} for kind, keys in used.items()}


def take_rows(job: Job, library: Library, wanted: dict[str, set[str]]) -> Job:
    """The job with the wanted rows (keys by kind) as a library has them now.

    Rows that those refer to come along; a row gone from the library stays as it was.
    """
    wanted = _with_referred(library, wanted)
    rows = differing(library, wanted)
    for kind, known in job.materials.items():
        asked = {key for key in wanted.get(kind, ()) if key in library.rows(kind)}
        kept = {key: fields for key, fields in known.items() if key not in asked}
        if kept or kind in rows:
            rows[kind] = {**kept, **rows.get(kind, {})}
    return change(job, materials=rows)


def with_materials(job: Job, library: Library) -> Job:
    """The job with every row it names as a library has it now, and no row it does not name."""
    fresh = take_rows(job, library, materials_used(job))
    used = _with_referred(library_with(fresh.materials), materials_used(fresh))
    rows = {
        kind: {key: fields for key, fields in known.items() if key in used.get(kind, ())}
        for kind, known in fresh.materials.items()
    }
    return change(fresh, materials={kind: known for kind, known in rows.items() if known})


def _with_referred(library: Library, wanted: dict[str, set[str]]) -> dict[str, set[str]]:
    cloths = [library.cloths[key] for key in wanted.get("cloths", ()) if key in library.cloths]
    bases = wanted.get("bases", set()) | {cloth.like for cloth in cloths}
    rows = [library.bases[key] for key in bases if key in library.bases]
    return {
        **wanted,
        "bases": bases,
        "stabilizers": wanted.get("stabilizers", set()) | {row.stabilizer for row in rows},
        "toppings": wanted.get("toppings", set()) | {row.topping for row in rows},
    }
