"""The examples in docstrings hold."""

import doctest
from importlib import import_module
from pkgutil import walk_packages

import pytest

from velamen import core

MODULES = [found.name for found in walk_packages(core.__path__, "velamen.core.")]


@pytest.mark.parametrize("name", MODULES)
def test_examples_hold(name):
    assert doctest.testmod(import_module(name)).failed == 0


def test_there_are_examples():
    tried = sum(doctest.testmod(import_module(name)).attempted for name in MODULES)
    assert tried >= 13
