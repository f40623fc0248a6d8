"""What a changed brief would change, taken whole, in part, or not at all."""

import pytest
import shapely

from core.jobs import job_of
from velamen.core.building.matched import matched_job
from velamen.core.edits.brief.brief_changes import changes_between, taken
from velamen.core.edits.brief.finished_width import outline_width, resized, scaled
from velamen.core.job.document import brief_for, change

FIRM = job_of(shapely.box(-40, -40, 0, 0), shapely.box(5, 5, 40, 40), base="firm_woven")


def on(job, base, **own):
    pieces = [change(job.pieces[0], own=own), *job.pieces[1:]]
    before = change(job, pieces=pieces)
    return before, change(before, brief=brief_for(base, job.brief.hoop))


def values(job):
    return {f"{one.piece.id}.{key}": value for one in matched_job(job).pieces for key, value in one.values.items()}


def test_every_value_that_changes_is_listed_with_its_reason():
    before, after = on(FIRM, "fleece")
    found = changes_between(before, after)
    assert {one.id for one in found} == {"p1.cover_pull", "p1.cover_underlay", "p2.cover_pull", "p2.cover_underlay"}
    pull = found[0]
    assert (pull.name, pull.was, pull.becomes) == ("piece 1", "0.15", "0.40")
    assert "polar fleece" in pull.after.reasons[0] and not pull.own
    assert changes_between(before, before) == []


def test_own_values_stay_and_are_marked_where_they_disagree():
    before, after = on(FIRM, "fleece", cover_pull=0.2)
    marked = next(one for one in changes_between(before, after) if one.id == "p1.cover_pull")
    assert marked.own and (marked.was, marked.becomes) == ("0.20", "0.40")
    agreeing, there = on(FIRM, "fleece", cover_pull=0.4)
    assert "p1.cover_pull" not in {one.id for one in changes_between(agreeing, there)}


def test_all_some_or_none_is_taken():
    before, after = on(FIRM, "fleece", cover_pull=0.2)
    changes = changes_between(before, after)
    every = taken(after, changes, {one.id for one in changes})
    assert all(not piece.own for piece in every.pieces) and values(every)["p1.cover_pull"].value == 0.40
    none = values(taken(after, changes, set()))
    for key, value in values(before).items():
        assert none[key].value == value.value
    some = taken(after, changes, {"p2.cover_pull"})
    assert some.pieces[0].own == {"cover_pull": 0.2, "cover_underlay": "edge_run"}
    assert some.pieces[1].own == {"cover_underlay": "edge_run"}
    assert values(some)["p2.cover_pull"].value == 0.40 and some.brief.base == "fleece"


def test_values_that_do_not_matter_are_not_listed():
    before, after = on(FIRM, "terry")
    after = change(after, brief=change(after.brief, topping="none"))
    keys = {one.id for one in changes_between(before, after)}
    assert "p1.tack_width" in keys and "p1.tack_inset" not in keys


@pytest.mark.parametrize("width", [40.0, 63.5, 150.0])
def test_resized_jobs_sew_the_wanted_width(width):
    from velamen.core.building.build import build_job

    assert build_job(resized(FIRM, width)).figures.width == pytest.approx(width, abs=0.1)


def test_resizing_tells_what_cannot_be():
    from velamen.core.errors import BadInput

    for width in (3.0, 6.0):
        with pytest.raises(BadInput, match=r"too (small|narrow)"):
            resized(FIRM, width)
    empty = change(FIRM, shapes=[], pieces=[])
    assert resized(empty, 50.0) is empty
    assert outline_width(scaled(FIRM, 2.0)) == pytest.approx(2 * outline_width(FIRM))
