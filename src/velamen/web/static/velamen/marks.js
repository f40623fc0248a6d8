// What the board draws over its shapes: the frame round chosen ones with its grips, the points of an outline, a measure.

const CROWDED = 9; // px between points; nearer ones are left out until one zooms in

// Outlines of what is chosen, and the box round them.
export function drawFrame(board, d, box, px) {
  board.draw("path", { class: "halo", d, "stroke-width": 3 * px });
  board.draw("path", { class: "edge", d, "stroke-width": 1.4 * px, "stroke-dasharray": `${5 * px} ${3 * px}` });
  if (!box) return;
  const { left, top, right, bottom } = box;
  board.draw("rect", { class: "edge", x: left, y: top, width: right - left, height: bottom - top, "stroke-width": px });
}

// The grip that turns, over the box, and those that size at its corners.
export function drawGrips(board, { left, top, right, bottom }, sized, px) {
  const middle = (left + right) / 2, over = top - 24 * px, width = 1.6 * px;
  board.draw("line", { class: "edge", x1: middle, y1: top, x2: middle, y2: over, "stroke-width": px });
  board.draw("circle", { class: "grip", cx: middle, cy: over, r: 6 * px, "stroke-width": width, "data-grip": "turn" });
  if (!sized) return;
  for (const [x, y] of [[left, top], [right, top], [right, bottom], [left, bottom]]) {
    drawSquare(board, x, y, 5 * px, { class: "grip", "stroke-width": width, "data-grip": "size" });
  }
}

export function drawSquare(board, x, y, half, look) {
  board.draw("rect", { x: x - half, y: y - half, width: 2 * half, height: 2 * half, ...look });
}

// An outline whose points are edited; it can be taken hold of beside its line.
export function drawOutline(board, d, px) {
  board.draw("path", { class: "halo", d, "stroke-width": 4 * px });
  board.draw("path", { class: "edge", d, "stroke-width": 1.6 * px, "data-outline": "1" });
  board.draw("path", { class: "reach", d, "stroke-width": 12 * px, "data-outline": "1" });
}

// How a point looks and answers, chosen or not.
export function pointLook(name, on, px) {
  return { class: on ? "grip on" : "grip", "stroke-width": 1.5 * px, "data-grip": "point", "data-point": name };
}

// Points of rings within a frame { low, high }; gives how many are shown, and of how many.
export function drawPoints(board, rings, { low, high }, px) {
  let shown = 0, every = 0;
  for (const [ring, points] of rings.entries()) {
    let last = null;
    for (const [nth, [x, y]] of points.entries()) {
      every += 1;
      const name = `${ring}.${nth}`, on = board.points.includes(name);
      if (x < low.x || y < low.y || x > high.x || y > high.y) continue;
      if (!on && last && Math.hypot(x - last[0], y - last[1]) < CROWDED * px) continue;
      last = [x, y];
      shown += 1;
      board.draw("circle", { cx: x, cy: y, r: (on ? 6 : 4.4) * px, ...pointLook(name, on, px) });
    }
  }
  return { shown, every };
}

export function drawMeasure(board, from, to, px) {
  for (const [look, width] of [["halo", 4], ["measure", 1.6]]) {
    board.draw("line", { class: look, x1: from.x, y1: from.y, x2: to.x, y2: to.y, "stroke-width": width * px });
  }
}

// The box within which shapes or points are chosen.
export function drawBox(board, one, other, px) {
  const x = Math.min(one.x, other.x), y = Math.min(one.y, other.y);
  const width = Math.abs(one.x - other.x), height = Math.abs(one.y - other.y);
  board.draw("rect", { class: "choosing", x, y, width, height, "stroke-width": px });
}
