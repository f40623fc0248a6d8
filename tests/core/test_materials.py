"""The material library: the handbook's table, hoops and what fits into them."""

import pytest

from core.jobs import job_of
from core.shapes import SHAPES
from velamen.core.artwork.svg import read_svg
from velamen.core.bring_in import MAX_PIECES, bring_in, fitting_hoop
from velamen.core.errors import BadInput
from velamen.core.job import Job, brief_for
from velamen.core.materials.library import bases, cloths, holds, hoop_for, hoops, pick, stabilizers, threads, toppings

KEYS = [
    "light_woven",
    "firm_woven",
    "jersey",
    "pique",
    "sweatshirt",
    "fleece",
    "terry",
    "plush",
    "fur",
    "velvet",
    "felt",
    "leather",
    "sheer",
    "cap",
    "none",
]
HANDBOOK = {
    # pile, pull, satin, fill
    "firm_woven": (0, 0.15, 0.40, 0.40),
    "jersey": (0, 0.35, 0.42, 0.45),
    "fleece": (2, 0.40, 0.40, 0.42),
    "terry": (4, 0.40, 0.40, 0.42),
    "fur": (12, 0.50, 0.38, 0.40),
    "leather": (0, 0.10, 0.50, 0.55),
}


def test_bases_are_those_of_the_contract():
    assert list(bases()) == KEYS
    for key, row in HANDBOOK.items():
        base = bases()[key]
        assert (base.pile, base.pull, base.satin_spacing, base.fill_spacing) == row


@pytest.mark.parametrize("key", KEYS)
def test_every_base_asks_for_materials_that_exist(key):
    base = bases()[key]
    assert base.stabilizer in stabilizers() and base.topping in toppings()
    assert base.stretch in ("none", "low", "medium", "high")
    brief = brief_for(key)
    assert (brief.base, brief.stabilizer, brief.topping) == (key, base.stabilizer, base.topping)


def test_colours_and_names_are_whole():
    for rows in (threads(), cloths(), bases()):
        names = [row.name for row in rows.values()]
        assert len(set(names)) == len(names)
        assert all(len(row.colour) == 7 and int(row.colour[1:], 16) >= 0 for row in rows.values())
    assert len(threads()) >= 55


def test_hoops_hold_what_fits():
    assert hoop_for(90, 90).key == "h100x100"
    assert hoop_for(100, 130).key == "h130x180"
    assert hoop_for(150, 150).key in ("h160x260", "h180x300")
    assert hoop_for(350, 150).key == "h360x200"
    assert hoop_for(500, 10) is None
    assert holds(hoops()["r120"], 80, 80) and not holds(hoops()["r120"], 100, 100)
    with pytest.raises(BadInput, match=r"no hoop 'round': choose one of"):
        pick(hoops(), "round", "hoop")


def art(count):
    boxes = "".join(f'<rect id="b{n}" x="{n * 9}" width="8" height="8"/>' for n in range(count))
    return read_svg(
        f'<svg xmlns="http://www.w3.org/2000/svg" width="10mm" height="10mm" viewBox="0 0 10 10">{boxes}</svg>'.encode()
    )


def test_artwork_becomes_pieces_in_document_order():
    job = bring_in(Job(), art(3), "applique", {"cover_width": "4"})
    assert [piece.name for piece in job.pieces] == ["b0", "b1", "b2"]
    assert len({piece.cloth for piece in job.pieces}) == 3
    assert all(piece.own == {"cover_width": 4.0} for piece in job.pieces)
    more = bring_in(job, art(2), "applique")
    assert [piece.id for piece in more.pieces] == ["p1", "p2", "p3", "p4", "p5"]
    assert more.pieces[:3] == job.pieces
    with pytest.raises(BadInput, match=f"at most {MAX_PIECES}"):
        bring_in(Job(), art(MAX_PIECES + 1), "applique")
    assert fitting_hoop(art(3)) == "h100x100" and fitting_hoop(art(60)) is None


def test_a_job_knows_its_shapes():
    job = job_of(SHAPES["star"], SHAPES["leaf"])
    assert job.shape_of(job.pieces[1]) is job.shapes[1]
