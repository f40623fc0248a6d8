"""Servers are kept up; what cannot be begun is a sentence."""

import os
import subprocess
import sys
import time

import pytest

from velamen.ops import SetupError, kept
from velamen.ops.kept import Kept
from velamen.ops.process import end, spawn
from velamen.ops.serve import wanted_port


def until(holds, seconds=20.0):
    last = time.monotonic() + seconds
    while not holds():
        assert time.monotonic() < last
        time.sleep(0.02)


@pytest.fixture
def soon(monkeypatch):
    monkeypatch.setattr(kept, "FIRST", 0.05)
    monkeypatch.setattr(kept, "LONGEST", 0.2)


def test_a_server_that_ends_is_begun_again(soon, capsys):
    begun = []

    def begin():
        begun.append(spawn(["sleep", "60"]))
        return begun[-1]

    one = Kept("sleeper", begin)
    try:
        for count in (1, 2):
            one.look()
            assert len(begun) == count
            begun[-1].kill()
            begun[-1].wait()
            until(lambda: one.look() or len(begun) == count + 1)  # noqa: B023
        assert one.process is begun[-1] and one.process.poll() is None
        assert "The sleeper ended by itself" in capsys.readouterr().out
    finally:
        end(begun[-1].pid, lambda: begun[-1].poll() is None)


def test_one_that_will_not_begin_is_told_and_tried_again(soon, capsys):
    answers = [None, SetupError("No room."), OSError("No port."), None]

    def begin():
        answer = answers.pop(0)
        if answer:
            raise answer
        return spawn(["true"] if len(answers) == 3 else ["sleep", "60"])

    one = Kept("sleeper", begin)
    until(lambda: one.look() or not answers)
    told = capsys.readouterr().out
    assert "No room." in told and "No port." in told and "The sleeper runs again." in told
    end(one.process.pid, lambda: one.process.poll() is None)


def test_the_first_failure_is_for_who_starts_it():
    def begin():
        raise SetupError("No room.")

    with pytest.raises(SetupError, match="No room"):
        Kept("sleeper", begin)


@pytest.mark.parametrize("text", ["abc", "", "0", "70000", "80 00", "-1", "9" * 400, "٣٤٥٦"])
def test_a_port_that_is_none_is_told(monkeypatch, text):
    monkeypatch.setenv("VELAMEN_PORT", text)
    with pytest.raises(SetupError, match="set it to a number from 1 to 65535"):
        wanted_port()


def test_the_command_says_so_in_one_sentence():
    done = subprocess.run(
        [sys.executable, "-m", "velamen.ops", "start"], capture_output=True, text=True,
        env={**os.environ, "VELAMEN_PORT": "abc", "PYTHONPATH": "src"},
    )  # fmt: skip
    assert done.returncode == 1 and done.stderr.count("\n") == 1 and "'abc'" in done.stderr
