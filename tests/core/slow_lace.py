"""Lace after the rinse, worked out again stitch by stitch and slowly, by the words of the model alone: no grid, no sorting,
no trees. Only for pieces without satins."""

import itertools
import math

NEAR, OVERLAP = 0.15, 0.8


class Sets:
    """Things that belong together."""

    def __init__(self):
        self.of = {}

    def find(self, one):
        while self.of.setdefault(one, one) != one:
            one = self.of[one]
        return one

    def join(self, one, other):
        self.of[self.find(one)] = self.find(other)


def off_line(spot, one, other):
    """Signed distance of a place from a line, and how far along it that is."""
    (x, y), (a, b), (c, d) = spot, one, other
    long = math.dist(one, other)
    return ((c - a) * (y - b) - (d - b) * (x - a)) / long, ((c - a) * (x - a) + (d - b) * (y - b)) / long


def holes_of(threads):
    """The hole of every needle point, and where each lies."""
    threads = [[spot for n, spot in enumerate(thread) if n == 0 or spot != thread[n - 1]] for thread in threads]
    points = [tuple(spot) for thread in threads for spot in thread]
    sets = Sets()
    for (n, one), (m, other) in itertools.combinations(enumerate(points), 2):
        if math.dist(one, other) <= NEAR:
            sets.join(n, m)
    members = {}
    for n, spot in enumerate(points):
        members.setdefault(sets.find(n), []).append(spot)
    where = {
        key: tuple(sum(axis) / len(spots) for axis in zip(*spots, strict=True)) for key, spots in members.items()
    }
    count = iter(range(len(points)))
    return (
        [[sets.find(next(count)) for _ in thread] for thread in threads],
        where,
        {k: len(v) for k, v in members.items()},
    )


def graph_of(threads):
    """Nodes, edges between them and mm of thread on each edge."""
    ways, where, needled = holes_of(threads)
    passes, running = {}, Sets()
    for way in ways:
        way = [one for n, one in enumerate(way) if n == 0 or one != way[n - 1]]
        steps = [tuple(sorted(step)) for step in itertools.pairwise(way)]
        for step in steps:
            passes[step] = passes.get(step, 0) + 1
        for (one, other), hole in zip(itertools.pairwise(steps), way[1:], strict=False):
            running.join((one, hole), (other, hole))
    halves = [(step, hole) for step in passes for hole in step]
    run = {half: running.find(half) for half in halves}
    locks, on = [], {step: [] for step in passes}

    def spot_on(step, along):
        on[step].append(along)
        return (step, along)

    # In one hole.
    for hole in where:
        there = [half for half in halves if half[1] == hole]
        for one, other in itertools.combinations(sorted({run[half] for half in there}), 2):
            ring = sorted((math.atan2(where[_far(h)][1] - where[hole][1], where[_far(h)][0] - where[hole][0]), run[h] == one)
                          for h in there if run[h] in (one, other))  # fmt: skip
            changes = sum(ring[n][1] != ring[n - 1][1] for n in range(len(ring)))
            if changes >= 4 or needled[hole] >= 4:
                locks.append((one, other))
    beside = {}
    for one, other in itertools.combinations(passes, 2):
        a, b, c, d = where[one[0]], where[one[1]], where[other[0]], where[other[1]]
        if any(max(a[n], b[n]) + NEAR < min(c[n], d[n]) or max(c[n], d[n]) + NEAR < min(a[n], b[n]) for n in (0, 1)):
            continue
        if not set(one) & set(other):
            place = meeting(a, b, c, d)
            if place and min(math.dist(place, end) for end in (a, b, c, d)) > NEAR:
                locks.append((spot_on(one, math.dist(a, place)), spot_on(other, math.dist(c, place))))
            else:
                for mine, line in ((one, other), (other, one)):
                    for hole in mine:
                        aside, along = off_line(where[hole], where[line[0]], where[line[1]])
                        if abs(aside) <= NEAR and 0 < along < math.dist(where[line[0]], where[line[1]]):
                            beside[run[mine, hole], line] = along
        flat = abs((b[0] - a[0]) * (d[1] - c[1]) - (b[1] - a[1]) * (d[0] - c[0])) / math.dist(a, b) / math.dist(c, d)
        if flat < 0.5 and not {run[one, hole] for hole in one} & {run[other, hole] for hole in other}:
            span = alongside(a, b, c, d)
            if span:
                locks.append((spot_on(one, span[0]), spot_on(other, span[1])))
    for (thread, line), along in beside.items():
        sides = [off_line(where[_far(h)], where[line[0]], where[line[1]])[0] for h in halves if run[h] == thread]
        if min(sides) < -NEAR and max(sides) > NEAR:
            locks.append((thread, spot_on(line, along)))
    edges = [(one, other, 0.0) for one, other in locks]
    for step, count in passes.items():
        places = [0.0, *sorted(on[step]), math.dist(where[step[0]], where[step[1]])]
        nodes = [run[step, step[0]], *((step, along) for along in places[1:-1]), run[step, step[1]]]
        for n, (one, other) in enumerate(itertools.pairwise(nodes)):
            edges.append((one, other, count * (places[n + 1] - places[n])))
    return edges


def _far(half):
    step, hole = half
    return step[1] if step[0] == hole else step[0]


def meeting(a, b, c, d):
    """Where two stretches cross inside."""
    turn = (b[0] - a[0]) * (d[1] - c[1]) - (b[1] - a[1]) * (d[0] - c[0])
    if abs(turn) < 1e-9:
        return None
    s = ((c[0] - a[0]) * (d[1] - c[1]) - (c[1] - a[1]) * (d[0] - c[0])) / turn
    t = ((c[0] - a[0]) * (b[1] - a[1]) - (c[1] - a[1]) * (b[0] - a[0])) / turn
    return (a[0] + s * (b[0] - a[0]), a[1] + s * (b[1] - a[1])) if 0 < s < 1 and 0 < t < 1 else None


def alongside(a, b, c, d):
    """mm along both of the middle of the part of a-b within reach of c-d, where that is long enough."""
    near = [share / 2000 for share in range(2001)]
    spots = [(a[0] + s * (b[0] - a[0]), a[1] + s * (b[1] - a[1])) for s in near]
    kept = [n for n, spot in enumerate(spots) if abs((found := off_line(spot, c, d))[0]) <= NEAR
            and 0 <= found[1] <= math.dist(c, d)]  # fmt: skip
    if not kept or (kept[-1] - kept[0]) / 2000 * math.dist(a, b) < OVERLAP:
        return None
    middle = spots[(kept[0] + kept[-1]) // 2]
    return math.dist(a, middle), off_line(middle, c, d)[1]


def parted(edges, without=()):
    """Weights of the parts that are left without some edges, the heaviest first."""
    sets, weight = Sets(), {}
    for n, (one, other, _) in enumerate(edges):
        sets.find(one), sets.find(other)
        if n not in without:
            sets.join(one, other)
    for one, other, long in edges:
        for node in (one, other):
            weight[sets.find(node)] = weight.get(sets.find(node), 0.0) + long / 2
    return sorted(weight.values(), reverse=True)


def fewest(edges, least, upto=2):
    """How many edges part more than a share of all, and the greatest share that so many part: (0, 0) for none."""
    whole = sum(edge[2] for edge in edges)
    edges = [edge for edge in edges if edge[0] != edge[1]]
    for count in range(1, upto + 1):
        best = 0.0
        for first in itertools.combinations(range(len(edges)), count - 1):
            for last, light in bridges(edges, set(first), whole):
                if not first or last > max(first):
                    best = max(best, light / whole)
        if best > least:
            return count, best
    return 0, 0.0


def bridges(edges, without, whole):
    """Edges that alone part what is left, with the weight of the lighter side: lowest ways back, by depth."""
    near = {}
    for n, (one, other, _) in enumerate(edges):
        for node, far in ((one, other), (other, one)):
            near.setdefault(node, []).append((far, n) if n not in without else None)
    weight = {}
    for one, other, long in edges:
        for node in (one, other):
            weight[node] = weight.get(node, 0.0) + long / 2
    start = next(iter(near))
    depth, low, below, found = {start: 0}, {start: 0}, dict(weight), []
    stack = [(start, -1, iter(near[start]))]
    while stack:
        node, came, rest = stack[-1]
        for step in rest:
            if step is None or step[1] == came:
                continue
            far, n = step
            if far in depth:
                low[node] = min(low[node], depth[far])
            else:
                depth[far] = low[far] = len(stack)
                stack.append((far, n, iter(near[far])))
                break
        else:
            stack.pop()
            if stack:
                above = stack[-1][0]
                low[above] = min(low[above], low[node])
                below[above] += below[node]
                if low[node] > depth[above]:
                    found.append((came, min(below[node], whole - below[node])))
    return found if len(depth) == len(near) else []
