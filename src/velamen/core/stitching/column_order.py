"""The order in which the strokes of a shape are sewn as columns: out under rows sewn later, and back over them.

The thread enters a stroke, runs out along its middle, leaves it wherever another is to be sewn under it or beside its
end, and comes back in satin. So all underlay and all ways lie under rows sewn later, but where a stroke is reached
from one that ends at it: that one's rows end on it instead.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np
import shapely

from velamen.core.arrays import Array
from velamen.core.geometry.strokes import Strokes
from velamen.core.geometry.strokes.axis import END, Axis

SAME = 1e-3  # mm between the middles of a contact and of the end that lies at it
ACUTE = 1.2  # half widths that a stroke goes on past the middle of a mitre, from which on its end lies off that
BESIDE = 1.5  # mm from an end of a stroke, nearer than which one that is entered there is entered at that end
MOST_ROOTS = 24  # strokes, the largest, that are tried as the first one


@dataclass(frozen=True)
class Mark:
    """A place on a stroke: one of its ends (0 or 1), or where it meets another at a contact."""

    end: int | None = None
    contact: int | None = None


@dataclass
class Stretch:
    """A stroke sewn from one mark to another and back; visits: strokes sewn on the way out, each from a mark."""

    stroke: int
    near: Mark
    far: Mark
    visits: list[tuple[Mark, list[Stretch]]] = field(default_factory=list)


Visit = list[Stretch]
"""A stroke sewn wholly, in one stretch or two, with all that is reached from it."""


@dataclass(frozen=True)
class Order:
    """Visits one after another, one for each part that hangs together. rank: of each stroke, when it is covered;

    along: by stroke and contact, how far along the stroke's axis that lies, mm.
    """

    visits: list[Visit]
    rank: dict[int, int]
    along: dict[tuple[int, int], float]


def order_of(found: Strokes, axes: list[Axis | None], start: Array | None) -> Order:
    """The order of strokes. axes: middle of each, None for those sewn as fills; start: where sewing should begin."""
    links = _links(found)
    left = set(range(len(found.strokes)))
    visits: list[Visit] = []
    while left:
        root = _root(found, axes, links, left, start)
        tree = _tree(links, root, left)
        left -= {root, *(child for steps in tree.values() for _, child in steps)}
        visits.append(_visit(found, axes, tree, root, _entry(found, axes, root, start)))
    rank: dict[int, int] = {}
    step = 0
    for visit in visits:
        step = _ranked(visit, rank, step)
    along = {(nth, link): _along(found, axis, nth, link) for link, contact in enumerate(found.contacts)
             for nth in {contact.branch, contact.host} if (axis := axes[nth]) is not None}  # fmt: skip
    return Order(visits, rank, along)


def _links(found: Strokes) -> dict[int, list[tuple[int, int, int]]]:
    """For each stroke its contacts: number, the stroke there, and 1 if that is reached from what ends at it."""
    links: dict[int, list[tuple[int, int, int]]] = {nth: [] for nth in range(len(found.strokes))}
    for nth, contact in enumerate(found.contacts):
        if contact.branch != contact.host:
            links[contact.host].append((nth, contact.branch, 1 if contact.cut.touch else 0))
            links[contact.branch].append((nth, contact.host, 0 if contact.cut.mitre else 1))
    return links


def _root(
    found: Strokes, axes: list[Axis | None], links: dict[int, list[tuple[int, int, int]]], left: set[int],
    start: Array | None,
) -> int:  # fmt: skip
    if start is not None:
        return min(left, key=lambda nth: round(_off(found, axes, nth, start), 3))
    large = sorted(left, key=lambda nth: -round(found.strokes[nth].region.area, 3))[:MOST_ROOTS]

    def price(nth: int) -> tuple[int, int, int, float]:
        tree = _tree(links, nth, left)
        dear = sum(_cost(links, host, contact) for host, steps in tree.items() for contact, _ in steps)
        reached = 1 + sum(len(steps) for steps in tree.values())
        axis = axes[nth]
        tip = axis is not None and (axis.closed or None in axis.ends)
        return -reached, dear, 0 if tip else 1, -round(found.strokes[nth].region.area, 3)

    return min(large, key=price)


def _off(found: Strokes, axes: list[Axis | None], nth: int, start: Array) -> float:
    axis = axes[nth]
    if axis is None:
        return float(np.linalg.norm(np.array(found.strokes[nth].region.centroid.coords[0]) - start))
    return float(np.linalg.norm(axis.place - start, axis=1).min())


def _cost(links: dict[int, list[tuple[int, int, int]]], stroke: int, contact: int) -> int:
    return next(cost for nth, _, cost in links[stroke] if nth == contact)


def _tree(
    links: dict[int, list[tuple[int, int, int]]], root: int, left: set[int]
) -> dict[int, list[tuple[int, int]]]:
    """By stroke the contacts that lead on from it and the strokes reached there, by as few dear ones as can be."""
    queue = deque([(root, -1, -1, 0)])
    seen = set[int]()
    tree: dict[int, list[tuple[int, int]]] = {}
    while queue:
        nth, host, contact, cost = queue.popleft()
        if nth in seen:
            continue
        seen.add(nth)
        if host >= 0:
            tree.setdefault(host, []).append((contact, nth))
        for link, other, dear in links[nth]:
            if other in left and other not in seen:
                (queue.append if dear else queue.appendleft)((other, nth, link, cost + dear))
    return tree


def _entry(found: Strokes, axes: list[Axis | None], root: int, start: Array | None) -> Mark:
    axis = axes[root]
    if axis is None or axis.closed:
        return Mark(0)
    ends = [0, 1] if start is None else sorted(
        (0, 1), key=lambda end: float(np.linalg.norm(axis.place[axis.body[end]] - start)))  # fmt: skip
    return Mark(min(ends, key=lambda end: axis.ends[end] is not None))


def _visit(
    found: Strokes, axes: list[Axis | None], tree: dict[int, list[tuple[int, int]]], nth: int, entry: Mark
) -> Visit:
    """A stroke and what hangs on it in the tree, in the order in which it is passed."""
    axis = axes[nth]
    if axis is None:
        near = _place(found, entry)
        steps = sorted(tree.get(nth, []), key=_turning(found, nth, near))
        hung = [(Mark(contact=link), _visit(found, axes, tree, child, _mark(found, axes, child, link)))
                 for link, child in steps]  # fmt: skip
        return [Stretch(nth, entry, entry, hung)]
    at = {link: _along(found, axis, nth, link) for link, _ in tree.get(nth, [])}
    here = _at(found, axis, nth, entry)
    high = float(axis.way[-1])
    inner = [(at[link], Mark(contact=link), child) for link, child in tree.get(nth, [])]
    if axis.closed:
        order = sorted(inner, key=lambda one: np.mod(one[0] - here, high))
        return [_stretch(found, axes, tree, nth, entry, entry, order)]
    if entry.end is not None:
        far = Mark(1 - entry.end)
        order = sorted(inner, key=lambda one: one[0], reverse=entry.end == 1)
        return [_stretch(found, axes, tree, nth, entry, far, order)]
    after = sorted((one for one in inner if one[0] >= here), key=lambda one: one[0])
    before = sorted((one for one in inner if one[0] < here), key=lambda one: -one[0])
    return [_stretch(found, axes, tree, nth, entry, Mark(1), after),
            _stretch(found, axes, tree, nth, entry, Mark(0), before)]  # fmt: skip


def _stretch(
    found: Strokes, axes: list[Axis | None], tree: dict[int, list[tuple[int, int]]], nth: int, near: Mark, far: Mark,
    inner: list[tuple[float, Mark, int]],
) -> Stretch:  # fmt: skip
    visits = []
    for _, mark, child in inner:
        assert mark.contact is not None
        visits.append((mark, _visit(found, axes, tree, child, _mark(found, axes, child, mark.contact))))
    return Stretch(nth, near, far, visits)


def _mark(found: Strokes, axes: list[Axis | None], nth: int, link: int) -> Mark:
    """Where a stroke is entered by a contact: at an end of its own, or along it."""
    axis = axes[nth]
    end = end_at(found, axis, nth, link)
    if end is None and axis is not None and not axis.closed:
        at = _along(found, axis, nth, link)
        end = 0 if at < BESIDE else 1 if at > axis.way[-1] - BESIDE else None
    return Mark(contact=link) if end is None else Mark(end)


def end_at(found: Strokes, axis: Axis | None, nth: int, link: int) -> int | None:
    """The end of a stroke that lies at a contact, None where it only passes it: its cut may lie beside its end."""
    if axis is None or axis.closed or link not in found.strokes[nth].ends:
        return None
    contact = found.contacts[link]
    middle = contact.cut.middle
    near = [np.inf if end is None else float(np.linalg.norm(end.line.mean(axis=0) - middle)) for end in axis.ends]
    end = int(np.argmin(near))
    if min(near) >= SAME:
        return None
    if contact.branch == contact.host:
        return end
    least = ACUTE * float(np.median(axis.half)) if contact.cut.mitre else BESIDE
    return None if _beyond(found, axis, nth, middle, end) > least else end


def _beyond(found: Strokes, axis: Axis, nth: int, cut: Array, end: int) -> float:
    """How far a stroke goes on past the middle of the cut (2,) at its end, mm."""
    off = axis.way if end == 0 else axis.way[-1] - axis.way
    here = np.flatnonzero(off <= END * float(np.median(axis.half)))
    at = here[int(np.argmin(np.linalg.norm(axis.place[here] - cut, axis=1)))]
    past = here[off[here] <= off[at]]
    inside = past[shapely.contains_xy(found.strokes[nth].region, *axis.place[past].T)]
    return float(np.ptp(axis.way[inside])) if len(inside) else 0.0


def _at(found: Strokes, axis: Axis, nth: int, mark: Mark) -> float:
    if mark.contact is not None:
        return _along(found, axis, nth, mark.contact)
    return 0.0 if mark.end == 0 else float(axis.way[-1])


def _along(found: Strokes, axis: Axis, nth: int, link: int) -> float:
    """How far along a stroke a contact lies, mm."""
    end = end_at(found, axis, nth, link)
    if end is not None:
        return 0.0 if end == 0 else float(axis.way[-1])
    off, half = np.linalg.norm(axis.place - found.contacts[link].cut.middle, axis=1), float(np.median(axis.half))
    at = int(np.argmin(off))
    body = np.arange(axis.body[0], axis.body[1] + 1)
    near = body[int(np.argmin(off[body]))]
    if off[near] < off[at] + half and abs(axis.way[near] - axis.way[at]) > END * half:
        at = int(near)  # an end that has run on comes by what lies at another part of the stroke
    return float(axis.way[at])


def _place(found: Strokes, mark: Mark) -> Array | None:
    return None if mark.contact is None else found.contacts[mark.contact].cut.middle


def _turning(found: Strokes, nth: int, near: Array | None) -> Callable[[tuple[int, int]], float]:
    """Contacts of a hub by their angle about its middle, beginning beside where it was entered."""
    centre = np.array(found.strokes[nth].region.centroid.coords[0])

    def angle(place: Array) -> float:
        return float(np.arctan2(*(place - centre)[::-1]))

    base = 0.0 if near is None else angle(near)
    return lambda step: float(np.mod(angle(found.contacts[step[0]].cut.middle) - base, 2 * np.pi))


def _ranked(visit: Visit, rank: dict[int, int], step: int = 0) -> int:
    """Numbers strokes in the order in which their rows are finished."""
    for stretch in visit:
        for _, inner in stretch.visits:
            step = _ranked(inner, rank, step)
        rank[stretch.stroke] = step
        step += 1
    return step
