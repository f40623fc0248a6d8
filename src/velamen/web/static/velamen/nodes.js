// Curve points of the chosen shape on the board: drawn with their handles, dragged with the curve following at once.

import { drawOutline, drawSquare, pointLook } from "./marks.js";

export function nodesOf(path) {
  return path.dataset.nodes.split("|").map((ring) => ring.split(";").map((node) => node.split(" ").map(Number)));
}

const near = (value) => value.toFixed(3);

// Curves through nodes as the path of an SVG.
export function pathOf(rings) {
  return rings.map((nodes) => openPathOf([...nodes, nodes[0]]) + "Z").join("");
}

export function openPathOf([first, ...others]) {
  let node = first, path = `M${near(node[0])},${near(node[1])}`;
  for (const ahead of others) {
    path += `C${near(node[4])},${near(node[5])} ${near(ahead[2])},${near(ahead[3])} ${near(ahead[0])},${near(ahead[1])}`;
    node = ahead;
  }
  return path;
}

// Nodes of the line through placed points, as the server makes it (artwork/pen.py): a Catmull-Rom curve through
// those that are curve points, straight at the others and at the ends of an open line.
export function nodesThrough(points, open) {
  const count = points.length;
  return points.map(({ x, y, curve }, nth) => {
    const before = points[(nth + count - 1) % count], after = points[(nth + 1) % count];
    const bends = curve && !(open && (nth === 0 || nth === count - 1));
    const dx = bends ? (after.x - before.x) / 6 : 0, dy = bends ? (after.y - before.y) / 6 : 0;
    return [x, y, x - dx, y - dy, x + dx, y + dy];
  });
}

export function isCorner(node) {
  const back = [node[2] - node[0], node[3] - node[1]], ahead = [node[4] - node[0], node[5] - node[1]];
  const size = Math.hypot(...back) * Math.hypot(...ahead);
  return size < 1e-9 || Math.abs(back[0] * ahead[1] - back[1] * ahead[0]) > 0.02 * size || back[0] * ahead[0] + back[1] * ahead[1] > 0;
}

// Nodes after chosen ones, or one handle, are dragged by (dx, dy).
export function dragged(rings, chosen, side, dx, dy) {
  return rings.map((nodes, ring) => nodes.map((node, nth) => {
    if (!chosen.includes(`${ring}.${nth}`)) return node;
    if (!side) return node.map((value, axis) => value + (axis % 2 ? dy : dx));
    const moved = [...node], at = side === "before" ? 2 : 4, other = side === "before" ? 4 : 2;
    moved[at] += dx;
    moved[at + 1] += dy;
    if (!isCorner(node)) {
      const way = [moved[at] - node[0], moved[at + 1] - node[1]], long = Math.hypot(...way) || 1;
      const length = Math.hypot(node[other] - node[0], node[other + 1] - node[1]);
      moved[other] = node[0] - (way[0] / long) * length;
      moved[other + 1] = node[1] - (way[1] / long) * length;
    }
    return moved;
  }));
}

// Draws points with the handles of chosen ones and their neighbours; gives how many there are.
export function drawNodes(board, rings, px) {
  drawOutline(board, pathOf(rings), px);
  let every = 0;
  for (const [ring, nodes] of rings.entries()) {
    for (const [nth, node] of nodes.entries()) {
      const name = `${ring}.${nth}`, on = board.points.includes(name);
      every += 1;
      if (on) drawHandles(board, node, name, px);
      const look = pointLook(name, on, px), half = (on ? 5.4 : 4.4) * px;
      if (isCorner(node)) drawSquare(board, node[0], node[1], half, look);
      else board.draw("circle", { cx: node[0], cy: node[1], r: half, ...look });
    }
  }
  return every;
}

function drawHandles(board, [x, y, ...ends], name, px) {
  for (const [side, hx, hy] of [["before", ends[0], ends[1]], ["after", ends[2], ends[3]]]) {
    if (Math.hypot(hx - x, hy - y) < 1e-6) continue;
    const held = { "data-grip": "handle", "data-point": name, "data-side": side };
    board.draw("line", { class: "lever", x1: x, y1: y, x2: hx, y2: hy, "stroke-width": 1.3 * px });
    board.draw("circle", { class: "lever", cx: hx, cy: hy, r: 4.6 * px, "stroke-width": 1.4 * px, ...held });
  }
}
