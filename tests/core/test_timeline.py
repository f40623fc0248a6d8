"""The timeline: three builds worked out by hand, and what holds for every order that keeps all needs."""

import random
from functools import cache

import pytest
import shapely
from shapely import box

from core.jobs import job_of, order_of
from core.shapes import SHAPES
from velamen.core.building.build import build_job
from velamen.core.building.matched import matched_job
from velamen.core.constructions import constructions
from velamen.core.job.document import Brief, Piece, brief_for, change
from velamen.core.stitching.roles import declared
from velamen.core.timeline.effects import CutsBack, Lays, Means, Opens, Presses, TakesAway
from velamen.core.timeline.layers import Layer, parted
from velamen.core.timeline.moments import END, layers_before
from velamen.core.timeline.operation import Does, Guard, Hand, Operation, Share, When
from velamen.core.timeline.order import in_order
from velamen.core.timeline.placed import Placed
from velamen.core.timeline.refusals import violations
from velamen.core.timeline.stops import together

FOAM = Layer("foam", "foam_2", "2 mm foam", 2.0)
ON_FOAM = "{what} of {of} would be sewn on foam: sew it before it is laid or after it is torn away."
UNCUT = "{what} of {of} cannot be sewn across the opening of {owner} before it is cut."


def sew(piece, part, region, *needs, **more):
    return Operation(piece, piece, part, region, needs, role=part, fills=lambda work, values: (), **more)


def hand(piece, part, kind, region, *needs, effects=(), **more):
    return Operation(
        piece, piece, part, region, needs, effects, does=Does(kind, part, f"{part} {{names}}.", 10.0), **more
    )


def names(layers, area):
    """Surfaces under an area with their shares, "+" where a topping lies on it, "_" where its pile is pressed."""
    return {f"{one.surface.key if one.surface else 'nothing'}{'+' * one.topped}{'_' * one.pressed}": round(one.share, 2)
            for one in parted(layers, area)}  # fmt: skip


# A. Lettering on a cotton scallop on terry with film, a knockdown round the scallop.


@cache
def scallop():
    job = job_of(box(-30, -20, 30, 20), box(-10, -5, 10, 5), base="terry")
    ground = Piece("k", "Ground", "", "knockdown", around=["p1"])
    pieces = [ground, job.pieces[0], change(job.pieces[1], construct="fill", on="p1")]
    return change(job, brief=Brief("terry", "wash_away", 1, "film", "h200x300"), pieces=pieces)


def test_lettering_on_a_scallop_on_terry():
    bones = matched_job(scallop()).skeleton
    assert [one.key for one in bones.operations] == [
        ":hoop", ":topping", "k:knockdown", "p1:placement", "p1:lay", "p1:tack", "p1:trim", "p2:decoration", "p1:cover",
        ":topping_off",
    ]  # fmt: skip
    assert [one.key for one in bones.layers["k:knockdown"]] == ["wash_away", "terry", "film"]
    edge, inner, far = box(-32, -5, -28, 5), box(-10, -5, 10, 5), box(-60, -5, -50, 5)
    assert names(bones.layers["k:knockdown"], edge) == {"terry+": 1.0}
    assert names(bones.layers["p1:placement"], edge) == {"terry+_": 1.0}
    assert names(bones.layers["p1:placement"], far) == {"terry+": 1.0}
    laid = bones.layers["p1:tack"]
    assert [one.key for one in laid] == ["wash_away", "terry", "film", "sail_red"]
    assert names(laid, inner) == {"sail_red": 1.0}
    assert names(bones.layers["p2:decoration"], inner) == {"sail_red": 1.0}
    assert names(bones.layers["p1:cover"], edge) == {"sail_red": 0.5, "terry+_": 0.5}
    wider = box(-36, -5, -30, 5)  # reaching beyond the knockdown's three millimetres
    assert names(bones.layers["p1:cover"], wider) == {"terry+_": 0.5, "terry+": 0.5}
    # washed out, the film is gone under the cotton too; torn off, it is trapped there
    assert [one.key for one in bones.layers[END]] == ["wash_away", "terry", "sail_red"]
    torn = TakesAway("topping", means=Means.HANDS)
    left = layers_before([*bones.operations[:-1], hand("", "off", Hand.TEAR_AWAY, None, effects=(torn,))])[END]
    assert [(one.key, one.trapped) for one in left][2:] == [("film", True), ("sail_red", False)]
    assert names(left, far) == {"terry": 1.0} and names(left, inner) == {"sail_red": 1.0}


def test_a_knockdown_cannot_come_after_what_it_serves_and_film_changes_the_outer_part_alone():
    job = scallop()
    keys = order_of(build_job(job))
    late = build_job(change(job, order=[*keys[1:], keys[0]]))
    assert [one.why for one in violations(late.placed, late.operations)] == [
        "Knockdown is sewn before what it goes round: piece 1 would lie under it."]  # fmt: skip
    with_film, without = (matched_job(change(job, brief=change(job.brief, topping=key))) for key in ("film", "none"))
    by_piece = [{one.piece.id: one.values for one in found.pieces} for found in (with_film, without)]
    lettering = [{key: value.matched for key, value in one["p2"].items()} for one in by_piece]
    assert lettering[0] == lettering[1]
    edge = box(-32, -5, -28, 5)
    assert names(with_film.skeleton.layers["p1:cover"], edge) == {"sail_red": 0.5, "terry+_": 0.5}
    assert names(without.skeleton.layers["p1:cover"], edge) == {"sail_red": 0.5, "terry_": 0.5}


# B. Puff letters over a flat shadow on a cap, a patch beside them.


def letter(piece, x):
    """A letter of puff: its foam is one sheet over all letters."""
    column, share = box(x, 0, x + 5, 20), Share("foam_2", sheet=True)
    laid = FOAM.placed(box(x - 10, -10, x + 15, 30), piece)
    closed = Guard(column, f"{piece}:lay", f"{piece}:tear", ON_FOAM, sewn=True)
    return Placed(piece, piece, (
        hand(piece, "lay", Hand.LAY, laid.region, effects=(Lays((laid,)),), share=share, guards=(closed,)),
        sew(piece, "foam_tack", column, "lay"), sew(piece, "cap", column, "foam_tack"),
        sew(piece, "column", column, "cap"),
        hand(piece, "tear", Hand.TEAR_FOAM, laid.region, "column", share=share,
             effects=(TakesAway("foam", (piece,), keeps=column),)),
    ))  # fmt: skip


SHADOW = Placed("shadow", "flat shadow", (sew("shadow", "decoration", box(-2, -2, 24, 20)),))
PATCH = Placed("patch", "patch", (sew("patch", "placement", box(60, 0, 90, 20)), sew("patch", "border", box(60, 0, 90, 20), "placement")))  # fmt: skip
LETTERS = (letter("p1", 0), letter("p2", 12))
STEPS = ("lay", "foam_tack", "cap", "column", "tear")
BY_STEP = [f"{piece.id}:{part}" for part in STEPS for piece in LETTERS]
CAP = Operation("", "", "hoop", effects=(Lays((Layer("base", "cap", "cap"),)),), when=When.BEFORE)


def test_letters_of_puff_share_one_sheet_of_foam():
    pieces = (PATCH, SHADOW, *LETTERS)
    order = in_order(pieces, ["patch:placement", "shadow:decoration", "patch:border", *BY_STEP])
    assert violations(pieces, order) == []
    stops = [one for one in together(order) if one.effects]
    assert [(one.kind, one.pieces) for one in stops] == [("lay", ("p1", "p2")), ("tear_foam", ("p1", "p2"))]
    (sheet,) = stops[0].effects[0].layers
    assert sheet.region.equals(box(-10, -10, 27, 30)) and stops[0].seconds == 0.0  # 10 each, 20 spared
    layers = layers_before([CAP, *order])
    assert names(layers["shadow:decoration"], box(0, 0, 5, 20)) == {"cap": 1.0}
    assert names(layers["p2:column"], box(12, 0, 17, 20)) == {"foam_2": 1.0}
    assert names(layers[END], box(12, 0, 17, 20)) == {"foam_2": 1.0}  # under its column it stays
    assert names(layers[END], box(6, 0, 11, 20)) == {"cap": 1.0}  # and between the letters it is torn away


def test_a_flat_shadow_is_not_sewn_on_foam_and_a_patch_only_where_none_lies():
    pieces = (PATCH, SHADOW, *LETTERS)
    inside = in_order(pieces, ["patch:placement", "patch:border", *BY_STEP[:4], "shadow:decoration", *BY_STEP[4:]])
    found = violations(pieces, inside)
    assert {one.why for one in found} == {
        "Decoration of shadow would be sewn on foam: sew it before it is laid or after it is torn away."}  # fmt: skip
    assert {one.before.key for one in found} == {"p1:lay", "p2:lay"}
    aside = in_order(pieces, ["shadow:decoration", "patch:placement", *BY_STEP[:4], "patch:border", *BY_STEP[4:]])
    assert violations(pieces, aside) == []
    assert names(layers_before([CAP, *aside])["patch:border"], box(60, 0, 90, 20)) == {"cap": 1.0}


# C. A cutwork window with a fish appliqué lying partly across the opening.

WINDOW, FISH = box(-20, -20, 20, 20), box(0, -8, 40, 8)
LINEN = Operation("", "", "hoop", when=When.BEFORE, effects=(Lays((
    Layer("stabilizer", "wash_away", "wash-away fabric", 0.3), Layer("base", "linen", "linen", 0.4))),))  # fmt: skip
CUT = Guard(WINDOW, "", "w:cut", UNCUT, sewn=True)
CUTWORK = Placed("w", "window", (
    sew("w", "cut_outline", WINDOW),
    hand("w", "cut", Hand.CUT_OPENING, WINDOW, "cut_outline", effects=(Opens(WINDOW),), guards=(CUT,)),
    sew("w", "bar", WINDOW, "cut"), sew("w", "border", WINDOW, "bar"),
    hand("w", "wash", Hand.WASH_AWAY, None, "border", when=When.AFTER,
         effects=(TakesAway("stabilizer", means=Means.WATER),)),
))  # fmt: skip
COTTON = Layer("cloth", "gold", "gold cotton", 0.3, owners=("f",), region=box(-10, -18, 50, 18))
SWIMMER = Placed("f", "fish", (
    sew("f", "placement", FISH),
    hand("f", "lay", Hand.LAY, FISH, "placement", effects=(Lays((COTTON,)),)), sew("f", "tack", FISH, "lay"),
    hand("f", "trim", Hand.TRIM, FISH, "tack", effects=(CutsBack("f", FISH),)), sew("f", "cover", FISH, "trim"),
))  # fmt: skip


def test_a_window_is_bridged_over_the_stabilizer_and_empty_after_the_wash():
    order = in_order((CUTWORK, SWIMMER))
    assert violations((CUTWORK, SWIMMER), order) == [] and order[-1].key == "w:wash"
    layers = layers_before([LINEN, *order])
    opening, across = box(-15, -5, -5, 5), box(15, -5, 25, 5)
    assert names(layers["w:cut"], opening) == {"linen": 1.0}
    assert names(layers["w:bar"], opening) == {"wash_away": 1.0}
    assert names(layers["w:bar"], across) == {"wash_away": 0.5, "linen": 0.5}  # anchored in the linen
    assert names(layers["f:placement"], across) == {"wash_away": 0.5, "linen": 0.5}
    assert names(layers["f:cover"], box(-1, -5, 1, 5)) == {"gold": 0.5, "wash_away": 0.5}
    assert names(layers[END], opening) == {"nothing": 1.0} and names(layers[END], box(5, -5, 10, 5)) == {"gold": 1.0}
    assert names(layers[END], box(-60, -5, -50, 5)) == {"linen": 1.0}


def test_nothing_but_the_outline_is_sewn_across_an_opening_before_it_is_cut():
    early = in_order((CUTWORK, SWIMMER), ["w:cut_outline", "f:placement", "w:cut"])
    (found,) = violations((CUTWORK, SWIMMER), early)
    assert found.why == "Placement line of f cannot be sewn across the opening of window before it is cut."
    assert (found.operation.key, found.before.key) == ("f:placement", "w:cut")


# What holds for every order.


@cache
def crowd():
    """A knockdown, cloths over and beside one another, and decorations on and off them."""
    job = job_of(box(-60, -20, -20, 20), box(-40, -10, 0, 10), box(20, -20, 60, 20), box(30, -6, 50, 6),
                 box(-90, -30, -70, 30), base="terry", hoop="h360x200")  # fmt: skip
    p1, p2, p3, p4, p5 = job.pieces
    pieces = [Piece("k", "Ground", "", "knockdown", around=["p1", "p2"]), p1, change(p2, cloth="night_ink"), p3,
              change(p4, construct="fill", on="p3"), change(p5, construct="satin_border")]  # fmt: skip
    return change(job, pieces=pieces)


def values_of(job):
    return {
        (one.piece.id, key): value.matched for one in matched_job(job).pieces for key, value in one.values.items()
    }


def shuffled(keys, seed):
    """A random order in which each piece's own steps keep their order."""
    rng, queues, found = random.Random(seed), {}, []
    for key in keys:
        queues.setdefault(key.split(":")[0], []).append(key)
    while queues:
        piece = rng.choice(sorted(queues))
        found.append(queues[piece].pop(0))
        if not queues[piece]:
            del queues[piece]
    return found


@pytest.mark.parametrize("seed", range(60))
def test_an_order_is_refused_by_name_just_where_it_breaks_a_need(seed):
    job = crowd()
    order = shuffled(order_of(build_job(job)), seed)
    build = build_job(change(job, order=order))
    at = {key: nth for nth, key in enumerate(order)}
    found = {(one.operation.key, one.before.key) for one in violations(build.placed, build.operations)}
    first = {piece: min(nth for key, nth in at.items() if key.startswith(piece)) for piece in ("p1", "p2")}
    wanted = set()
    if min(first.values()) < at["k:knockdown"]:
        wanted.add("k:knockdown")
    late = [key for key in at if key.startswith("p1:") and at[key] > at["p2:lay"]]
    if late:
        wanted.add(min(late, key=at.get))
    if at["p4:decoration"] < at["p3:tack"]:
        wanted.add("p3:tack")
    if at["p4:decoration"] > at["p3:cover"]:
        wanted.add("p4:decoration")
    assert {operation for operation, _ in found} == wanted
    assert all((one.why.endswith(".") and build.piece(one.operation.piece).piece.name in one.why)
               or one.operation.first for one in violations(build.placed, build.operations))  # fmt: skip


@pytest.mark.parametrize("seed", range(40))
def test_moving_an_operation_changes_at_most_the_values_of_what_it_touches(seed):
    job = crowd()
    order, rng = order_of(build_job(job)), random.Random(seed)
    before, operations = values_of(job), {one.key: one for one in build_job(job).operations}
    key = rng.choice(order)
    moved = [one for one in order if one != key]
    place = rng.randrange(len(order))
    low, high = sorted((place, order.index(key)))
    moved.insert(place, key)
    after = values_of(change(job, order=moved))
    changed = {piece for (piece, name), value in before.items() if after[piece, name] != value}
    # only what changes places with something that is laid, cut or pressed, and lies under or over it
    across = [operations[one] for one in order[low : high + 1] if one != key]
    mine = operations[key]
    touched = {one.piece for one in across if mine.effects and shapely.dwithin(one.region, mine.region, 12.0)}
    if any(one.effects and shapely.dwithin(one.region, mine.region, 12.0) for one in across):
        touched.add(mine.piece)
    assert changed <= touched, (key, place)


def test_decoration_of_a_shadow_applique_is_matched_on_the_base():
    job = job_of(box(-20, -20, 20, 20), box(-6, -6, 6, 6), base="terry")
    sheer = change(job.pieces[0], own={"shadow": True})
    fill = change(job.pieces[1], construct="fill", on="p1")
    values = values_of(change(job, pieces=[sheer, fill]))
    assert values["p2", "fill_pull"] == pytest.approx(0.40)
    assert values_of(change(job, pieces=[job.pieces[0], fill]))["p2", "fill_pull"] == pytest.approx(0.15)


def test_a_fill_that_the_order_sews_before_a_cloth_is_matched_without_it():
    job = job_of(box(-20, -20, 20, 20), box(-6, -6, 6, 6), base="terry")
    job = change(job, pieces=[job.pieces[0], change(job.pieces[1], construct="fill")])
    keys = order_of(build_job(job))
    first = change(job, order=["p2:decoration", *(key for key in keys if key != "p2:decoration")])
    assert values_of(job)["p2", "fill_pull"] == pytest.approx(0.15)
    assert values_of(first)["p2", "fill_pull"] == pytest.approx(0.40)


# What constructions declare.


@pytest.mark.parametrize("name", sorted(constructions()))
def test_operations_have_stable_keys_known_needs_and_declared_roles(name):
    kind = constructions()[name]
    if kind.areas:
        job = job_of(SHAPES["ring"], base="fleece")
        build = build_job(change(job, pieces=[change(job.pieces[0], construct=name)]))
        operations = build.pieces[0].operations
        parts = [one.part for one in operations]
        assert operations and len(set(parts)) == len(parts)
        for nth, one in enumerate(operations):
            assert bool(one.fills) != bool(one.does)
            assert set(one.needs) <= set(parts[:nth]), one.key
            assert one.does or one.role in declared(), one.role


@pytest.mark.parametrize("name", sorted(constructions()))
def test_early_values_ask_for_nothing_that_lies_beneath_and_are_the_values_sewn(name):
    from velamen.core.values.engine import rules

    kind = constructions()[name]
    assert not any(rules().asks(one, "under_") for one in kind.early)
    if kind.areas:
        job = job_of(SHAPES["ring"], base="terry")
        (found,) = matched_job(change(job, pieces=[change(job.pieces[0], construct=name)])).pieces
        assert {key: found.values[key].value for key in found.framed.early} == found.framed.early


def test_what_the_brief_lays_is_laid_first_and_taken_off_last():
    build = build_job(job_of(box(-20, -20, 20, 20), base="terry"))
    assert [one.kind for one in build.before_sewing] == ["lay_topping"]
    assert [one.kind for one in build.after_sewing] == ["wash_away"] and "wash the rest out" in build.after_sewing[
        0
    ].text
    assert [halt.step.kind for halt in build.plan.stops] == ["lay", "trim"]
    plain = build_job(job_of(box(-20, -20, 20, 20), base="firm_woven"))
    assert plain.before_sewing == plain.after_sewing == ()
    held = job_of(box(-20, -20, 20, 20), base="firm_woven")
    basted = build_job(change(held, brief=change(brief_for("firm_woven"), hold="basting")))
    assert basted.operations[1].key == "basting:basting" and [one.kind for one in basted.after_sewing] == [
        "pull_basting"
    ]
    assert Presses(box(0, 0, 1, 1)) != Presses(box(0, 0, 2, 2))
