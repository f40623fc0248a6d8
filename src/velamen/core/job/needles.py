"""Needle points of a piece as they came: strands of places with the role of each stitch, named by their content."""

from __future__ import annotations

import hashlib
from collections.abc import Collection, Mapping, Sequence
from typing import NamedTuple

import msgspec
import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from velamen.core.arrays import Array, Index
from velamen.core.errors import BadInput

STEP = 0.001  # mm that places are told to
MOST_POINTS = 500_000  # of one list
MOST_ROLES = 64
REACH = 2_000_000  # steps from the middle


class Strands(NamedTuple):
    """Needle points of strands one after another. xy: (n, 2) mm; role: (n,) index into roles of the stitch that ends
    there; counts: (m,) points of each strand."""

    xy: Array
    role: NDArray[np.uint8]
    roles: tuple[str, ...]
    counts: Index

    @property
    def first(self) -> Index:
        """(m,) the first point of each strand."""
        return np.asarray(np.cumsum(self.counts) - self.counts)


class Needles(Struct, frozen=True, forbid_unknown_fields=True):
    """A list of needle points. xy: thousandths of a mm, two little-endian numbers of 32 bits each; role: a byte each,
    the place of its word in `roles`; counts: points of each strand."""

    xy: bytes
    role: bytes
    roles: list[str]
    counts: list[int]


def needles_of(strands: Strands) -> Needles:
    """Strands as they are kept."""
    steps = np.round(strands.xy / STEP).astype("<i4")
    return Needles(
        steps.tobytes(), strands.role.astype(np.uint8).tobytes(), list(strands.roles), strands.counts.tolist()
    )


def strands_of(needles: Needles) -> Strands:
    """What is kept as strands."""
    xy = np.frombuffer(needles.xy, dtype="<i4").reshape(-1, 2) * STEP
    role = np.frombuffer(needles.role, dtype=np.uint8)
    return Strands(xy, role, tuple(needles.roles), np.array(needles.counts, dtype=np.int64))


def needles_key(needles: Needles) -> str:
    """The name of a list, by what it holds."""
    return hashlib.blake2b(msgspec.json.encode(needles), digest_size=16).hexdigest()


def check_needles(every: Mapping[str, Needles], named: Collection[str]) -> None:
    """Raises BadInput where a list of needle points is wanted and not there, or cannot be."""
    lost = next((key for key in named if key not in every), None)
    if lost is not None:
        raise BadInput(
            f"The job names needle points {lost[:12]!r} that are not in it: bring their stitch file in again."
        )
    for key, one in every.items():
        points = len(one.role)
        sound = len(one.xy) == 8 * points and sum(one.counts) == points and min(one.counts, default=2) >= 2
        if not sound or not 0 < len(one.roles) <= MOST_ROLES or max(one.role, default=0) >= len(one.roles):
            raise BadInput(f"The needle points {key[:12]!r} cannot be read: their figures do not agree.")
        if points > MOST_POINTS:
            raise BadInput(f"A piece of {points:,} needle points is too large: keep up to {MOST_POINTS:,} in one.")
        if int(np.abs(np.frombuffer(one.xy, dtype="<i4")).max(initial=0)) > REACH:
            raise BadInput(f"The needle points {key[:12]!r} lie more than 2 m off the field.")


def joined_strands(parts: Sequence[Strands]) -> Strands:
    """Several lists as one, one sewn after another."""
    roles = tuple(dict.fromkeys(word for one in parts for word in one.roles))
    codes = [np.array([roles.index(word) for word in one.roles], dtype=np.uint8)[one.role] for one in parts]
    return Strands(np.concatenate([one.xy for one in parts]), np.concatenate(codes), roles,
                   np.concatenate([one.counts for one in parts]))  # fmt: skip
