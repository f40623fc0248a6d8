"""The material library: the handbook's table, hoops and what fits into them."""

import numpy as np
import pytest
import shapely

from velamen.core.artwork.svg import read_svg
from velamen.core.building.job_materials import materials_used, take_rows, with_materials
from velamen.core.edits.shapes.bring_in import MAX_PIECES, bring_in, fitting_hoop
from velamen.core.errors import BadInput
from velamen.core.job.document import Brief, Job, brief_for, change
from velamen.core.job.reading import read_job, write_job
from velamen.core.materials.colour import nearest_threads
from velamen.core.materials.hoops import field, holds, hoop_around, hoop_for, overshoot
from velamen.core.materials.library import library_with, pick, shipped, shipped_rows
from velamen.core.materials.records import KINDS

LIBRARY = shipped()

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
    assert list(LIBRARY.bases) == KEYS
    for key, row in HANDBOOK.items():
        base = LIBRARY.bases[key]
        assert (base.pile, base.pull, base.satin_spacing, base.fill_spacing) == row


@pytest.mark.parametrize("key", KEYS)
def test_every_base_asks_for_materials_that_exist(key):
    base = LIBRARY.bases[key]
    assert base.stabilizer in LIBRARY.stabilizers and base.topping in LIBRARY.toppings
    assert base.stretch in ("none", "low", "medium", "high")
    brief = brief_for(key)
    assert (brief.base, brief.stabilizer, brief.topping) == (key, base.stabilizer, base.topping)


def test_colours_and_names_are_whole():
    for rows in (LIBRARY.threads, LIBRARY.cloths, LIBRARY.bases):
        names = [row.name for row in rows.values()]
        assert len(set(names)) == len(names)
        assert all(len(row.colour) == 7 and int(row.colour[1:], 16) >= 0 for row in rows.values())
    assert len(LIBRARY.threads) >= 55


def test_hoops_hold_what_fits():
    assert hoop_for(LIBRARY, 90, 90).key == "h100x100"
    assert hoop_for(LIBRARY, 100, 130).key == "h130x180"
    assert hoop_for(LIBRARY, 150, 150).key in ("h160x260", "h180x300")
    assert hoop_for(LIBRARY, 350, 150).key == "h360x200"
    assert hoop_for(LIBRARY, 500, 10) is None
    assert holds(LIBRARY.hoops["r120"], 80, 80) and not holds(LIBRARY.hoops["r120"], 100, 100)
    with pytest.raises(BadInput, match=r"no hoop 'round': choose one of"):
        pick(LIBRARY.hoops, "round", "hoop")


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
    many = bring_in(bring_in(Job(), art(200), "applique"), art(200), "applique")
    with pytest.raises(BadInput, match=f"at most {MAX_PIECES}"):
        bring_in(many, art(MAX_PIECES - 399), "applique")
    assert fitting_hoop(art(3), LIBRARY) == "h100x100" and fitting_hoop(art(60), LIBRARY) is None


def test_every_field_of_every_kind_is_declared_and_read():
    for key, kind in KINDS.items():
        for row_key, row in LIBRARY.rows(key).items():
            assert row == kind.read(row_key, LIBRARY.fields(key, row_key))
        fields = [name for name in kind.record.__dataclass_fields__ if name != "key"]
        assert sorted(fields) == sorted(setting.key for setting in kind.settings)


def own_base(**fields):
    return {"bases": {"terry": {**shipped_rows()["bases"]["terry"], **fields}}}


@pytest.mark.parametrize(
    ("rows", "words"),
    [
        (own_base(pile=99), "The base 'terry': Pile height 99 is out of bounds: use 0 to 40 mm."),
        (own_base(pull="nan"), "Pull, per side cannot be 'nan'"),
        (own_base(stretch="rubber"), "Stretch cannot be 'rubber'"),
        (own_base(colour="red"), "Colour cannot be 'red': write it as #rrggbb."),
        (own_base(stabilizer="cardboard"), "no stabilizer for the base 'Terry towel' 'cardboard'"),
        (own_base(glitter=1), "a field 'glitter' that no base has"),
        (own_base(name=" "), "Name must be 1 to 120 characters long"),
        ({"bases": {"new": {"name": "New"}}}, "The base 'new' lacks about"),
        ({"fabrics": {}}, "no kind of material 'fabrics'"),
        ({"cloths": {"x": {**shipped_rows()["cloths"]["sail_red"], "like": "tin"}}}, "sews like 'tin'"),
    ],
)
def test_broken_rows_are_told(rows, words):
    with pytest.raises(BadInput) as told:
        library_with(rows)
    assert words in str(told.value)


def test_the_same_rows_are_the_same_library():
    assert library_with(own_base(pile=5)) is library_with(own_base(pile=5)) is not shipped()
    assert library_with(own_base(pile=5)).bases["terry"].pile == 5 and shipped().bases["terry"].pile == 4


def test_a_job_carries_the_rows_of_its_own_that_it_uses():
    shop = library_with(
        {**own_base(pile=6.0), "cloths": {"mine": {**shipped_rows()["cloths"]["sail_red"], "like": "terry"}}}
    )
    job = Job(brief=brief_for("terry", library=shop))
    assert job.library.bases["terry"].pile == 4
    taken = with_materials(job, shop)
    assert taken.materials.keys() == {"bases"} and taken.library.bases["terry"].pile == 6
    assert read_job(write_job(taken)) == taken
    cloth = take_rows(Job(), shop, {"cloths": {"mine"}})
    assert cloth.materials.keys() == {"bases", "cloths"}  # what the cloth sews like comes along
    away = with_materials(change(taken, brief=Brief()), shop)
    assert away.materials == {}
    kept = with_materials(taken, shipped())
    assert kept.materials == {}  # restored in the library, so restored when the brief takes its rows
    gone = with_materials(change(cloth, pieces=[], brief=Brief()), shipped())
    assert gone.materials == {}
    assert materials_used(taken)["bases"] == {"terry"}


def test_a_row_gone_from_the_library_stays_in_the_job_that_uses_it():
    shop = library_with({"bases": {"sailcloth": shipped_rows()["bases"]["firm_woven"]}})
    job = with_materials(Job(brief=brief_for("sailcloth", library=shop)), shop)
    assert with_materials(job, shipped()).materials == job.materials


def test_fields_are_true_outlines():
    assert field(LIBRARY.hoops["h130x180"]).bounds == (-65, -90, 65, 90)
    assert field(LIBRARY.hoops["r120"]).area == pytest.approx(3.14159 * 60**2, rel=1e-3)
    cap = LIBRARY.hoops["cap130x60"]
    spots = np.array([[0.0, 20.5], [0.0, 21.5], [64.0, 28.0], [0.0, -30.5]])
    assert (overshoot(cap, spots) > 0).tolist() == [False, True, False, True]
    assert overshoot(cap, np.array([[0.0, 25.0]]))[0] == pytest.approx(4.0, abs=0.1)
    assert holds(cap, 100, 40) and not holds(cap, 100, 58)


def test_the_smallest_hoop_around_a_design_where_it_lies():
    corner = np.array([[-10.0, -40.0], [58.0, 40.0]])
    assert hoop_around(LIBRARY, corner).key == "r160" or hoop_around(LIBRARY, corner).key == "h130x180"
    assert hoop_around(LIBRARY, np.array([[-400.0, 0.0]])) is None


def test_threads_by_nearness():
    near = nearest_threads("#b0362f", LIBRARY)
    assert near[0][0].key == "140" and near[0][1] == pytest.approx(0, abs=1e-6)
    far = [distance for _, distance in near]
    assert far == sorted(far) and len(near) == len(LIBRARY.threads)


def test_new_pieces_take_everyday_cloths_in_turn():
    taken = [piece.cloth for piece in bring_in(Job(), art(30), "applique").pieces]
    assert taken[:2] == ["sail_red", "deck_cream"] and "seal_plush" not in taken and "tide_stripe" not in taken


def test_the_briefs_thread_is_for_new_pieces():
    job = bring_in(Job(brief=change(brief_for("fleece"), thread="161")), art(2), "applique")
    assert {piece.thread for piece in job.pieces} == {"161"}


@pytest.mark.parametrize("key", sorted(shipped_rows()["hoops"]))
def test_overshoot_is_the_distance_from_the_field(key):
    hoop = LIBRARY.hoops[key]
    points = np.random.default_rng(8).uniform(-220, 220, (3000, 2))
    wanted = [field(hoop).distance(shapely.Point(point)) for point in points]
    assert overshoot(hoop, points) == pytest.approx(np.array(wanted), abs=1e-9)
