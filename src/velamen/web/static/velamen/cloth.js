// The cloth canvas: hoop, base, laid cloth and the stitches sewn so far; zoom, pan and fit.

import { Layers } from "./layers.js";
import { Light } from "./light.js";
import { Resting } from "./resting.js";
import { outline, paintSheet, sheetsOf, stateAt } from "./sheets.js";
import { Surfaces } from "./surfaces.js";
import { keepPaths, paintNeedle, rowsPainted } from "./thread.js";

const MARGIN = 26; // px round the hoop when fitted
const SHEET = 100; // stitches that take as long as a sheet

export class Cloth {
  // handles: things on the cloth that a pointer can take hold of, the uppermost first; placed: told of every
  // click, and whether it was meant for it alone.
  constructor(canvas, { onPick, placed, handles, cut }) {
    this.canvas = canvas;
    this.context = canvas.getContext("2d");
    this.layers = new Layers((context, from, to, view) => this.sewing(context, from, to, view), (painted, row) => this.follows(painted, row));
    this.ground = document.createElement("canvas");
    this.look = "cloth";
    this.row = 0;
    this.version = 0; // of what is painted: another plan, other pieces shown
    this.scale = 0;
    this.centre = { x: 0, y: 0 };
    this.onPick = onPick;
    this.placed = placed;
    this.handles = handles;
    this.cut = cut;
    this.cutLength = 0;
    this.frame = 0;
    this.shown = () => true;
    this.light = new Light(() => this.draw());
    this.surfaces = new Surfaces(() => {
      this.groundView = null;
      this.version += 1;
      this.draw();
    });
    this.resting = new Resting(canvas, (spot, beside) => this.overChosen(spot, beside), () => this.draw());
    new ResizeObserver(() => this.resize()).observe(canvas);
    this.listen();
  }

  // Cloth is laid and trimmed once the needle goes on from its stop; at the stop itself it lies
  // as it does before the hands.
  setPlan(plan, keepView) {
    if (this.plan) keepPaths(this.plan, plan);
    this.plan = plan;
    this.outlines = plan.pieces.map((piece) => outline(piece.rings));
    this.sheets = sheetsOf(plan);
    this.light.setPlan(plan);
    this.version += 1;
    if (!keepView) this.fitted = true;
    this.resize();
  }

  setLook(look) {
    this.look = look;
    this.draw();
  }

  show(row) {
    this.row = row;
    this.draw();
  }

  // Which pieces are looked at: a function of a piece's id.
  showOnly(shown) {
    this.shown = shown;
    this.version += 1;
    this.draw();
  }

  // Ids of the chosen pieces, the leading one first.
  choose(pieces) {
    if (pieces.join() === (this.chosen ?? []).join()) return;
    this.chosen = pieces;
    this.outlined = true;
    this.draw();
  }

  // Whether the outline of what is chosen is drawn: its stitches are seen without it.
  outlineChosen(on) {
    this.outlined = on;
    this.draw();
  }

  overChosen(spot, beside) {
    if (!this.plan || !this.chosen) return false;
    const { x, y } = this.toMm(spot), chosen = this.plan.pieces.flatMap((one, index) => (this.chosen.includes(one.id) ? [this.outlines[index]] : []));
    this.context.setTransform(1, 0, 0, 1, 0, 0);
    this.context.lineWidth = (2 * beside) / this.scale;
    return chosen.some((path) => this.context.isPointInPath(path, x, y, "evenodd") || this.context.isPointInStroke(path, x, y));
  }

  resize() {
    const ratio = window.devicePixelRatio || 1;
    const { width, height } = this.canvas.getBoundingClientRect();
    if (!width || !this.plan) return;
    const [wide, high] = [Math.round(width * ratio), Math.round(height * ratio)];
    if (this.canvas.width !== wide) this.canvas.width = wide;
    if (this.canvas.height !== high) this.canvas.height = high;
    this.layers.resize(wide, high);
    this.ratio = ratio;
    this.size = { width, height };
    if (this.fitted) this.fit();
    else this.draw();
  }

  fit() {
    const { hoop } = this.plan;
    this.fitted = true;
    this.centre = { x: 0, y: 0 };
    this.scale = Math.min((this.size.width - 2 * MARGIN) / (hoop.width + 10), (this.size.height - 2 * MARGIN - 16) / (hoop.height + 10));
    this.draw();
  }

  zoom(factor, at) {
    const next = Math.min(Math.max(this.scale * factor, 0.4), 120);
    const spot = at || { x: this.size.width / 2, y: this.size.height / 2 };
    const before = this.toMm(spot);
    this.scale = next;
    const after = this.toMm(spot);
    this.centre.x += before.x - after.x;
    this.centre.y += before.y - after.y;
    this.fitted = false;
    this.draw();
  }

  toMm(spot) {
    return {
      x: (spot.x - this.size.width / 2) / this.scale + this.centre.x,
      y: (spot.y - this.size.height / 2) / this.scale + this.centre.y,
    };
  }

  place(context) {
    const s = this.scale * this.ratio;
    context.setTransform(s, 0, 0, s, (this.size.width / 2) * this.ratio - this.centre.x * s, (this.size.height / 2) * this.ratio - this.centre.y * s);
  }

  // At once rather than with the next frame, for what somebody waits for.
  drawNow() {
    cancelAnimationFrame(this.frame);
    this.frame = 0;
    if (this.plan && this.size) this.paint(Infinity);
  }

  draw() {
    if (this.frame || !this.plan || !this.size) return;
    this.frame = requestAnimationFrame((now) => {
      this.frame = 0;
      this.layers.learn(now);
      this.paint();
    });
  }

  // portion: stitches to paint now; what does not get done goes on with the next frame.
  paint(portion) {
    const { context, view } = this;
    if (!this.layers.advance(view, this.row, portion)) this.draw();
    context.setTransform(1, 0, 0, 1, 0, 0);
    context.clearRect(0, 0, this.canvas.width, this.canvas.height);
    this.paintGround();
    context.drawImage(this.ground, 0, 0);
    if (this.look !== "cloth") {
      this.place(context);
      this.paintOutlines(context);
      context.setTransform(1, 0, 0, 1, 0, 0);
    }
    this.layers.paint(context, view);
    this.place(context);
    if (this.look === "cloth") this.paintLight(context);
    this.paintChosen(context);
    if (this.cutLength) this.cut.paint(context, this.scale, this.cutLength);
    for (const handle of this.handles) if (handle !== this.cut) handle.paint(context, this.scale);
    this.paintMark(context);
    this.paintScale(context);
  }

  // What the layers are painted in: they are painted anew where any of it changes.
  get view() {
    const look = [this.look, this.version, this.canvas.width, this.canvas.height].join();
    return { look, scale: this.scale * this.ratio, ...this.centre };
  }

  // Sewing on only adds to what is painted, until a trim cuts the cloth that lies under it.
  follows(painted, row) {
    const cut = this.laid().some((sheet) => sheet.states[0].from < painted && stateAt(sheet, painted) !== stateAt(sheet, row));
    return row >= painted && !cut;
  }

  laid() {
    return this.look === "cloth" ? this.sheets.filter((sheet) => this.shown(sheet.piece)) : [];
  }

  // Stitches and laid cloths in sewing order, a little at each step.
  *sewing(context, from, to, view) {
    const scale = view.scale / this.ratio, begun = from;
    const [across, down] = [this.size.width / 2 + 20, this.size.height / 2 + 20].map((half) => half / scale);
    const seen = { left: view.x - across, top: view.y - down, right: view.x + across, bottom: view.y + down };
    const sew = (end) => rowsPainted(context, this.plan, from, end, this.look, scale, seen, this.shown);
    let stop = -1; // at which several may be laid together
    for (const sheet of this.laid()) {
      const laid = sheet.states[0].from;
      if ((laid < from && laid !== stop) || laid >= to) continue;
      if (laid !== stop) yield* sew(laid + 1);
      paintSheet(context, sheet, to, this.ratio, (path, surface) => this.paintSurface(context, path, surface));
      yield SHEET;
      stop = laid;
      from = stop + 1;
    }
    yield* sew(to);
    if (this.look === "needle") paintNeedle(context, this.plan, begun, to, scale, seen, this.shown);
  }

  // What stands up catches the light; where only some pieces are shown, only they do.
  paintLight(context) {
    this.light.show(this.row, this.plan.pieces.map((one) => one.id).filter((id) => !this.shown(id)));
    this.light.paint(context);
  }

  // Hoop and base under everything: drawn once for a view, since their texture costs as much as the stitches.
  paintGround() {
    const { hoop, base } = this.plan;
    const view = [this.scale, this.centre.x, this.centre.y, this.look, base.colour, base.surface, this.rinsed, hoop.name, this.canvas.width, this.canvas.height].join();
    if (view === this.groundView) return;
    this.groundView = view;
    this.ground.width = this.canvas.width;
    this.ground.height = this.canvas.height;
    const context = this.ground.getContext("2d");
    this.place(context);
    this.paintHoop(context);
  }

  // Lace that is sewn lies on a table, its stabilizer gone.
  get rinsed() {
    return this.look === "cloth" && this.plan.table !== null && this.row >= this.plan.rows;
  }

  paintHoop(context) {
    const { hoop, base } = this.plan;
    if (this.rinsed) {
      context.setTransform(1, 0, 0, 1, 0, 0);
      context.fillStyle = this.plan.table;
      context.fillRect(0, 0, this.canvas.width, this.canvas.height);
      return;
    }
    const path = fieldPath(hoop);
    context.lineJoin = "round";
    context.strokeStyle = "#8d9499";
    context.lineWidth = 18;
    context.stroke(path);
    context.strokeStyle = context.fillStyle = this.look === "cloth" ? base.colour : "#fffdf8";
    context.lineWidth = 10;
    context.stroke(path);
    context.fill(path);
    if (this.look === "cloth") this.paintSurface(context, path, base.surface);
    context.strokeStyle = "#5c646880";
    context.lineWidth = 1 / this.scale;
    context.setLineDash([6 / this.scale, 4 / this.scale]);
    context.stroke(path);
    context.setLineDash([]);
  }

  // The fine relief of a surface over what was just filled.
  paintSurface(context, path, surface) {
    const pattern = this.surfaces.pattern(context, surface, this.scale * this.ratio);
    if (!pattern) return;
    context.fillStyle = pattern;
    context.fill(path, "evenodd");
  }

  paintOutlines(context) {
    context.strokeStyle = "#23303a55";
    context.lineWidth = 1 / this.scale;
    for (const path of this.outlines) context.stroke(path);
  }

  paintChosen(context) {
    if (!this.outlined) return;
    context.globalAlpha = this.resting.strength;
    (this.chosen ?? []).forEach((piece, nth) => {
      const index = this.plan.pieces.findIndex((one) => one.id === piece);
      if (index < 0) return;
      context.strokeStyle = "#fff";
      context.lineWidth = 3 / this.scale;
      context.stroke(this.outlines[index]);
      context.strokeStyle = "#2b5d7d";
      context.lineWidth = (nth ? 1 : 1.4) / this.scale;
      context.setLineDash([5 / this.scale, 3 / this.scale]);
      context.stroke(this.outlines[index]);
      context.setLineDash([]);
    });
    context.globalAlpha = 1;
  }

  paintMark(context) {
    if (this.row <= 0 || this.row >= this.plan.rows) return;
    const x = this.plan.xy[2 * this.row - 2], y = this.plan.xy[2 * this.row - 1];
    context.beginPath();
    context.arc(x, y, 5 / this.scale, 0, 2 * Math.PI);
    context.fillStyle = "#fff";
    context.fill();
    context.lineWidth = 2 / this.scale;
    context.strokeStyle = "#b3392f";
    context.stroke();
  }

  paintScale(context) {
    const wanted = 90 / this.scale;
    const step = [0.5, 1, 2, 5, 10, 20, 50, 100].filter((mm) => mm <= wanted).pop() || 0.5;
    context.setTransform(this.ratio, 0, 0, this.ratio, 0, 0);
    const right = this.size.width - 16, down = this.size.height - 14, length = step * this.scale;
    context.fillStyle = "#faf5ecd9";
    context.fillRect(right - length - 8, down - 22, length + 16, 30);
    context.strokeStyle = context.fillStyle = "#23303a";
    context.lineWidth = 1.5;
    context.beginPath();
    context.moveTo(right - length, down - 4);
    context.lineTo(right - length, down);
    context.lineTo(right, down);
    context.lineTo(right, down - 4);
    context.stroke();
    context.font = '12px "Source Sans 3", sans-serif';
    context.textAlign = "right";
    context.fillText(`${step} mm`, right, down - 8);
  }

  listen() {
    let drag = null;
    const spotOf = (event) => {
      const box = this.canvas.getBoundingClientRect();
      return { x: event.clientX - box.left, y: event.clientY - box.top };
    };
    this.canvas.addEventListener("pointerdown", (event) => {
      const spot = spotOf(event);
      drag = { ...spot, moved: false, ...this.gripAt(spot) };
      this.canvas.setPointerCapture(event.pointerId);
    });
    this.canvas.addEventListener("pointermove", (event) => {
      if (!drag) return;
      const spot = spotOf(event);
      if (drag.grip) {
        drag.moved = true;
        return drag.handle.drag(drag.grip, this.toMm(spot));
      }
      if (!drag.moved && Math.hypot(spot.x - drag.x, spot.y - drag.y) < 4) return;
      this.centre.x -= (spot.x - drag.x) / this.scale;
      this.centre.y -= (spot.y - drag.y) / this.scale;
      drag = { ...spot, moved: true };
      this.fitted = false;
      this.draw();
    });
    this.canvas.addEventListener("pointerup", (event) => {
      if (drag?.grip && drag.moved) drag.handle.drop?.();
      else if (drag && !drag.moved && !(this.plan && this.placed(this.toMm(spotOf(event))))) this.pick(spotOf(event), event);
      drag = null;
    });
    this.canvas.addEventListener("wheel", (event) => {
      event.preventDefault();
      this.zoom(Math.exp(-event.deltaY * 0.0015), spotOf(event));
    }, { passive: false });
  }

  gripAt(spot) {
    if (!this.plan) return null;
    for (const handle of this.handles) {
      const grip = handle.grip(this.toMm(spot), this.scale);
      if (grip) return { handle, grip };
    }
    return null;
  }

  pick(spot, event) {
    if (!this.plan) return;
    const { x, y } = this.toMm(spot);
    this.context.setTransform(1, 0, 0, 1, 0, 0);
    for (let index = this.outlines.length - 1; index >= 0; index--) {
      if (this.context.isPointInPath(this.outlines[index], x, y, "evenodd")) {
        this.outlineChosen(true);
        return this.onPick(this.plan.pieces[index].id, event);
      }
    }
  }
}

// The sewing field's true outline; the hoop lies round it.
function fieldPath(hoop) {
  return outline([hoop.field]);
}
