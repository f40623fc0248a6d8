// Guide lines of the chosen piece: drawn on the cloth while their list is open, bent by dragging one of five points;
// what goes with them is asked for and drawn while they are bent.

const REACH = 12; // px round a point
const POINT = 6; // px
const GRIPS = 5;

export class Guides {
  // spots: knows where a design lies in the hoop.
  constructor(redraw, spots) {
    this.redraw = redraw;
    this.spots = spots;
    this.held = null; // what is bent: { nth, grip, points }
    this.lines = []; // what goes with it, in the design
    const panel = document.getElementById("values");
    panel.addEventListener("click", ({ target }) => target.closest("[data-bend]") && this.begin(target.closest("form.guide")));
  }

  rows() {
    return [...document.querySelectorAll("details.guides[open] form.guide")];
  }

  // The points of a line as they stand, in the design.
  points(row, nth) {
    if (this.held?.nth === nth) return this.held.points;
    return row.dataset.line.split(" ").map((one) => one.split(",").map(Number));
  }

  // Which of its points are held, evenly apart.
  grips(points) {
    const count = Math.min(GRIPS, points.length);
    return Array.from({ length: count }, (_, nth) => Math.round((nth * (points.length - 1)) / (count - 1)));
  }

  every() {
    return this.spots.plan ? this.rows().map((row, nth) => ({ row, nth, points: this.points(row, nth) })) : [];
  }

  inCopy([x, y]) {
    return this.spots.inCopy({ x, y });
  }

  grip(spot, scale) {
    for (const { nth, points } of this.every()) {
      for (const [grip, at] of this.grips(points).entries()) {
        const { x, y } = this.inCopy(points[at]);
        if (Math.hypot(spot.x - x, spot.y - y) * scale <= REACH) return `${nth} ${grip}`;
      }
    }
    return null;
  }

  drag(name, spot) {
    const [nth, grip] = name.split(" ").map(Number);
    const one = this.every()[nth];
    if (!one) return;
    const { x, y } = this.spots.inDesign(spot);
    this.bend(nth, grip, one.points, [x, y]);
  }

  // A point led to a place, those up to its neighbours following softly.
  bend(nth, grip, points, [x, y]) {
    const ats = this.grips(points), at = ats[grip], before = ats[grip - 1] ?? at, after = ats[grip + 1] ?? at;
    const [dx, dy] = [x - points[at][0], y - points[at][1]];
    const moved = points.map(([px, py], one) => {
      const far = one <= at ? (at - one) / Math.max(at - before, 1) : (one - at) / Math.max(after - at, 1);
      const share = far >= 1 ? 0 : 0.5 + 0.5 * Math.cos(Math.PI * far);
      return [px + share * dx, py + share * dy];
    });
    this.held = { nth, grip, points: moved };
    this.ask();
    this.redraw();
  }

  // Asks what goes with the line so; only the latest wish is kept.
  async ask() {
    this.wanted = true;
    if (this.asking) return;
    this.asking = true;
    while (this.wanted && this.held) {
      this.wanted = false;
      const { nth, points } = this.held;
      const asked = new URLSearchParams({ nth, points: written(points) });
      try {
        const answer = await fetch(`${document.querySelector("details.guides").dataset.led}?${asked}`);
        const found = await answer.json();
        if (found.lines && this.held) this.lines = found.lines;
      } catch {
        this.lines = []; // the drop says what is wrong
      }
      this.redraw();
    }
    this.asking = false;
  }

  drop() {
    if (!this.held) return;
    const { nth, points } = this.held, row = this.rows()[nth];
    if (!row) return this.cancel();
    row.dataset.line = written(points);
    row.elements.points.value = row.dataset.line;
    this.held = this.chosen = null;
    row.elements.points.dispatchEvent(new Event("change", { bubbles: true }));
    this.redraw();
  }

  cancel() {
    this.held = this.chosen = null;
    this.lines = [];
    this.redraw();
  }

  // A new plan has come: its own stitches are seen again.
  settle() {
    if (!this.held) this.lines = [];
  }

  // By keys: the button of a line takes them.
  begin(row) {
    const nth = this.rows().indexOf(row);
    this.chosen = { nth, grip: 0 };
    this.held = { nth, grip: 0, points: this.points(row, nth) };
    this.redraw();
  }

  key(event) {
    if (!this.chosen || !this.held) return false;
    const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    if (event.key === "Escape") this.cancel();
    else if (event.key === "Enter") this.drop();
    else if (event.key.toLowerCase() === "n") this.chosen.grip = (this.chosen.grip + (event.shiftKey ? GRIPS - 1 : 1)) % GRIPS;
    else if (way) {
      const step = event.altKey ? 0.1 : event.shiftKey ? 10 : 1, { points } = this.held;
      const [x, y] = points[this.grips(points)[this.chosen.grip]];
      this.bend(this.chosen.nth, this.chosen.grip, points, [x + step * way[0], y + step * way[1]]);
    } else return false;
    this.redraw();
    return true;
  }

  paint(context, scale) {
    context.lineJoin = context.lineCap = "round";
    for (const line of this.lines) this.stroke(context, line, 2.4 / scale, "#b3392f", []);
    for (const { nth, points } of this.every()) {
      this.stroke(context, points, 4 / scale, "#fffdf8", []);
      this.stroke(context, points, 2 / scale, "#2b5d7d", [7 / scale, 5 / scale]);
      for (const [grip, at] of this.grips(points).entries()) {
        const { x, y } = this.inCopy(points[at]);
        const now = this.held?.nth === nth && (this.chosen?.grip ?? this.held.grip) === grip;
        context.beginPath();
        context.arc(x, y, POINT / scale, 0, 2 * Math.PI);
        context.fillStyle = now ? "#2b5d7d" : "#fffdf8";
        context.fill();
        context.lineWidth = 2 / scale;
        context.strokeStyle = "#2b5d7d";
        context.stroke();
      }
    }
  }

  stroke(context, points, wide, colour, dash) {
    context.setLineDash(dash);
    context.lineWidth = wide;
    context.strokeStyle = colour;
    context.beginPath();
    for (const one of points) {
      const { x, y } = this.inCopy(one);
      context.lineTo(x, y);
    }
    context.stroke();
    context.setLineDash([]);
  }
}

function written(points) {
  return points.map(([x, y]) => `${x.toFixed(2)},${y.toFixed(2)}`).join(" ");
}
