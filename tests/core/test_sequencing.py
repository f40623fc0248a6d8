"""Passes and hand steps joined into one plan: threads, trims, jumps, stops."""

import numpy as np
import pytest

from velamen.core.artwork.svg_units import Matrix, length_in_mm, parse_transform
from velamen.core.errors import BadInput
from velamen.core.plan.figures import figures_of
from velamen.core.plan.stitch_plan import COMMANDS, plan_of
from velamen.core.stitching.roles import CODE
from velamen.core.stitching.strand import strand
from velamen.core.timeline.operation import Does, Hand, Operation
from velamen.core.timeline.passes import Pass
from velamen.core.timeline.stops import together


def line(*points, role="cover"):
    return strand(np.array(points, dtype=float), role)


def sewn(*strands, thread="140", piece="p1", role="cover"):
    return f"{piece}:{role}", Pass(role, role.title(), thread, piece, strands)


def commands(plan):
    return [COMMANDS[code] for code in plan.command]


STEP = together([Operation("p1", "Sail", "lay", does=Does(Hand.LAY, "Lay cotton", "Lay cotton.", 30.0))])[0]


def test_one_strand():
    plan = plan_of([sewn(line((0, 0), (2, 0), (4, 0)))])
    assert commands(plan) == ["jump", "stitch", "stitch", "stitch", "trim", "end"]
    assert plan.xy[-1].tolist() == [4, 0] and plan.blocks[0].count == 4


def test_near_strands_travel_and_far_ones_are_trimmed():
    near = plan_of([sewn(line((0, 0), (4, 0)), line((6, 0), (9, 0)))])
    assert commands(near) == ["jump", "stitch", "stitch", "stitch", "stitch", "trim", "end"]
    assert near.role.tolist().count(CODE["travel"]) == 1
    touching = plan_of([sewn(line((0, 0), (4, 0)), line((4, 0), (9, 0)))])
    assert commands(touching).count("stitch") == 3 and CODE["travel"] not in touching.role
    far = plan_of([sewn(line((0, 0), (4, 0)), line((8, 0), (12, 0)))])
    assert commands(far) == ["jump", "stitch", "stitch", "trim", "jump", "stitch", "stitch", "trim", "end"]


def test_another_thread_is_trimmed_for_and_loaded():
    plan = plan_of([sewn(line((0, 0), (4, 0))), sewn(line((4, 0), (8, 0)), thread="104", piece="p2")])
    assert commands(plan)[3:6] == ["trim", "color", "jump"]
    assert plan.threads == ["140", "104"] and figures_of(plan).changes == 1
    same = plan_of([sewn(line((0, 0), (4, 0))), sewn(line((4, 0), (8, 0)), piece="p2")])
    assert "color" not in commands(same) and figures_of(same).trims == 1


def test_a_stop_is_trimmed_for_and_keeps_its_words():
    plan = plan_of([sewn(line((0, 0), (4, 0)), role="placement"), STEP, sewn(line((4, 0), (8, 0)))])
    assert commands(plan)[2:6] == ["stitch", "trim", "stop", "jump"]
    assert plan.stops[0].row == 4 and plan.stops[0].step is STEP
    first = plan_of([STEP, sewn(line((0, 0), (4, 0)))])
    assert commands(first)[:2] == ["stop", "jump"]


def test_nothing_sewn_is_still_a_plan():
    plan = plan_of([])
    assert commands(plan) == ["end"] and figures_of(plan).stitches == 0 and figures_of(plan).width == 0


@pytest.mark.parametrize(
    ("text", "mm"),
    [
        ("10mm", 10),
        ("1cm", 10),
        ("1in", 25.4),
        ("72pt", 25.4),
        ("6pc", 25.4),
        ("96", 25.4),
        ("96px", 25.4),
        ("4q", 1),
    ],
)
def test_lengths(text, mm):
    assert length_in_mm(text) == pytest.approx(mm)


def test_relative_lengths_have_no_size():
    assert [length_in_mm(text) for text in ("50%", "2em", "", None, "wide")] == [None] * 5


def test_transforms_multiply_from_the_left():
    moved = parse_transform("translate(10,20) scale(2)", "x").apply(np.array([[1.0, 1.0]]))
    assert moved.tolist() == [[12, 22]]
    turned = parse_transform("rotate(90 5 5)", "x").apply(np.array([[5.0, 0.0]]))
    assert np.allclose(turned, [[10, 5]])
    assert parse_transform("matrix(1 0 0 1 3 4)", "x") == Matrix(1, 0, 0, 1, 3, 4)
    assert parse_transform("  ", "x") == Matrix.identity()
    assert Matrix(0, -3, 2, 0, 0, 0).stretch == pytest.approx(3)
    for broken in ("rotate(", "rotate(a)", "translate(1 2 3)", "scale(1e999)", "rotate(1) and more"):
        with pytest.raises(BadInput, match="transform of 'x'"):
            parse_transform(broken, "x")
