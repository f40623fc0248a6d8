// Snapping on the board: to the grid, to edges and middles of other shapes, to points.

const NEAR = 7; // pixels
const GRID = 5; // mm

export class Snap {
  constructor() {
    this.on = true;
  }

  // Gathers what there is to snap to, the shapes in `left` left out.
  gather(paths, left, field) {
    const still = paths.filter((path) => !left.includes(path.dataset.id) && !path.dataset.hidden);
    const boxes = still.map((path) => path.dataset.box.split(" ").map(Number));
    const [width, height] = field;
    this.x = [0, -width / 2, width / 2, ...boxes.flatMap((box) => [box[0], (box[0] + box[2]) / 2, box[2]])];
    this.y = [0, -height / 2, height / 2, ...boxes.flatMap((box) => [box[1], (box[1] + box[3]) / 2, box[3]])];
    this.still = still;
    this.points = null;
  }

  // Points of the shapes that lie still, and middles; read only once something asks for them.
  every() {
    if (this.points) return this.points;
    const middles = this.still.map((path) => path.dataset.box.split(" ").map(Number)).map((box) => [(box[0] + box[2]) / 2, (box[1] + box[3]) / 2]);
    const points = this.still.flatMap((path) => path.getAttribute("d").replace(/[MLZ]/g, " ").trim().split(/\s+/)).map((pair) => pair.split(",").map(Number));
    return (this.points = [[0, 0], ...middles, ...points]);
  }

  active(event) {
    return this.on !== (event.ctrlKey || event.metaKey);
  }

  // Where a box moved by (dx, dy) should go instead, and the lines it then lies on.
  box(box, dx, dy, grain) {
    const across = this.nearest([box.left + dx, (box.left + box.right) / 2 + dx, box.right + dx], this.x, grain);
    const down = this.nearest([box.top + dy, (box.top + box.bottom) / 2 + dy, box.bottom + dy], this.y, grain);
    return { dx: dx + across.by, dy: dy + down.by, lines: { x: across.at, y: down.at } };
  }

  nearest(places, targets, grain) {
    let best = { by: 0, at: null, off: NEAR * grain };
    for (const place of places) {
      for (const target of targets) if (Math.abs(target - place) < best.off) best = { by: target - place, at: target, off: Math.abs(target - place) };
    }
    if (best.at !== null) return best;
    const grid = Math.round(places[0] / GRID) * GRID;
    return Math.abs(grid - places[0]) < best.off / 2 ? { by: grid - places[0], at: null, off: 0 } : best;
  }

  // The place a point should go to: another point or a middle, else the grid.
  place(at, grain) {
    let best = null, off = NEAR * grain;
    for (const [x, y] of this.every()) {
      const far = Math.hypot(x - at.x, y - at.y);
      if (far < off) [best, off] = [{ x, y }, far];
    }
    if (best) return best;
    const grid = { x: Math.round(at.x / GRID) * GRID, y: Math.round(at.y / GRID) * GRID };
    return Math.hypot(grid.x - at.x, grid.y - at.y) < (NEAR * grain) / 2 ? grid : at;
  }
}
