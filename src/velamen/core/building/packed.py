"""Builds packed, to be handed from one process to another and kept. Only what this program has packed is opened."""

from __future__ import annotations

import pickle
from typing import cast

import cloudpickle
import zstandard

from velamen.core.building.build import Build
from velamen.core.constructions import constructions

LEVEL = 1
MOST = 1_000_000_000  # bytes of one build
TRIES = 20  # at a build to which other threads add


def packed(build: Build) -> bytes:
    """A build as bytes, with all that has been worked out of it; threads that look at it may be adding to that."""
    left = TRIES
    while True:
        try:
            plain = cloudpickle.dumps(build, protocol=5)
            break
        except RuntimeError:  # something was added while it was gone through
            left -= 1
            if not left:
                raise
    return zstandard.ZstdCompressor(level=LEVEL).compress(plain)


def opened(data: bytes) -> Build:
    """The build again. Never to be given bytes from outside: opening them runs what they say."""
    constructions()  # numbers of roles are settled before arrays of them come in
    plain = zstandard.ZstdDecompressor().decompress(data, max_output_size=MOST)
    return cast(Build, pickle.loads(plain))
