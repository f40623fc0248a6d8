// Where the sewing of the chosen piece begins and ends: two marks on the cloth, dragged, clicked or nudged into place.

import { blockOf } from "./plan.js";

const REACH = 11; // px round a mark
const RADIUS = 7; // px
const MARKS = [["sewn-start", "start"], ["sewn-end", "end"]];

export class Spots {
  constructor(canvas, redraw) {
    this.canvas = canvas;
    this.redraw = redraw;
    this.plan = null;
    this.held = null; // the mark being placed: { id, x, y }
  }

  // The marks as they stand: set by the person, or where the sewing happens to begin and end.
  marks() {
    const piece = this.canvas.dataset.chosen;
    return MARKS.flatMap(([id, kind]) => {
      const input = document.getElementById(id);
      if (!input) return [];
      if (this.held?.id === id) return [{ ...this.held, kind, set: true }];
      const [x, y] = input.value.split(",").map(Number);
      if (input.value && Number.isFinite(x) && Number.isFinite(y)) return [{ id, kind, ...this.inCopy({ x, y }), set: true }];
      const block = this.plan && blockOf(this.plan, piece);
      if (!block) return [];
      const row = kind === "start" ? block.first : block.first + block.count - 1;
      return [{ id, kind, x: this.plan.xy[2 * row], y: this.plan.xy[2 * row + 1], set: false }];
    });
  }

  // A place of the design where the copy has it that is sewn last, and the other way round.
  inCopy({ x, y }) {
    const [right, down] = this.plan?.copies.at(-1) ?? [0, 0];
    return this.plan?.turned ? { x: right - y, y: down + x } : { x: x + right, y: y + down };
  }

  inDesign({ x, y }) {
    const [right, down] = this.plan?.copies.at(-1) ?? [0, 0];
    return this.plan?.turned ? { x: y - down, y: right - x } : { x: x - right, y: y - down };
  }

  // The marks lie on one another where a piece ends where it begins: the second then stands beside the first.
  places(scale) {
    const marks = this.marks();
    if (marks.length === 2 && Math.hypot(marks[0].x - marks[1].x, marks[0].y - marks[1].y) * scale < 2 * RADIUS) {
      marks[1].shift = (2 * RADIUS + 2) / scale;
    }
    return marks;
  }

  grip(spot, scale) {
    if (!this.open()) return null;
    const near = this.places(scale).find((one) => Math.hypot(spot.x - one.x - (one.shift ?? 0), spot.y - one.y) * scale <= REACH);
    return near ? near.id : null;
  }

  drag(id, spot) {
    this.held = { id, ...spot };
    this.redraw();
  }

  drop() {
    if (!this.held) return;
    const { id } = this.held, { x, y } = this.inDesign(this.held);
    this.held = null;
    this.asked = null;
    const input = document.getElementById(id);
    input.value = `${x.toFixed(1)}, ${y.toFixed(1)}`;
    input.dispatchEvent(new Event("change", { bubbles: true }));
    this.canvas.classList.remove("placing");
    this.redraw();
  }

  // Asked for by its button: the next click on the cloth sets it, or the arrows and Enter.
  begin(id) {
    const [x, y] = document.getElementById(id).value.split(",").map(Number);
    const now = this.marks().find((one) => one.id === id);
    this.asked = id;
    const typed = document.getElementById(id).value && Number.isFinite(x) && Number.isFinite(y);
    this.held = { id, ...(typed ? this.inCopy({ x, y }) : { x: now?.x ?? 0, y: now?.y ?? 0 }) };
    this.canvas.classList.add("placing");
    this.canvas.focus();
    this.redraw();
  }

  cancel() {
    this.asked = this.held = null;
    this.canvas.classList.remove("placing");
    this.redraw();
  }

  // A click while a place is asked for; whether it was taken.
  click(spot) {
    if (!this.asked) return false;
    this.held = { id: this.asked, ...spot };
    this.drop();
    return true;
  }

  key(event) {
    if (!this.asked) return false;
    const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    if (event.key === "Escape") this.cancel();
    else if (event.key === "Enter") this.drop();
    else if (way) {
      const step = event.shiftKey ? 10 : 1;
      this.drag(this.asked, { x: this.held.x + step * way[0], y: this.held.y + step * way[1] });
    } else return false;
    return true;
  }

  open() {
    return Boolean(document.querySelector("details.sewing[open]"));
  }

  paint(context, scale) {
    const marks = this.open() || this.asked ? this.places(scale) : [];
    if (this.held && !marks.some((one) => one.id === this.held.id)) marks.push({ ...this.held, kind: "start", set: true });
    for (const one of marks) {
      const x = one.x + (one.shift ?? 0), radius = RADIUS / scale;
      context.lineWidth = 2 / scale;
      context.strokeStyle = "#2b5d7d";
      context.fillStyle = one.set ? "#2b5d7d" : "#fffdf8";
      context.beginPath();
      if (one.kind === "start") context.arc(x, one.y, radius, 0, 2 * Math.PI);
      else context.rect(x - radius, one.y - radius, 2 * radius, 2 * radius);
      context.fill();
      context.stroke();
      // an arrow head into the work, or a bar at its end
      context.fillStyle = one.set ? "#fffdf8" : "#2b5d7d";
      context.beginPath();
      if (one.kind === "start") {
        context.moveTo(x - 0.4 * radius, one.y - 0.55 * radius);
        context.lineTo(x + 0.6 * radius, one.y);
        context.lineTo(x - 0.4 * radius, one.y + 0.55 * radius);
      } else context.rect(x - 0.22 * radius, one.y - 0.6 * radius, 0.44 * radius, 1.2 * radius);
      context.fill();
    }
  }
}
