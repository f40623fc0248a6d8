"""What a piece is made of: its thread follows its cloth until another is chosen."""

from core.jobs import job_of
from core.shapes import SHAPES
from velamen.core.edits.stack.makeup import set_makeup, with_cloth
from velamen.core.job.document import change
from velamen.core.materials.colour import nearest_thread
from velamen.core.materials.library import shipped

LIBRARY = shipped()
CLOTHS = list(LIBRARY.cloths)
NEAREST = {key: nearest_thread(one.colour, LIBRARY).key for key, one in LIBRARY.cloths.items()}
RED, OTHER = CLOTHS[0], next(key for key in CLOTHS if NEAREST[key] != NEAREST[CLOTHS[0]])


def made(job, **asked):
    given = {"name": "", "cloth": "", "thread": "", "construct": "", **asked}
    return set_makeup(job, "p1", **given, library=LIBRARY)


def test_a_thread_follows_its_cloth_until_another_is_chosen():
    job = made(job_of(SHAPES["square"]), cloth=RED, thread="nearest")
    followed = made(job, cloth=OTHER, thread=NEAREST[RED])  # a form gives the thread that is there
    assert followed.pieces[0].thread == NEAREST[OTHER]
    assert with_cloth(job, ["s1"], OTHER, LIBRARY).pieces[0].thread == NEAREST[OTHER]
    chosen = next(key for key in LIBRARY.threads if key not in (NEAREST[RED], NEAREST[OTHER]))
    kept = made(made(job, thread=chosen), cloth=OTHER)
    assert kept.pieces[0].thread == chosen and kept.pieces[0].cloth == OTHER
    assert with_cloth(made(job, thread=chosen), ["s1"], OTHER, LIBRARY).pieces[0].thread == chosen


def test_a_thread_chosen_together_with_a_cloth_is_the_one_chosen():
    job = made(job_of(SHAPES["square"]), cloth=RED, thread="nearest")
    chosen = next(key for key in LIBRARY.threads if key not in (NEAREST[RED], NEAREST[OTHER]))
    assert made(job, cloth=OTHER, thread=chosen).pieces[0].thread == chosen


def test_what_lays_no_cloth_keeps_its_thread_on_build_and_takes_the_colour_given_on_artwork():
    job = made(job_of(SHAPES["square"]), cloth=RED, thread="nearest", construct="fill")
    assert made(job, cloth=OTHER).pieces[0].thread == NEAREST[RED]
    fill = change(job, pieces=[change(job.pieces[0], thread=NEAREST[RED])])
    assert with_cloth(fill, ["s1"], OTHER, LIBRARY).pieces[0].thread == NEAREST[OTHER]


def test_a_piece_called_after_its_kind_is_called_after_the_new_one():
    job = job_of(SHAPES["square"], SHAPES["star"])
    job = change(
        job, pieces=[change(one, name=name) for one, name in zip(job.pieces, ("Appliqué 2", "Fill"), strict=True)]
    )
    assert made(job, construct="fill").pieces[0].name == "Fill 2"
    assert made(job, construct="fill", name="Appliqué 2").pieces[0].name == "Fill 2"  # a form gives the name there is
    assert made(job, construct="fill", name="Hull").pieces[0].name == "Hull"
    own = change(job, pieces=[change(job.pieces[0], name="Hull"), job.pieces[1]])
    assert made(own, construct="fill").pieces[0].name == "Hull"
