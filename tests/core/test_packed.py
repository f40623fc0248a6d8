"""Builds handed from one process to another are the same there, whatever either has imported first."""

import subprocess
import sys

from velamen.core.building.build import build_job, take_up
from velamen.core.building.effort import is_little
from velamen.core.building.packed import opened, packed
from velamen.core.building.progress import telling
from velamen.core.job.document import change
from velamen.core.memo import forget
from velamen.core.outputs.folder import files_of
from velamen.core.outputs.stitch_list import stitch_list

THERE = """
import sys
import velamen.core.constructions.stipple
from pathlib import Path
from velamen.core.building.packed import opened
from velamen.core.outputs.stitch_list import stitch_list
sys.stdout.write(stitch_list(opened(Path(sys.argv[1]).read_bytes()).plan))
"""


def test_a_build_opened_elsewhere_gives_the_same_stitch_list(buoy_job, tmp_path):
    build = build_job(buoy_job)
    (tmp_path / "build").write_bytes(packed(build))
    command = [sys.executable, "-c", THERE, str(tmp_path / "build")]
    done = subprocess.run(command, capture_output=True, text=True, check=True)
    assert done.stdout == stitch_list(build.plan)


def test_all_files_of_a_packed_build_are_those_of_the_build(buoy_job):
    build = build_job(buoy_job)
    unlike = ("runsheet.pdf", "cut.dxf")  # they tell when they were written
    there = files_of(opened(packed(build)))
    assert {name: data for name, data in files_of(build).items() if name not in unlike} == {
        name: data for name, data in there.items() if name not in unlike
    }


def test_an_edit_after_opening_sews_only_what_it_touches(buoy_job):
    data = packed(build_job(buoy_job))
    forget()
    known = opened(data)
    take_up(known)
    again = build_job(buoy_job)
    assert all(now.passes == was.passes and next(iter(now.passes.values())) is next(iter(was.passes.values()))
               for now, was in zip(again.pieces, known.pieces, strict=True))  # fmt: skip


def test_what_an_edit_leaves_to_do_is_told_before(buoy_job):
    piece, *_ = buoy_job.pieces
    ring = [(float(nth), nth % 2) for nth in range(3000)]
    large = change(buoy_job, shapes=[change(buoy_job.shapes[0], rings=[ring]), *buoy_job.shapes[1:]])
    renamed = change(large, pieces=[change(piece, name="Other"), *buoy_job.pieces[1:]])
    assert is_little(buoy_job) and not is_little(large) and is_little(large, large)
    assert not is_little(renamed, large) and not is_little(large, buoy_job)
    assert not is_little(change(large, brief=change(large.brief, stabilizer_layers=2)), large)


def test_building_tells_how_far_it_is(buoy_job):
    told = []
    with telling(lambda share, what: told.append((share, what))):
        build_job(buoy_job)
    shares = [share for share, _ in told]
    assert shares == sorted(shares) and shares[-1] <= 1.0
    assert [what for _, what in told][: len(buoy_job.pieces)] == [one.name for one in buoy_job.pieces]


class Looks:
    """Adds to what it is part of while that is gone through, as a page does that draws it."""

    def __init__(self, build, times):
        self.build, self.times = build, times

    def __reduce__(self):
        if self.times:
            self.times -= 1
            vars(self.build)[f"found {self.times}"] = "meanwhile"
        return str, ("looked",)


def test_a_build_to_which_others_add_meanwhile_is_packed_all_the_same(buoy_job):
    build = build_job(buoy_job)
    vars(build)["looks"] = Looks(build, 2)
    there = vars(opened(packed(build)))
    assert there["looks"] == "looked" and there["found 0"] == there["found 1"] == "meanwhile"
