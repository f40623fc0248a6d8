"""Parts of a stitch file taken into a job: as needle points, as shapes, as appliqués."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence

import numpy as np
import shapely
from PIL import ImageColor
from shapely import Polygon

from velamen.core.arrays import Array
from velamen.core.constructions import construction, constructions, usual
from velamen.core.constructions.base import Construction, FoundPart
from velamen.core.edits.shapes.bring_in import free_name, with_line, with_region
from velamen.core.edits.shapes.needle_shapes import with_needle_piece
from velamen.core.errors import BadInput
from velamen.core.geometry.refit import curved
from velamen.core.geometry.region import polygons_of
from velamen.core.job.document import Job, Piece, StitchFile, change
from velamen.core.job.shape import Shape, plain
from velamen.core.materials.colour import matching_cloths, nearest_thread
from velamen.core.materials.hoops import hoop_for
from velamen.core.materials.library import Library, pick
from velamen.core.recovery.kept_points import kept_points
from velamen.core.recovery.one_repeat import one_repeat
from velamen.core.recovery.parts import KIND_WORDS
from velamen.core.recovery.proposals import Proposal
from velamen.core.recovery.recovered import Recovered
from velamen.core.recovery.strips import Stitches, stitches_of
from velamen.core.recovery.ways import DROP, KEEP, OUTLINE, WAYS, shapes_of, ways_of
from velamen.core.setting import Plain

MARGIN = 6.0  # mm round all of it within a hoop
NEAR = 0.12  # mm that a curve may lie off what was found: a needle grid, and steps of rows at a slant
CLOTH = "cloth"


def thread_keys(found: Recovered, library: Library) -> list[str]:
    """Keys of threads for those of a file: by its own names where these are keys or colours, others in turn."""
    rows = list(library.threads.values())
    usual_ones = [one.key for one in rows if one.finish == "matte" and one.weight == 40] or [one.key for one in rows]
    apart = usual_ones[:: max(1, len(usual_ones) // 12)]
    names = found.rows.names
    keys = []
    for nth in range(int(found.rows.thread.max(initial=0)) + 1):
        name = names[nth] if nth < len(names) else ""
        if name in library.threads:
            keys.append(name)
        elif colour := _colour(name):
            keys.append(nearest_thread(colour, library).key)
        else:
            keys.append(apart[nth % len(apart)])
    return keys


def _colour(name: str) -> str:
    """A colour by one of its usual names or figures as "#rrggbb", "" where it is none."""
    try:
        red, green, blue = ImageColor.getrgb(name)[:3]
    except ValueError:
        return ""
    return f"#{red:02x}{green:02x}{blue:02x}"


def take_stitch_parts(
    job: Job, found: Recovered, file: StitchFile, wanted: Mapping[int, str], cloths: Mapping[int, str],
    threads: Sequence[str],
) -> Job:  # fmt: skip
    """The job with chosen parts of a stitch file, on top of the stack in the order they are sewn in.

    wanted: by number of a part, from 0, what it becomes, keys of WAYS; those not named are left out; cloths: by
    number of a proposal the construction that it becomes, "" for the usual one; threads: keys, by number of the
    file's.
    """
    plan = _Taking(found, threads)
    taken = {nth for key in cloths for nth in _parts_of(found.proposals[key])}
    wanted = {nth: way for nth, way in wanted.items() if nth not in taken and way != DROP}
    for nth, way in wanted.items():
        if not found.listed(nth) or way not in ways_of(found.segments[nth]):
            raise BadInput(
                f"Part {found.numbers.get(nth, nth)} cannot become {WAYS.get(way, way[:20])!r}: reload the page."
            )
    if not wanted and not cloths:
        raise BadInput("Every part is dropped: keep one, or turn one into a shape.")
    job = _hooped(job, found)
    steps = [(found.proposals[key].placement[0], key, CLOTH) for key in cloths]
    steps += [(nth, nth, way) for nth, way in wanted.items() if way != KEEP]
    groups = _groups(found, {nth for nth, way in wanted.items() if way == KEEP})
    steps += [(first, last, KEEP) for first, last in groups]
    for first, other, way in sorted(steps):
        if way == CLOTH:
            job = plan.cloth(job, found.proposals[other], cloths[other])
        elif way == KEEP:
            job = plan.needles(job, first, other)
        else:
            job = plan.shapes(job, first, way)
    return _out_of(job, file)


def take_repeat(
    job: Job, found: Recovered, file: StitchFile, lines: tuple[float, float], upright: bool, threads: Sequence[str]
) -> Job:
    """The job with one repeat of a strip, cut out of a stitch file at two lines, as needle points.

    lines: mm on the field, the x of both, or the y where the strip runs upright.
    """
    plan = _Taking(found, threads)
    off = float(found.shift[1 if upright else 0])
    kind = next(one for one in constructions().values() if one.needles)
    job = _hooped(job, found)
    for thread, strands in one_repeat(plan.stitches, lines[0] - off, lines[1] - off, upright):
        job = with_needle_piece(job, "Repeat", strands, found.shift, plan.like(job, thread, kind, {}))
    return _out_of(job, file)


def _out_of(job: Job, file: StitchFile) -> Job:
    """The job, which says that it came from a file too."""
    return change(job, files=job.files if file in job.files else [*job.files, file])


def _parts_of(one: Proposal) -> tuple[int, ...]:
    return (*one.placement, *one.drops)


def _groups(found: Recovered, kept: Collection[int]) -> list[tuple[int, int]]:
    """First and last of kept parts that follow one another in one thread, with nothing of others between them."""
    groups: list[tuple[int, int]] = []
    segments, listed = found.segments, list(found.numbers)
    for before, nth in zip([-1, *listed], listed, strict=False):
        if nth not in kept:
            continue
        if groups and groups[-1][1] == before and segments[before].thread == segments[nth].thread:
            groups[-1] = groups[-1][0], nth
        else:
            groups.append((nth, nth))
    return groups


def _hooped(job: Job, found: Recovered) -> Job:
    """An empty job in a hoop that holds all of a file, where there is one."""
    sewn = found.rows.xy
    low, high = sewn.min(axis=0) + found.shift, sewn.max(axis=0) + found.shift
    reach = 2.0 * np.maximum(np.abs(low), np.abs(high)) + MARGIN
    hoop = hoop_for(job.library, float(reach[0]), float(reach[1])) if not job.pieces else None
    return change(job, brief=change(job.brief, hoop=hoop.key)) if hoop else job


class _Taking:
    """What every part of one file needs."""

    def __init__(self, found: Recovered, threads: Sequence[str]) -> None:
        self.found, self.threads = found, threads
        self.stitches: Stitches = stitches_of(found.rows)

    def like(self, job: Job, thread: int, construct: Construction, own: Mapping[str, Plain]) -> Piece:
        """A piece in one of the file's threads, on the cloth nearest to that."""
        key = self.threads[thread]
        pick(job.library.threads, key, "thread")
        cloth = matching_cloths([job.library.threads[key].colour], job.library)[0].key
        return Piece("", "", "", construct.name, cloth, key, dict(own))

    def needles(self, job: Job, first: int, last: int) -> Job:
        """Parts kept as they are."""
        segments = self.found.segments
        strands = kept_points(self.stitches, segments, self.found.first_of(first), last)
        kind = next(one for one in constructions().values() if one.needles)
        like = self.like(job, segments[first].thread, kind, {})
        alone = first == last
        name = (
            KIND_WORDS[segments[first].kind]
            if alone
            else f"Parts {self.found.numbers[first]} to {self.found.numbers[last]}"
        )
        return with_needle_piece(job, name, strands, self.found.shift, like)

    def shapes(self, job: Job, nth: int, way: str) -> Job:
        """A part turned into shapes that are sewn as it was."""
        one = self.found.segments[nth]
        areas, line = shapes_of(one, way)
        kind, own = sewn_like(
            FoundPart(one.kind, way, one.spacing, one.width, one.angle, one.length), line is not None
        )
        like = self.like(job, one.thread, kind, own)
        name = KIND_WORDS[one.kind] + (f" {WAYS[way].lower()}" if way != OUTLINE else "")
        if line is not None:
            return self._line(job, name, line, like)
        for area in areas:
            job = self._area(job, name, area, like)
        return job

    def cloth(self, job: Job, one: Proposal, construct: str) -> Job:
        """An appliqué found, as one piece of cloth."""
        cover = self.found.segments[one.drops[-1]]
        part = FoundPart(cover.kind, CLOTH, cover.spacing, cover.width, cover.angle)
        kind = construction(construct) if construct else usual("area")
        like = self.like(job, cover.thread, kind, kind.measured(kind.reads(part) or {}))
        for area in polygons_of(one.cloth):
            job = self._area(job, "Cloth", area, like)
        return job

    def _area(self, job: Job, name: str, area: Polygon, like: Piece) -> Job:
        moved = shapely.transform(area, lambda points: points + self.found.shift)
        region, nodes = curved(moved, NEAR)
        return with_region(job, free_name(job, name), region, like=like, nodes=nodes)

    def _line(self, job: Job, name: str, line: Array, like: Piece) -> Job:
        job = with_line(job, Shape("", name, plain([line + self.found.shift]), open=True))
        shape = job.shapes[-1]
        return change(job, pieces=[*job.pieces, change(like, id=f"p{shape.id[1:]}", name=shape.name, shape=shape.id)])


def sewn_like(part: FoundPart, line: bool) -> tuple[Construction, dict[str, Plain]]:
    """The construction that sews a part as it was, with its own values; the usual one where none does."""
    for kind in constructions().values():
        measured = kind.reads(part)
        if measured is not None and (kind.lines if line else kind.areas):
            return kind, kind.measured(measured)
    return usual("line" if line else "area"), {}
