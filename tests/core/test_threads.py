"""Several threads build jobs at once: none waits for all, none gets another's answer, nothing falls over."""

import os
import subprocess
import sys

SCRIPT = """
import sys, threading
from concurrent.futures import ThreadPoolExecutor
from core.shapes import SHAPES
from core.jobs import job_of
from velamen.core.building.build import build_job
from velamen.core.building.matched import forget_layers
from velamen.core.job.document import change
from velamen.core.memo import forget
from velamen.core.outputs.stitch_list import stitch_list

KINDS = ("applique", "fill", "contour", "satin_border", "crosshatch", "column")
NAMES = ("star", "two_holes", "coast", "ring", "neck")

def jobs():
    for at, kind in enumerate(KINDS):
        job = job_of(*(SHAPES[NAMES[(at + nth) % len(NAMES)]] for nth in range(2)))
        yield change(job, pieces=[change(one, construct=kind) for one in job.pieces])

def written(job):
    build = build_job(job)
    return stitch_list(build.plan), [one.message for one in build.findings]

sys.setswitchinterval(1e-4)
wanted = [written(job) for job in jobs()]
for _ in range(2):
    forget()
    forget_layers()
    gate = threading.Barrier(len(KINDS))
    def at_once(nth):
        gate.wait()
        return written(list(jobs())[nth])
    with ThreadPoolExecutor(len(KINDS)) as pool:
        for nth, found in enumerate(pool.map(at_once, range(len(KINDS)))):
            assert found == wanted[nth], KINDS[nth]
print("same")
"""


def test_threads_build_side_by_side_what_one_builds_alone():
    """In a process of its own, since areas asked of by two threads while prepared would end it."""
    here = {**os.environ, "PYTHONPATH": os.pathsep.join(sys.path)}
    done = subprocess.run([sys.executable, "-c", SCRIPT], capture_output=True, text=True, env=here)
    assert (done.returncode, done.stdout) == (0, "same\n"), done.stderr[-2000:]
