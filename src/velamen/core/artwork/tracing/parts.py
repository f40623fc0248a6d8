"""Connected parts of a labelled picture: found, specks given to their neighbours."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage, sparse

from velamen.core.arrays import Index
from velamen.core.artwork.tracing.colours import NOTHING, Labels


def parts(labels: Labels, least: float) -> tuple[Index, Index]:
    """Part of each pixel (h, w), numbered from 0, and the label of each part.

    Pixels hang together by their sides. least: pixels under which a part is a speck; it goes to the
    neighbour with which it shares most border, transparent ground included.
    """
    part, kind = _connected(labels)
    size = np.bincount(part.ravel(), minlength=len(kind))
    owner = np.arange(len(kind))
    pairs, border = _neighbours(part)
    for _ in range(12):
        small = (np.bincount(owner, size, len(kind)) < least) & (owner == np.arange(len(kind)))
        one, other = owner[pairs[:, 0]], owner[pairs[:, 1]]
        apart = one != other
        taker = _taker(np.concatenate([one[apart], other[apart]]), np.concatenate([other[apart], one[apart]]),
                       np.tile(border[apart], 2), small)  # fmt: skip
        given = small & (taker >= 0)
        if not given.any():
            break
        owner = _followed(np.where(given, taker, np.arange(len(kind))))[owner]
        kind = kind[owner]
        owner = _joined(owner, kind, pairs)
    found, again = np.unique(owner, return_inverse=True)
    return again[part], kind[found]


def outer_label(labels: Labels) -> int:
    """The label that most of the picture's edge has: its background."""
    edge = np.concatenate([labels[0], labels[-1], labels[:, 0], labels[:, -1]])
    seen = np.bincount(edge[edge != NOTHING], minlength=1)
    return int(seen.argmax()) if len(seen) and seen.max() > 0.3 * len(edge) else NOTHING


def _connected(labels: Labels) -> tuple[Index, Index]:
    """Parts that hang together by their sides, label by label within each one's box."""
    part = np.zeros(labels.shape, dtype=np.int64)
    kinds: list[int] = []
    shifted = labels.astype(np.int32) + 1
    shifted[shifted == 0] = shifted.max() + 1
    for value, box in enumerate(ndimage.find_objects(shifted), 1):
        if box is None:
            continue
        here = shifted[box] == value
        found, count = ndimage.label(here)
        part[box][here] = found[here] + (len(kinds) - 1)
        label = int(labels[box][here][0])
        kinds.extend([label] * count)
    return part, np.array(kinds, dtype=np.int64)


def _neighbours(part: Index) -> tuple[Index, Index]:
    """Pairs of parts that touch, and how many pixel sides they share."""
    sides = []
    for one, other in ((part[:, :-1], part[:, 1:]), (part[:-1], part[1:])):
        apart = one != other
        sides.append(np.stack([one[apart], other[apart]], axis=1))
    both = np.sort(np.concatenate(sides), axis=1)
    if len(both) == 0:
        return both, np.zeros(0, dtype=np.int64)
    code = both[:, 0] * (int(part.max()) + 1) + both[:, 1]
    found, count = np.unique(code, return_counts=True)
    return np.stack(np.divmod(found, int(part.max()) + 1), axis=1), count


def _taker(one: Index, other: Index, border: Index, small: NDArray[np.bool_]) -> Index:
    """For every small part the neighbour that shares most border, a large one where there is one."""
    wanted = small[one]
    one, other, border = one[wanted], other[wanted], border[wanted]
    taker = np.full(len(small), -1)
    order = np.lexsort((other, border, ~small[other]))
    taker[one[order]] = other[order]
    return taker


def _followed(taker: Index) -> Index:
    """Where each part ends when takers are small themselves; rings of small ones end at the lowest."""
    links = sparse.coo_matrix((np.ones(len(taker)), (np.arange(len(taker)), taker)), shape=(len(taker),) * 2)
    count, group = sparse.csgraph.connected_components(links, directed=False)
    root = np.full(count, len(taker))
    stays = np.flatnonzero(taker == np.arange(len(taker)))
    np.minimum.at(root, group[stays], stays)
    lowest = np.full(count, len(taker))
    np.minimum.at(lowest, group, np.arange(len(taker)))
    return np.asarray(np.where(root < len(taker), root, lowest)[group])


def _joined(owner: Index, kind: Index, pairs: Index) -> Index:
    """Parts of one label that touch now, as one."""
    one, other = owner[pairs[:, 0]], owner[pairs[:, 1]]
    same = (kind[one] == kind[other]) & (one != other)
    links = sparse.coo_matrix((np.ones(int(same.sum())), (one[same], other[same])), shape=(len(kind),) * 2)
    count, group = sparse.csgraph.connected_components(links, directed=False)
    lowest = np.full(count, len(kind))
    np.minimum.at(lowest, group, np.arange(len(kind)))
    return np.asarray(lowest[group][owner])
