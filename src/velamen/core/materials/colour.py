"""Threads by nearness to a colour."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from velamen.core.materials.library import Library
from velamen.core.materials.records import Cloth, Thread
from velamen.core.memo import Same

LIGHT = 140  # of 255, from which a colour counts as light


def rgb_of(colour: str) -> tuple[int, int, int]:
    """Red, green and blue of a "#rrggbb" colour, each 0 to 255."""
    return int(colour[1:3], 16), int(colour[3:5], 16), int(colour[5:7], 16)


def shades(colour: str, count: int) -> list[tuple[int, int, int]]:
    """A "#rrggbb" colour from shaded to lit, as thread shows it by its direction."""
    parts = np.array(rgb_of(colour), dtype=np.float64)
    lit = np.linspace(0.72, 1.22, count)[:, None]
    mixed = np.where(lit <= 1, parts * lit, parts + (255.0 - parts) * (lit - 1.0))
    return [(red, green, blue) for red, green, blue in np.round(mixed).astype(int).tolist()]


def brightness(colour: str) -> float:
    """How light a "#rrggbb" colour is, 0 to 255."""
    return sum(rgb_of(colour)) / 3


def nearest_thread(colour: str, library: Library) -> Thread:
    """The matte 40-weight thread nearest to a "#rrggbb" colour; any other where there is none such."""
    near = [thread for thread, _ in nearest_threads(colour, library)]
    usual = [thread for thread in near if thread.finish == "matte" and thread.weight == 40]
    return (usual or near)[0]


def matching_cloths(colours: list[str], library: Library) -> list[Cloth]:
    """A plain cloth without pile near every "#rrggbb" colour, each its own while they last."""
    from scipy.optimize import linear_sum_assignment  # slow to import, and seldom needed

    rows = library.everyday
    rounds = -(-len(colours) // len(rows))
    far = ((_lab(colours)[:, None] - _lab([row.colour for row in rows])[None]) ** 2).sum(axis=2)
    _, chosen = linear_sum_assignment(np.tile(far, (1, rounds)))
    return [rows[nth % len(rows)] for nth in chosen]


def contrasting_cloth(colours: list[str], like: str, library: Library) -> str:
    """Key of the plain cloth that sews like one of a key and lies farthest from the nearest of some colours."""
    known = library.cloths
    alike = known[like].like if like in known else next(iter(known.values())).like
    rows = [one for one in known.values() if one.like == alike and one.print == "plain"] or list(known.values())
    far = ((_lab([row.colour for row in rows])[:, None] - _lab(colours)[None]) ** 2).sum(axis=2).min(axis=1)
    return rows[int(np.argmax(far))].key


def nearest_threads(colour: str, library: Library) -> list[tuple[Thread, float]]:
    """All threads, nearest first, with their distance in CIE L*a*b* (1976)."""
    rows = list(library.threads.values())
    far = np.sqrt(((_lab([row.colour for row in rows]) - _lab([colour])) ** 2).sum(axis=1))
    return [(rows[nth], float(far[nth])) for nth in np.argsort(far, kind="stable")]


@lru_cache(maxsize=512)
def shade_beside(colour: str, library: Same[Library]) -> Thread:
    """The thread nearest to a colour made half as light again, or half as dark where it is light already."""
    parts = np.array(rgb_of(colour))
    mixed = parts + 0.5 * ((255 if brightness(colour) < LIGHT else 0) - parts)
    goal = "#" + "".join(f"{round(one):02x}" for one in mixed.tolist())
    near = [thread for thread, _ in nearest_threads(goal, library.it)]
    return next((thread for thread in near if thread.colour != colour), near[0])


def _lab(colours: list[str]) -> NDArray[np.float64]:
    rgb = np.array([rgb_of(text) for text in colours]) / 255.0
    linear = np.where(rgb <= 0.04045, rgb / 12.92, ((rgb + 0.055) / 1.055) ** 2.4)
    to_xyz = np.array(
        [[0.4124, 0.3576, 0.1805], [0.2126, 0.7152, 0.0722], [0.0193, 0.1192, 0.9505]]
    )  # sRGB, IEC 61966-2-1
    xyz = linear @ to_xyz.T / np.array([0.9505, 1.0, 1.089])
    f = np.where(xyz > (6 / 29) ** 3, np.cbrt(xyz), xyz / (3 * (6 / 29) ** 2) + 4 / 29)
    return np.stack([116 * f[:, 1] - 16, 500 * (f[:, 0] - f[:, 1]), 200 * (f[:, 1] - f[:, 2])], axis=1)
