"""Files made to hold a reader up are refused in a sentence, or read, within bounds of memory and time of their own."""

import os
import resource
import subprocess
import sys

import pytest
import shapely

from core.hostile import READ, REFUSED, svg
from velamen.core.artwork.read import read_artwork
from velamen.core.errors import BadInput
from velamen.core.lengths import read_length
from velamen.core.numbers import read_number, read_numbers, read_whole
from velamen.core.setting import Setting

ALL = """
import sys
from core.hostile import READ, REFUSED
from velamen.core.artwork.read import read_artwork
from velamen.core.errors import BadInput
for name, data in {**REFUSED, **READ}.items():
    try:
        read_artwork(data)
    except BadInput as error:
        print(name, "|", error)
    else:
        print(name, "| read")
"""
MEMORY, SECONDS = 2_000_000_000, 120  # bytes of address space, seconds of one core for all of them; 25 are usual


def _bounded():
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY, MEMORY))
    resource.setrlimit(resource.RLIMIT_CPU, (SECONDS, SECONDS))


@pytest.fixture(scope="module")
def answers():
    """What each file came to, all of them read in one process that ends at a bound."""
    here = {**os.environ, "PYTHONPATH": os.pathsep.join(sys.path)}
    done = subprocess.run([sys.executable, "-c", ALL], capture_output=True, text=True, preexec_fn=_bounded, env=here)
    assert done.returncode == 0, done.stderr[-2000:]
    return dict(line.split(" | ", 1) for line in done.stdout.splitlines())


@pytest.mark.parametrize("name", REFUSED)
def test_a_hostile_file_gets_one_sentence(answers, name):
    assert answers[name] != "read" and answers[name].endswith(".")
    assert len(answers[name]) < 300 and "Traceback" not in answers[name]


@pytest.mark.parametrize("name", READ)
def test_an_odd_file_is_read(answers, name):
    assert answers[name] == "read"


@pytest.mark.parametrize("text", ["", "x", "nan", "inf", "1e400", "1e10", "9" * 400, "1_000", "٣", "0x10", "1" * 61])
@pytest.mark.parametrize("read", [read_number, read_whole])
def test_no_number_comes_in_that_is_none(read, text):
    with pytest.raises(ValueError):
        read(text)


@pytest.mark.parametrize(
    "text", ["9" * 400, f"{'9' * 400}/3", f"1/{'9' * 400}", "1 " + " " * 30000 + "x", "1e999 in"]
)
def test_no_length_comes_in_that_is_none(text):
    with pytest.raises(ValueError):
        read_length(text)
    with pytest.raises(BadInput, match="Width"):
        Setting("w", "Width", "", "", high=9.0).read(text)


def test_numbers_are_read_as_before():
    assert read_numbers("M0,0 1.5-2e1") == [0.0, 0.0, 1.5, -20.0] and read_whole(" 12 ") == 12
    with pytest.raises(ValueError, match="out of bounds"):
        read_numbers("0 1e400")


PENTAGRAM = "M50 5L76 86L8 36H92L24 86Z"


def test_an_outline_that_crosses_itself_is_filled_by_its_rule_and_said_so():
    whole, odd = (read_artwork(svg(f'<path fill-rule="{rule}" d="{PENTAGRAM}"/>')) for rule in ("nonzero", "evenodd"))
    assert any("crosses itself" in note for note in whole.notes)
    assert [len(one.region.interiors) for one in whole.drawn] == [0]
    tips, middle = sum(one.region.area for one in odd.drawn), whole.drawn[0].region.area
    assert len(odd.drawn) == 5 and tips < 0.8 * middle
    bow = read_artwork(svg('<path d="M0 0L90 90V0L0 90Z"/>'))
    assert len(bow.drawn) == 2 and sum(one.region.area for one in bow.drawn) == pytest.approx(4050, rel=0.01)


def test_a_ring_gone_round_twice_or_back_is_painted_as_its_rule_says():
    """Winding counts: twice the same way is solid without evenodd, there and back is not."""
    inner = "M20 20H80V80H20Z"
    loop = f"M0 0H100V100H0V0L20 20{inner[6:-1]}V20L0 0Z"  # out, and round the inner square the same way
    back = "M0 0H100V100H0V0L20 20V80H80V20H20L0 0Z"  # round the inner square the other way
    for data, rule, area in ((loop, "nonzero", 10000), (loop, "evenodd", 6400), (back, "nonzero", 6400)):
        found = read_artwork(svg(f'<path fill-rule="{rule}" d="{data}"/>'))
        assert shapely.area([one.region for one in found.drawn]).sum() == pytest.approx(area, rel=0.01), (rule, data)
