"""Demo jobs on foam: puff lettering with a flat shadow on a cap, and a starfish of glitter foam on a bag."""

from __future__ import annotations

from importlib.resources import files

from velamen.core.artwork.svg import read_svg
from velamen.core.edits.shapes.bring_in import bring_in
from velamen.core.edits.shapes.drawing import draw_text
from velamen.core.edits.stack.grounds import with_ground
from velamen.core.edits.stack.recipes import shipped_recipes, with_recipe
from velamen.core.job.document import Job, brief_for, change
from velamen.core.job.shape import Text
from velamen.core.setting import Plain

TIDE, LETTERS, LIT, SHADED = "TIDE cap", "142", "122", "117"
STARFISH, SEA = "Starfish bag", "119"
RINGS: dict[str, Plain] = {"echo_rings": 4, "echo_first": 2.6, "echo_thread_2": "121"}


def tide_document() -> Job:
    """Four letters over red foam, their shadow in two blues sewn flat before it."""
    job = Job(name=TIDE, brief=change(brief_for("cap", "cap130x60"), thread=LETTERS))
    job = draw_text(job, Text("", "TIDE", "rubik", 25.0, 2.0), "puff")
    letters = [change(one, own={"puff_foam": "foam_3_red"}) for one in job.pieces]
    job = with_ground(change(job, pieces=letters), "flat_shadow")
    return change(job, pieces=[
        change(one, thread=LIT, own={"shadow_second": SHADED}) if one.construct == "flat_shadow" else one
        for one in job.pieces
    ])  # fmt: skip


def starfish_document() -> Job:
    """The recipe of glitter foam on one starfish, its rings in two blues."""
    drawn = read_svg(files("velamen.web.demo").joinpath("starfish.svg").read_bytes())
    brief = change(brief_for("firm_woven", "h160x260"), stabilizer="cut_away", thread=SEA)
    job = with_recipe(bring_in(Job(name=STARFISH, brief=brief), drawn, "fill"), shipped_recipes()["glitter_foam"])
    own = {"echo": RINGS, "foam_border": {"foam_border_foam": "foam_2_dark"}}
    threads = {"laid_foam": "154", "echo": SEA, "foam_border": "118"}
    return change(job, pieces=[change(one, own=own.get(one.construct, {}), thread=threads[one.construct])
                               for one in job.pieces])  # fmt: skip
