"""The surface of a base: what it is by its traits, and its fine relief as a tile that repeats."""

from __future__ import annotations

from collections.abc import Callable
from functools import cache

import numpy as np

from velamen.core.arrays import Array
from velamen.core.materials.records import Base
from velamen.core.relief.light import lit

TILE, PIXELS = 12.0, 192  # mm of a tile, and px of it
FUR, LOOPS, THIN, HEAVY = 9.0, 1.0, 0.2, 300.0  # mm of pile, mm of pile, mm of thickness, g/m²
STRETCHES = ("medium", "high")


def surface_of(base: Base) -> str:
    """Key of the surface that a base has, of SURFACES; told by its traits, so that a shop's own bases have one."""
    if base.weight == 0:
        return "film"
    if base.marks != "none":
        return "leather" if base.marks == "holes" else "velvet"
    if base.pile >= LOOPS:
        return "fur" if base.pile >= FUR else "fleece" if base.stretch in STRETCHES else "terry"
    if base.thickness < THIN:
        return "sheer"
    if base.stretch in STRETCHES:
        return "knit"
    return "felt" if base.pile >= 0.4 else "twill" if base.weight >= HEAVY else "weave"


@cache
def texture(surface: str) -> Array:
    """Light on a tile of a surface, (PIXELS, PIXELS), as in light.lit; it joins on all sides."""
    y, x = (TILE / PIXELS) * np.mgrid[0:PIXELS, 0:PIXELS]
    height = SURFACES[surface](x, y)
    # Lit with its neighbours round it, so that the edges join.
    return lit(np.tile(height, (3, 3)), TILE / PIXELS)[PIXELS : 2 * PIXELS, PIXELS : 2 * PIXELS]


def _noise(seed: int, across: float, along: float | None = None, octaves: int = 1) -> Array:
    """Periodic noise of mean 0 and deviation 1; across, along: mm of its grains to the right and down."""
    along = across if along is None else along
    frequency = np.fft.fftfreq(PIXELS, TILE / PIXELS)
    fx, fy = frequency[None, :], frequency[:, None]
    total = np.zeros((PIXELS, PIXELS))
    for octave in range(octaves):
        seeds = np.random.default_rng(seed + octave).normal(size=(PIXELS, PIXELS))
        keep = np.exp(-2.0 * ((fx * across) ** 2 + (fy * along) ** 2) * 4.0**-octave)
        found = np.real(np.fft.ifft2(np.fft.fft2(seeds) * keep))
        total += found / found.std() * 0.5**octave
    return np.asarray(total / total.std())


def _weave(x: Array, y: Array, pitch: float = 0.5, deep: float = 0.05) -> Array:
    """Plain weave: warp and weft over one another by turns."""
    column, row = np.floor(x / pitch), np.floor(y / pitch)
    over = (column + row) % 2 == 0
    across, down = np.abs(np.sin(np.pi * x / pitch)), np.abs(np.sin(np.pi * y / pitch))
    warp, weft = np.sqrt(across) * (0.55 + 0.45 * down), np.sqrt(down) * (0.55 + 0.45 * across)
    return np.asarray(deep * np.where(over, warp, weft))


def _twill(x: Array, y: Array) -> Array:
    pitch = 0.75
    ridge = np.sqrt(np.abs(np.sin(np.pi * (x + y) / pitch)))
    return np.asarray(0.07 * ridge + 0.02 * np.abs(np.sin(np.pi * (x - 2 * y) / pitch)))


def _knit(x: Array, y: Array) -> Array:
    """Wales of slanted legs, two to a stitch."""
    wale, course = 1.2, 1.0
    leg = np.mod(x, wale) / wale
    side = np.where(leg < 0.5, leg, 1.0 - leg) * 2.0  # 0 in the groove, 1 in the middle of the wale
    slant = np.mod(y / course + 0.55 * side, 1.0)
    return np.asarray(0.11 * np.sqrt(np.sin(np.pi * slant)) * np.sin(np.pi * np.clip(0.12 + 0.80 * side, 0.0, 1.0)))


def _spots(seed: int, count: int) -> Array:
    return np.random.default_rng(seed).uniform(0.0, TILE, size=(count, 2))


def _rows(seed: int, count: int, jitter: float) -> Array:
    """Spots (n, 2) in rows, every other one shifted, each off its place by up to so many mm."""
    at = (np.arange(count) + 0.5) * TILE / count
    x, y = np.meshgrid(at, at)
    x = x + np.where(np.arange(count) % 2, 0.5 * TILE / count, 0.0)[:, None]
    spots = np.stack([x.ravel(), y.ravel()], axis=1)
    return np.mod(spots + np.random.default_rng(seed).uniform(-jitter, jitter, spots.shape), TILE)


def _nearest(x: Array, y: Array, spots: Array) -> tuple[Array, Array]:
    """mm to the nearest and to the second nearest of spots (n, 2), over the edges of the tile too."""
    near, next_ = np.full(x.shape, np.inf), np.full(x.shape, np.inf)
    for spot in spots:
        dx, dy = (np.abs(axis - at) for axis, at in ((x, spot[0]), (y, spot[1])))
        far = np.hypot(np.minimum(dx, TILE - dx), np.minimum(dy, TILE - dy))
        next_ = np.minimum(next_, np.maximum(near, far))
        near = np.minimum(near, far)
    return near, next_


def _terry(x: Array, y: Array) -> Array:
    """Loops: small arches that stand up in rows, each leaning its own way."""
    near, _ = _nearest(x, y, _rows(3, 13, 0.24))
    return np.asarray(0.16 * np.sqrt(np.maximum(1.0 - (near / 0.62) ** 2, 0.0)) + 0.010 * _noise(4, 0.16))


def _fleece(x: Array, y: Array) -> Array:
    return np.asarray(0.030 * _noise(7, 0.8, octaves=2) + 0.010 * _noise(9, 0.22))


def _fur(x: Array, y: Array) -> Array:
    return np.asarray(0.045 * _noise(11, 0.26, 2.2) + 0.06 * _noise(12, 0.8, 2.4))


def _velvet(x: Array, y: Array) -> Array:
    return np.asarray(0.014 * _noise(15, 0.18, 0.3) + 0.07 * _noise(16, 3.0, 4.0))


def _felt(x: Array, y: Array) -> Array:
    return np.asarray(0.014 * _noise(19, 0.14, 0.6) + 0.014 * _noise(20, 0.6, 0.14) + 0.022 * _noise(21, 1.0))


def _leather(x: Array, y: Array) -> Array:
    """Pebbles with fine grooves between them."""
    near, next_ = _nearest(x, y, _spots(23, 150))
    groove = np.clip((next_ - near) / 0.28, 0.0, 1.0)
    return np.asarray(0.08 * np.sqrt(groove) + 0.008 * _noise(24, 0.25))


def _sheer(x: Array, y: Array) -> Array:
    return _weave(x, y, 0.75, 0.035)


def _foam(x: Array, y: Array) -> Array:
    """Closed pores, close together and shallow."""
    near, _ = _nearest(x, y, _spots(31, 420))
    return np.asarray(0.02 * np.clip(near / 0.25, 0.0, 1.0) + 0.004 * _noise(32, 0.3))


def _glitter(x: Array, y: Array) -> Array:
    """Flakes, each lying its own way."""
    spots = _spots(33, 520)
    tilt = np.random.default_rng(34).normal(size=(len(spots), 2)) * 0.4
    best, height = np.full(x.shape, np.inf), np.zeros(x.shape)
    for spot, lean in zip(spots, tilt, strict=True):
        dx, dy = (np.mod(axis - at + TILE / 2, TILE) - TILE / 2 for axis, at in ((x, spot[0]), (y, spot[1])))
        far = np.hypot(dx, dy)
        height = np.where(far < best, lean[0] * dx + lean[1] * dy, height)
        best = np.minimum(best, far)
    return np.asarray(height)


def _film(x: Array, y: Array) -> Array:
    return np.asarray(0.02 * _noise(29, 2.6, 3.4))


SURFACES: dict[str, Callable[[Array, Array], Array]] = {
    "weave": _weave, "twill": _twill, "knit": _knit, "terry": _terry, "fleece": _fleece, "fur": _fur,
    "velvet": _velvet, "felt": _felt, "leather": _leather, "sheer": _sheer, "film": _film,
    "foam": _foam, "glitter": _glitter,
}  # fmt: skip
"""Heights of a tile in mm, of places x and y in mm, by the key of the surface."""
