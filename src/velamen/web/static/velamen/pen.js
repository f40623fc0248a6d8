// The pen: corners and curve points by click, freehand by drag, closed or as an open line; the server works out the shape.

import { nodesThrough, openPathOf } from "./nodes.js";

const SVG = "http://www.w3.org/2000/svg";
const CALM = "0.8"; // mm of bumps that a freehand stroke loses

export class Pen {
  constructor({ onDrawn, onTurned }) {
    this.onDrawn = onDrawn;
    this.onTurned = onTurned;
    this.on = false;
    this.kind = ""; // "" a shape, "cut" a cut-out, else a line: "line", "direction" or "guide"
    this.points = [];
  }

  get open() {
    return Boolean(this.kind) && this.kind !== "cut";
  }

  turn(on, kind = "") {
    this.on = on;
    this.kind = on ? kind : "";
    this.points = [];
    this.paint();
    this.onTurned();
  }

  // Keys while the pen is in hand; true where one was used.
  key(event) {
    if (event.key === "Escape") {
      if (this.points.length) this.points = [];
      else this.turn(false);
    } else if (event.key === "Backspace") this.points.pop();
    else if (event.key === "Enter") this.close();
    else return false;
    this.paint();
    return true;
  }

  close(freehand = false) {
    if (this.points.length < (this.open ? 2 : 3)) return;
    const outline = this.points.map(({ x, y, curve }) => `${x.toFixed(3)} ${y.toFixed(3)}${curve ? " c" : ""}`).join(",");
    const numbers = { outline };
    if (this.kind === "cut") numbers.cut = "1";
    if (this.open) numbers.line = this.kind;
    if (freehand) Object.assign(numbers, { freehand: "1", calm: CALM });
    this.drawn = { kind: this.kind, points: freehand ? [] : this.points };
    const again = this.kind === "cut"; // a shape with one hole often has another
    this.turn(again, again ? this.kind : "");
    this.onDrawn(numbers);
  }

  // What was drawn last could not be: it is in hand again as it was, to be mended.
  resume() {
    if (!this.drawn?.points.length || this.points.length) return;
    const { kind, points } = this.drawn;
    this.turn(true, kind);
    this.points = points;
    this.paint();
  }

  listen(board) {
    this.board = board;
    let stroke = null;
    board.svg.addEventListener("pointerdown", (event) => {
      if (!this.on || event.button !== 0 || event.altKey) return;
      board.snap.gather(board.paths, [], board.field);
      stroke = { at: board.place(event), points: [] };
      board.svg.setPointerCapture(event.pointerId);
    });
    board.svg.addEventListener("pointermove", (event) => {
      if (!this.on) return;
      const at = board.place(event);
      this.ahead = { x: at.x, y: at.y, curve: event.shiftKey };
      if (stroke && !this.points.length && Math.hypot(at.x - stroke.at.x, at.y - stroke.at.y) > 5 * board.grain) stroke.points.push({ x: at.x, y: at.y });
      this.paint(stroke?.points);
    });
    board.svg.addEventListener("pointerup", (event) => {
      if (!this.on || !stroke) return;
      const { at, points } = stroke;
      stroke = null;
      if (points.length > 8) {
        this.points = points;
        this.close(true);
      } else this.put(board.snap.active(event) ? board.snap.place(at, board.grain) : at, event.shiftKey);
    });
  }

  put(at, curve) {
    const first = this.points[0];
    if (first && !this.open && this.points.length > 2 && Math.hypot(at.x - first.x, at.y - first.y) < 10 * this.board.grain) return this.close();
    this.points.push({ x: at.x, y: at.y, curve });
    this.paint();
  }

  // The line through what is placed, bent as it will be, and the stretch that would close it.
  course(placed, freehand) {
    const open = this.open || freehand || placed.length < 3, nodes = nodesThrough(placed, open);
    return { line: openPathOf(nodes), closing: open ? "" : openPathOf([nodes.at(-1), nodes[0]]) };
  }

  // The points so far with the stretch to the pointer.
  paint(stroke = []) {
    const root = document.getElementById("art");
    root.querySelector("#pen")?.remove();
    const points = stroke.length ? stroke : this.points;
    if (!this.on || !points.length) return;
    const layer = document.createElementNS(SVG, "g"), px = this.board.grain;
    layer.id = "pen";
    const add = (kind, attributes) => {
      const element = document.createElementNS(SVG, kind);
      for (const [name, value] of Object.entries(attributes)) element.setAttribute(name, value);
      layer.append(element);
    };
    const placed = stroke.length || !this.ahead ? points : [...points, this.ahead];
    const { line, closing } = this.course(placed, stroke.length > 0);
    add("path", { d: line, fill: "none", stroke: "#fff", "stroke-width": 3.4 * px });
    add("path", { d: line, fill: "none", stroke: "#b3392f", "stroke-width": 1.6 * px });
    if (closing) add("path", { d: closing, fill: "none", stroke: "#b3392f", "stroke-width": px, "stroke-dasharray": `${4 * px} ${4 * px}` });
    if (!stroke.length) for (const { x, y, curve } of points) {
      if (curve) add("circle", { cx: x, cy: y, r: 5 * px, fill: "#fffdf8", stroke: "#b3392f", "stroke-width": 1.6 * px });
      else add("rect", { x: x - 4 * px, y: y - 4 * px, width: 8 * px, height: 8 * px, fill: "#fffdf8", stroke: "#b3392f", "stroke-width": 1.6 * px });
    }
    layer.setAttribute("pointer-events", "none");
    this.board.svg.append(layer);
  }
}
