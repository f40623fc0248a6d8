"""Colours of a picture reduced to a few, each pixel given to one of them, blended edges to either side."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from velamen.core.arrays import Array
from velamen.core.artwork.tracing.picture import Picture, flat

Labels = NDArray[np.int16]

MOST_COLOURS = 24  # colours
USUAL_MOST = 12  # colours found without being asked for a number
NOTHING = -1  # label of what is no part of the picture
SAMPLE = 1_000_000  # pixels that are weighed
APART = 0.07  # OKLab; colours farther than this are told apart
TOLD = 0.018  # OKLab; what an eye tells apart side by side
NEAR = 0.006  # OKLab; kinds of colour nearer than this speak for each other
RARE = 0.0008  # share of the picture under which a kind of colour begins none
CANDIDATES = 800  # kinds of colour that may begin one
BETWEEN = 0.05  # OKLab; how near a blend lies to the line between its two colours
ROUNDS = 8
BINS = 6000  # kinds of colour that are weighed


@dataclass(frozen=True)
class Palette:
    """Colours (n, 3) of 8 bits, commonest first, each with its share of the picture."""

    colours: NDArray[np.uint8]
    shares: Array

    @property
    def names(self) -> list[str]:
        """The colours as "#rrggbb"."""
        return ["#" + bytes(row).hex() for row in self.colours.tolist()]


def palette(picture: Picture, count: int = 0) -> Palette:
    """The picture's colours, `count` of them or as many as its flat areas show.

    Flat areas weigh, blended edges do not. Seeds are the heaviest kind of colour, then always one
    that stands for much and lies far from those taken; then k-means in OKLab.
    """
    weight, colours = _kinds(picture)
    lab = oklab(colours)
    seeds = _seeds(lab, weight, count)
    for _ in range(ROUNDS):
        nearest = _nearest(lab, seeds)
        total = np.bincount(nearest, weight, len(seeds))
        mean = np.stack([np.bincount(nearest, weight * lab[:, axis], len(seeds)) for axis in range(3)], axis=1)
        seeds = np.where(total[:, None] > 0, mean / np.maximum(total, 1e-9)[:, None], seeds)
    nearest = _nearest(lab, seeds)
    share = np.bincount(nearest, weight, len(seeds)) / weight.sum()
    sums = np.stack([np.bincount(nearest, weight * colours[:, axis], len(seeds)) for axis in range(3)], axis=1)
    rgb = sums / np.maximum(np.bincount(nearest, weight, len(seeds)), 1e-9)[:, None]
    order = np.argsort(-share, kind="stable")
    order = order[share[order] > 0]
    return Palette(np.round(rgb[order]).astype(np.uint8), share[order])


def labelled(picture: Picture, known: Palette) -> Labels:
    """The palette colour of each pixel (h, w), NOTHING where the picture is transparent.

    A pixel on a blended edge gets the nearer of the colours that lie flat beside it, so that the
    border runs where half of one meets half of the other; thin lines of a colour of their own stay.
    """
    target = oklab(known.colours.astype(np.float64))
    every = np.arange(64**3)
    middle = np.stack([every >> 12, (every >> 6) & 63, every & 63], axis=1) * 4.0 + 2.0
    table = _nearest(oklab(middle), target).astype(np.int16)
    labels = table[_codes(picture.colours)]
    labels[~picture.there] = NOTHING
    sure = _flat(labels)
    seen = _seen_near(np.where(sure, labels, NOTHING))
    doubtful = ~sure & (labels != NOTHING) & (seen != 0)
    if not doubtful.any():
        return labels
    beside, own = seen[doubtful], labels[doubtful].astype(np.int64)
    stays = (beside >> own.astype(np.uint32)) & 1 == 0
    stays &= ~_blend(beside, own, target)
    far = np.full(len(own), np.inf)
    best = own.copy()
    colour = oklab(picture.colours[doubtful].astype(np.float64))
    for nth, one in enumerate(target):
        off = ((colour - one) ** 2).sum(axis=1)
        nearer = ((beside >> np.uint32(nth)) & 1 == 1) & (off < far)
        far[nearer], best[nearer] = off[nearer], nth
    labels[doubtful] = np.where(stays, own, best)
    return labels


def oklab(rgb: NDArray[np.generic]) -> Array:
    """OKLab of sRGB colours (n, 3) from 0 to 255 (B. Ottosson, 2020)."""
    value = np.asarray(rgb, dtype=np.float64) / 255.0
    linear = np.where(value <= 0.04045, value / 12.92, ((value + 0.055) / 1.055) ** 2.4)
    cone = linear @ np.array([
        [0.4122214708, 0.2119034982, 0.0883024619],
        [0.5363325363, 0.6806995451, 0.2817188376],
        [0.0514459929, 0.1073969566, 0.6299787005],
    ])  # fmt: skip
    return np.asarray(np.cbrt(cone) @ np.array([
        [0.2104542553, 1.9779984951, 0.0259040371],
        [0.7936177850, -2.4285922050, 0.7827717662],
        [-0.0040720468, 0.4505937099, -0.8086757660],
    ]))  # fmt: skip


def _kinds(picture: Picture) -> tuple[Array, Array]:
    """Kinds of colour in the picture's flat areas: how many pixels each, and their mean colour."""
    step = max(1, round(np.sqrt(picture.there.size / SAMPLE)))
    colours, there = picture.colours[::step, ::step], picture.there[::step, ::step]
    level = there & flat(picture.colours)[::step, ::step]
    if level.sum() < 0.05 * there.sum():
        level = there
    chosen = colours[level]
    kind = _codes(chosen)
    weight = np.bincount(kind, minlength=64**3).astype(np.float64)
    sums = [np.bincount(kind, chosen[:, axis], 64**3) for axis in range(3)]
    heavy = np.argsort(-weight, kind="stable")[:BINS]
    heavy = heavy[weight[heavy] > 0]
    return weight[heavy], np.stack([one[heavy] for one in sums], axis=1) / weight[heavy][:, None]


def _seeds(lab: Array, weight: Array, count: int) -> Array:
    """The first colours to gather round: those that much of the picture is near, far from one another.

    Rare kinds are blends or grain and never begin a colour; shades nearer than TOLD only do where
    nothing else is left.
    """
    some = lab[:CANDIDATES]
    near = ((some[:, None] - lab[None]) ** 2).sum(axis=2) < NEAR**2
    mass = near @ weight / weight.sum()
    often = mass > RARE
    if weight[:CANDIDATES][often].sum() > 0.5 * weight.sum():  # else it is all shades, none of them rare
        some, mass = some[often], mass[often]
    chosen = [int(np.argmax(mass))]
    far = np.linalg.norm(some - some[chosen[0]], axis=1)
    limit = min(count or USUAL_MOST, len(some), MOST_COLOURS)
    while len(chosen) < limit:
        if not count and far.max() < APART:
            break
        told = np.where(far >= (TOLD if far.max() >= TOLD else 0.004), far, 0.0)
        nth = int(np.argmax(np.sqrt(mass) * told**2))
        if told[nth] == 0.0:
            break
        chosen.append(nth)
        far = np.minimum(far, np.linalg.norm(some - some[nth], axis=1))
    return some[chosen]


def _nearest(lab: Array, target: Array) -> NDArray[np.int64]:
    off = (lab**2).sum(axis=1)[:, None] - 2.0 * lab @ target.T + (target**2).sum(axis=1)[None]
    return np.asarray(off.argmin(axis=1))


def _codes(rgb: NDArray[np.uint8]) -> NDArray[np.int32]:
    """Kind of each colour: six bits of every channel."""
    six = (rgb >> 2).astype(np.int32)
    return (six[..., 0] << 12) | (six[..., 1] << 6) | six[..., 2]


def _flat(labels: Labels) -> NDArray[np.bool_]:
    """Pixels whose eight neighbours all have their label."""
    same = np.ones(labels.shape, dtype=bool)
    across = labels[:, 1:] == labels[:, :-1]
    same[:, 1:] &= across
    same[:, :-1] &= across
    down = labels[1:] == labels[:-1]
    rows = same.copy()
    same[1:] &= rows[:-1] & down
    same[:-1] &= rows[1:] & down
    return same


def _seen_near(labels: Labels) -> NDArray[np.uint32]:
    """Which labels lie within two pixels of each, as bits."""
    bits = np.where(labels == NOTHING, 0, np.uint32(1) << labels.astype(np.uint32)).astype(np.uint32)
    for axis in (0, 1):
        wide = bits.copy()
        for step in (1, 2):
            ahead = (slice(step, None), slice(None)) if axis == 0 else (slice(None), slice(step, None))
            back = (slice(None, -step), slice(None)) if axis == 0 else (slice(None), slice(None, -step))
            wide[ahead] |= bits[back]
            wide[back] |= bits[ahead]
        bits = wide
    return bits


def _blend(beside: NDArray[np.uint32], own: NDArray[np.int64], target: Array) -> NDArray[np.bool_]:
    """Whether a pixel's own colour is only a blend of two colours beside it."""
    blended = np.zeros(len(own), dtype=bool)
    for one in range(len(target)):
        for other in range(one + 1, len(target)):
            line = target[other] - target[one]
            share = (target - target[one]) @ line / max(float(line @ line), 1e-12)
            off = np.linalg.norm(target - target[one] - share[:, None] * line, axis=1)
            between = (share > 0.08) & (share < 0.92) & (off < BETWEEN)
            if between.any():
                both = np.uint32((1 << one) | (1 << other))
                blended |= between[own] & (beside & both == both)
    return blended
