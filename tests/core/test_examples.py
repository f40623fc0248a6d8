"""The examples in docstrings hold."""

import doctest
from importlib import import_module
from importlib.util import find_spec
from pathlib import Path
from pkgutil import walk_packages

import pytest

from velamen import core

MODULES = [found.name for found in walk_packages(core.__path__, "velamen.core.")
           if ">>>" in Path(find_spec(found.name).origin).read_text(encoding="utf-8")]  # fmt: skip


@pytest.mark.parametrize("name", MODULES)
def test_examples_hold(name):
    found = doctest.testmod(import_module(name))
    assert found.failed == 0 and found.attempted > 0


def test_there_are_examples():
    assert len(MODULES) >= 8
