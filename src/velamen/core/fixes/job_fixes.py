"""Ways to end a finding: edits of the job, each built and offered only where the finding goes and none comes."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from itertools import chain

from velamen.core.building.build import Build, build_job
from velamen.core.building.built_piece import BuiltPiece
from velamen.core.constructions import construction, sewn_pieces
from velamen.core.constructions.base import Sewn
from velamen.core.edits.stack.makeup import set_makeup
from velamen.core.edits.stack.own_values import with_values
from velamen.core.errors import BadInput
from velamen.core.fixes.drawn_inside import drawn_inside
from velamen.core.fixes.lace_held import bridged, net_under, underlaid
from velamen.core.fixes.moved_inside import moved_inside
from velamen.core.fixes.stroke_width import stroke_width
from velamen.core.geometry.combine import fill_holes
from velamen.core.geometry.region import boundaries
from velamen.core.job.document import Job, change
from velamen.core.job.regions import region_of
from velamen.core.job.shape import reshaped
from velamen.core.proofs.density import densest
from velamen.core.proofs.finding import Finding
from velamen.core.proofs.told import told_of
from velamen.core.setting import Plain
from velamen.core.timeline.operation import Hand
from velamen.core.values.value import matters, number

WIDER = (1.1, 1.2, 1.35, 1.5, 1.75, 2.0)  # times a spacing is opened, the least that does is taken
SPACINGS = ("satin_spacing", "fill_spacing")


@dataclass(frozen=True)
class Mend:
    """An edit that ends a finding: what its button says, and the job after it."""

    label: str
    job: Job


def mends(build: Build, finding: Finding) -> list[Mend]:
    """Ways to end a finding, most fitting first; none where there is no safe one."""
    ways = [_of_construction(build, finding)]
    ways += [_holes_closed(build, finding)] if finding.holes_below else []
    ways += [_as_another(build, finding)] if finding.instead else []
    ways += [WAYS[finding.code](build, finding)] if finding.code in WAYS else []
    found: list[Mend] = []
    for label, job in chain(*ways):
        if all(label != one.label for one in found) and _ends(build, finding, job):
            found.append(Mend(label, job))
    return found


def mends_of(build: Build, code: str, piece: str) -> list[str]:
    """What the buttons say that end a finding, by its code and piece; none where it is gone."""
    found = next((one for one in told_of(build.findings) if (one.code, one.piece) == (code, piece)), None)
    return [one.label for one in mends(build, found)] if found else []


def mended(job: Job, code: str, piece: str, label: str) -> Job:
    """The job after the mend of that label. Raises BadInput where the finding or the mend is gone."""
    build = build_job(job)
    for finding in build.findings:
        if (finding.code, finding.piece) == (code, piece):
            for one in mends(build, finding):
                if one.label == label:
                    return one.job
    raise BadInput("That finding is gone: reload the page.")


def _ends(build: Build, finding: Finding, job: Job) -> bool:
    """Whether a job has fewer findings of a kind than a build, and no more of any other."""
    try:
        after = build_job(job)
    except BadInput:
        return False
    was, now = (Counter((one.code, one.piece) for one in each.findings) for each in (build, after))
    key = (finding.code, finding.piece)
    return now[key] < was[key] and all(count <= was[other] for other, count in now.items())


Ways = Iterator[tuple[str, Job]]


def _into_order(build: Build, finding: Finding) -> Ways:
    """A piece, or all of them, back in the order of the stack; a ground under what it goes round."""
    job, name = build.job, _name(build, finding.piece)
    if job.order:
        kept = [key for key in job.order if not key.startswith(f"{finding.piece}:")]
        yield f"Sew {name} where the stack has it", change(job, order=kept)
        yield "Back to the stack's order", change(job, order=[])
    pieces = list(sewn_pieces(job))
    piece = next((one for one in pieces if one.id == finding.piece), None)
    around = construction(piece.construct).around if piece is not None else None
    if piece is not None and around is not None and around.first:
        pieces.remove(piece)
        yield f"Sew {name} first", change(job, pieces=[piece, *pieces], order=[])


def _after_trimming(build: Build, finding: Finding) -> Ways:
    """What is sewn over the waste of a cloth behind its trimming."""
    job, name = build.job, _name(build, finding.piece)
    keys = [one.key for one in build.operations if one.piece]
    own = {one.does.kind: one.key for one in build.operations if one.does and one.piece == finding.piece}
    if Hand.LAY in own and Hand.TRIM in own:
        low, high = keys.index(own[Hand.LAY]), keys.index(own[Hand.TRIM])
        between = [key for key in keys[low + 1 : high] if not key.startswith(f"{finding.piece}:")]
        mine = [key for key in keys[low + 1 : high] if key not in between]
        order = [*keys[: low + 1], *mine, keys[high], *between, *keys[high + 1 :]]
        yield f"Sew on once {name} is trimmed", change(job, order=order)
    if job.order:
        yield "Back to the stack's order", change(job, order=[])


def _after_cutting(build: Build, finding: Finding) -> Ways:
    """An opening cut before all that is sewn across it."""
    keys = [one.key for one in build.operations if one.piece]
    own = [one.key for one in build.operations if one.piece == finding.piece]
    cut = next((one.key for one in build.operations if one.piece == finding.piece and one.does
                and one.does.kind is Hand.CUT_OPENING), None)  # fmt: skip
    if cut is not None:
        first = [key for key in own if own.index(key) <= own.index(cut)]
        order = [*first, *(key for key in keys if key not in first)]
        yield f"Cut {_name(build, finding.piece)} first", change(build.job, order=order)
    if build.job.order:
        yield "Back to the stack's order", change(build.job, order=[])


def _of_construction(build: Build, finding: Finding) -> Ways:
    """What the construction of the piece, or of the pieces that cause it, can do about a finding."""
    edits = []
    for key in finding.others or (finding.piece,):
        built = build.piece(key)
        way = built.kind.ways.get(finding.code) if built else None
        if built is None or way is None:
            continue
        for label, values in way(Sewn(built.work, built.values, built.sewn, built.operations)):
            edits.append((key, values))
            yield label, with_values(build.job, key, values)
    if len(finding.others) > 1 and len(edits) > 1:
        job = build.job
        for key, values in edits:
            job = with_values(job, key, values)
        yield "All of them", job


def _holes_closed(build: Build, finding: Finding) -> Ways:
    """Holes up to the size that a finding names closed."""
    job = build.job
    piece = next((one for one in job.pieces if one.id == finding.piece), None)
    shape = next((one for one in job.shapes if piece is not None and one.id == piece.shape), None)
    if shape is not None:
        whole = fill_holes(region_of(shape), finding.holes_below * 1.0001)
        shapes = [reshaped(one, boundaries(whole)) if one.id == shape.id else one for one in job.shapes]
        yield "Close the cut-outs too small for scissors", change(job, shapes=shapes)


def _as_another(build: Build, finding: Finding) -> Ways:
    """A piece made with the construction that fits it better, with its own values as far as that knows them."""
    title = construction(finding.instead).title.lower()
    job = set_makeup(build.job, finding.piece, "", "", "", finding.instead, build.job.library)
    yield f"Sew {_name(build, finding.piece)} as a {title}", job


def _opened(build: Build, finding: Finding) -> Ways:
    """Spacings opened of what sews most where it is densest, of one piece, or of all of those."""
    weights: Counter[str] = Counter()
    for place in densest(build.plan):
        for block, share in place.sewn:
            weights[build.plan.blocks[block].piece] += round(1000 * share * place.value)
    sewing = [built for piece, _ in weights.most_common(3) if (built := build.piece(piece)) and _spacings(built)]
    groups = [[one] for one in sewing] + ([sewing] if len(sewing) > 1 else [])
    for group in groups:
        for times in WIDER:
            job = build.job
            for built in group:
                job = with_values(job, built.piece.id, _opened_by(built, times))
            if _ends(build, finding, job):
                names = " and ".join(one.piece.name for one in group)
                yield f"Open the spacing of {names} by {100 * (times - 1):.0f} %", job
                break


def _spacings(built: BuiltPiece) -> list[str]:
    """Keys of the spacings of a piece that its density hangs on."""
    return [key for key, value in built.values.items() if value.setting.measure in SPACINGS and matters(
        value, built.values)]  # fmt: skip


def _opened_by(built: BuiltPiece, times: float) -> dict[str, Plain]:
    return {key: min(round(number(built.values, key) * times, 2), built.values[key].setting.high)
            for key in _spacings(built)}  # fmt: skip


def _taken_out(build: Build, finding: Finding) -> Ways:
    """A piece that sews nothing taken out of the stack; its shape stays."""
    pieces = [one for one in build.job.pieces if one.id != finding.piece]
    if len(pieces) < len(build.job.pieces):
        yield f"Take {_name(build, finding.piece)} out of the stack", change(build.job, pieces=pieces)


def _left_out(build: Build, finding: Finding) -> Ways:
    """Those that cause a finding taken out of the stack; their shapes stay."""
    pieces = [one for one in build.job.pieces if one.id not in finding.others]
    if len(pieces) < len(build.job.pieces):
        names = " and ".join(_name(build, key) for key in finding.others)
        yield f"Leave out {names}", change(build.job, pieces=pieces)


WAYS: dict[str, Callable[[Build, Finding], Ways]] = {
    "order_wrong": _into_order,
    "trim_blocked": _after_trimming,
    "opening_sewn": _after_cutting,
    "edge_sealed": _left_out,
    "density_high": _opened,
    "density_stiff": _opened,
    "nothing_sewn": _taken_out,
    "clearance_small": drawn_inside,
    "lace_apart": lambda build, finding: chain(bridged(build, finding), net_under(build, finding)),
    "lace_bare": underlaid,
    "lace_hinge": lambda build, finding: chain(bridged(build, finding), net_under(build, finding)),
    "lace_sags": net_under,
    "outside_field": moved_inside,
    "puff_narrow": stroke_width,
    "puff_wide": stroke_width,
}


def _name(build: Build, piece_id: str) -> str:
    built = build.piece(piece_id)
    return built.piece.name if built else piece_id
