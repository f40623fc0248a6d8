// The drawing board: an SVG of the shapes; choosing, box choosing, dragging, sizing, turning, zoom and pan.

import { drawBox, drawFrame, drawGrips, drawMeasure, drawOutline, drawPoints } from "./marks.js";
import { dragged as nodesDragged, drawNodes, nodesOf, pathOf } from "./nodes.js";
import { drawRulers, measured } from "./rulers.js";
import { Snap } from "./snap.js";

const SVG = "http://www.w3.org/2000/svg";

const middleOf = (box) => ({ x: box.x + box.width / 2, y: box.y + box.height / 2 });

export class Board {
  // pen, stamp: what may be in hand instead of the pointer.
  constructor({ onChoose, onEdit, onPoints, pen, stamp }) {
    this.pen = pen;
    this.stamp = stamp;
    this.onChoose = onChoose;
    this.onEdit = onEdit;
    this.onPoints = onPoints;
    this.chosen = [];
    this.editing = false; // whether the points of the one chosen shape are shown
    this.points = []; // chosen points, as ring and place: "0.17"
    this.measuring = false;
    this.snap = new Snap();
    this.view = null;
  }

  // Takes the board of a freshly rendered page; the view stays where it was.
  attach(root) {
    this.root = root;
    this.moving = null;
    this.svg = root.querySelector("#board");
    this.marks = root.querySelector("#chosen");
    this.paths = [...root.querySelectorAll("#shapes path")];
    const before = this.chosen.join();
    this.chosen = [...root.querySelectorAll('[role=option][aria-selected="true"]')].map((item) => item.dataset.id);
    if (this.chosen.join() !== before || this.chosen.length !== 1) this.editing = false;
    if (!this.editing) this.points = [];
    if (!this.view) this.fit();
    else this.show();
    this.listen();
    this.mark();
    this.pen.paint();
    this.sized?.disconnect();
    this.sized = new ResizeObserver(() => this.show());
    this.sized.observe(this.svg);
  }

  fit() {
    const [x, y, width, height] = this.svg.dataset.fitted.split(" ").map(Number);
    this.view = { x, y, width, height };
    this.show();
    this.mark();
  }

  show() {
    const { x, y, width, height } = this.view;
    this.svg.setAttribute("viewBox", `${x} ${y} ${width} ${height}`);
    const box = this.svg.getBoundingClientRect();
    if (box.width) drawRulers(this.root, this.place({ clientX: box.left, clientY: box.top }), this.grain, this.inch);
  }

  // Whether the pointer draws or places something rather than choosing.
  get inHand() {
    return this.pen.on || this.stamp.on;
  }

  get inch() {
    return this.root.dataset.unit === "in";
  }

  get field() {
    return this.svg.dataset.field.split(" ").map(Number);
  }

  // mm a pixel.
  get grain() {
    const matrix = this.svg.getScreenCTM();
    return matrix ? 1 / matrix.a : 1;
  }

  place(event) {
    return new DOMPoint(event.clientX, event.clientY).matrixTransform(this.svg.getScreenCTM().inverse());
  }

  nameOf(id) {
    return this.path(id)?.dataset.name ?? "";
  }

  path(id) {
    return this.paths.find((path) => path.dataset.id === id);
  }

  boxOf(ids) {
    const boxes = ids.map((id) => this.path(id).dataset.box.split(" ").map(Number));
    return {
      left: Math.min(...boxes.map((box) => box[0])), top: Math.min(...boxes.map((box) => box[1])),
      right: Math.max(...boxes.map((box) => box[2])), bottom: Math.max(...boxes.map((box) => box[3])),
    };
  }

  choose(ids) {
    if (ids.join() !== this.chosen.join()) this.points = [];
    this.chosen = ids;
    if (ids.length !== 1) this.editing = false;
    this.mark();
    this.onChoose(ids);
  }

  chooseAll() {
    this.choose(this.paths.filter((path) => !path.dataset.hidden).map((path) => path.dataset.id));
  }

  // A shape with its group, or alone.
  pick(id, more, alone = false) {
    const group = alone ? "" : this.path(id).dataset.group;
    const ids = group ? this.paths.filter((path) => path.dataset.group === group).map((path) => path.dataset.id) : [id];
    if (!more) this.choose(ids);
    else if (this.chosen.includes(id)) this.choose(this.chosen.filter((one) => !ids.includes(one)));
    else this.choose([...this.chosen, ...ids]);
  }

  // The maker of one letter chosen alone, out of a live text.
  get letter() {
    const maker = this.chosen.length === 1 ? this.path(this.chosen[0]).dataset.maker : "";
    return maker && this.paths.filter((path) => path.dataset.maker === maker).length > 1 ? maker : "";
  }

  // Under the pen, and while points are moved, what lies below the shapes is seen: a picture, other shapes.
  seeThrough() {
    document.querySelector("main").classList.toggle("see-through", this.inHand || this.editing);
  }

  // Frame and handles round what is chosen.
  mark() {
    this.putDown();
    this.seeThrough();
    this.marks.replaceChildren();
    if (!this.chosen.length) return this.onPoints([]);
    const px = this.grain;
    if (this.editing) return this.path(this.chosen[0]).dataset.nodes ? this.markNodes(px) : this.markPoints(px);
    const d = this.chosen.map((id) => this.path(id).getAttribute("d")).join("");
    const box = this.boxOf(this.chosen), paths = this.chosen.map((id) => this.path(id));
    const locked = paths.some((path) => path.dataset.locked);
    drawFrame(this, d, locked ? null : box, px);
    if (!locked) drawGrips(this, box, !paths.some((path) => path.dataset.die), px);
  }

  editPoints(on) {
    this.editing = on && this.chosen.length === 1;
    this.points = [];
    this.mark();
  }

  // Rings of the chosen shape, out of its path.
  rings() {
    const data = this.path(this.chosen[0]).getAttribute("d");
    return data.split("M").filter(Boolean).map((ring) => ring.replace("Z", "").split("L").map((point) => point.split(",").map(Number)));
  }

  markNodes(px) {
    const every = drawNodes(this, nodesOf(this.path(this.chosen[0])), px);
    this.onPoints(this.points, every, every);
  }

  // The outline with its points; where they would crowd only every so many are shown.
  markPoints(px) {
    drawOutline(this, this.path(this.chosen[0]).getAttribute("d"), px);
    const frame = this.svg.getBoundingClientRect();
    const low = this.place({ clientX: frame.left, clientY: frame.top });
    const high = this.place({ clientX: frame.right, clientY: frame.bottom });
    const { shown, every } = drawPoints(this, this.rings(), { low, high }, px);
    this.onPoints(this.points, shown, every);
  }

  pickPoint(name, more) {
    if (!more) this.points = this.points.includes(name) ? this.points : [name];
    else if (this.points.includes(name)) this.points = this.points.filter((one) => one !== name);
    else this.points = [...this.points, name];
    this.mark();
  }

  draw(kind, attributes) {
    const element = document.createElementNS(SVG, kind);
    for (const [name, value] of Object.entries(attributes)) element.setAttribute(name, value);
    this.marks.append(element);
    return element;
  }

  // Shows what is chosen elsewhere until the edit is made: a layer of its own that is only moved, so that
  // hundreds of shapes are not drawn anew for every frame. by: { dx, dy } in mm, or { factor or degrees, x, y }.
  preview(by) {
    const layer = this.moving ?? this.lift(), px = this.grain;
    if (by.dx !== undefined) layer.style.transform = `translate(${by.dx / px}px, ${by.dy / px}px)`;
    else {
      const frame = this.svg.getBoundingClientRect(), zero = new DOMPoint(by.x, by.y).matrixTransform(this.svg.getScreenCTM());
      layer.style.transformOrigin = `${zero.x - frame.left}px ${zero.y - frame.top}px`;
      layer.style.transform = by.degrees === undefined ? `scale(${by.factor})` : `rotate(${by.degrees}deg)`;
    }
  }

  lift() {
    const layer = (this.moving = document.createElementNS(SVG, "svg"));
    layer.id = "moving";
    layer.setAttribute("viewBox", this.svg.getAttribute("viewBox"));
    layer.setAttribute("aria-hidden", "true");
    for (const path of [...this.chosen.map((id) => this.path(id)), ...this.marks.children]) {
      layer.append(path.cloneNode());
      path.classList.add("lifted");
    }
    this.svg.after(layer);
    return layer;
  }

  // What was lifted lies where it was again.
  putDown() {
    this.moving?.remove();
    this.moving = null;
    for (const path of this.svg.querySelectorAll(".lifted")) path.classList.remove("lifted");
  }

  shift(x, y) {
    this.preview({ dx: x, dy: y });
  }

  listen() {
    let drag = null;
    this.pen.listen(this);
    this.stamp.listen(this);
    this.svg.addEventListener("pointerdown", (event) => {
      const at = this.place(event), grip = event.target.dataset.grip, id = event.target.dataset.id;
      const more = event.shiftKey || event.ctrlKey || event.metaKey;
      if (this.inHand && event.button === 0 && !event.altKey) return;
      this.snap.gather(this.paths, this.chosen, this.field);
      if (this.measuring && event.button === 0 && !event.altKey) drag = { kind: "measure", at: this.snap.active(event) ? this.snap.place(at, this.grain) : at };
      else
      if (event.button === 1 || event.altKey) drag = { kind: "pan", x: event.clientX, y: event.clientY, view: { ...this.view } };
      else if (grip === "handle") drag = { kind: "handle", at, point: event.target.dataset.point, side: event.target.dataset.side };
      else if (grip === "point") {
        drag = { kind: "points", at: middleOf(event.target.getBBox()) };
        this.pickPoint(event.target.dataset.point, more);
      } else if (event.target.dataset.outline) drag = { kind: "add", at };
      else if (grip) drag = { kind: grip, at };
      else if (id && !(this.editing && id === this.chosen[0])) {
        if (more || !this.chosen.includes(id)) this.pick(id, more);
        drag = { kind: this.letter ? "kern" : "move", at };
        this.snap.gather(this.paths, this.chosen, this.field);
      } else drag = { kind: "box", at, more };
      this.svg.setPointerCapture(event.pointerId);
    });
    this.svg.addEventListener("pointermove", (event) => drag && this.dragged(drag, event));
    this.svg.addEventListener("pointerup", (event) => {
      if (drag) this.dropped(drag, event);
      drag = null;
    });
    this.svg.addEventListener("dblclick", (event) => {
      const id = document.elementsFromPoint(event.clientX, event.clientY).find((one) => one.dataset.id)?.dataset.id;
      if (id && !this.inHand && !this.editing) this.pick(id, false, true);
    });
    this.svg.addEventListener("wheel", (event) => {
      event.preventDefault();
      const at = this.place(event), factor = Math.exp(event.deltaY * 0.0015);
      const width = Math.min(Math.max(this.view.width * factor, 4), 2500), real = width / this.view.width;
      this.view = { x: at.x - (at.x - this.view.x) * real, y: at.y - (at.y - this.view.y) * real, width, height: this.view.height * real };
      this.show();
      this.mark();
    }, { passive: false });
  }

  dragged(drag, event) {
    const at = this.place(event);
    drag.moved ||= drag.kind === "pan" || Math.hypot(at.x - drag.at.x, at.y - drag.at.y) > 3 * this.grain;
    if (!drag.moved) return;
    if (drag.kind === "pan") {
      const px = this.grain;
      this.view = { ...drag.view, x: drag.view.x - (event.clientX - drag.x) * px, y: drag.view.y - (event.clientY - drag.y) * px };
      this.show();
    } else if (drag.kind === "box") this.boxChoosing(drag, at);
    else if (drag.kind === "measure") this.measure(drag, at, event);
    else if (drag.kind === "points" || drag.kind === "handle") this.pointsDragged(drag, this.pointTo(drag, at, event));
    else if (drag.kind !== "add") {
      const { by, lines } = this.changed(drag, at, event);
      this.preview(by);
      this.showLines(lines);
    }
  }

  measure(drag, at, event) {
    const to = this.snap.active(event) ? this.snap.place(at, this.grain) : at, px = this.grain;
    this.mark();
    drawMeasure(this, drag.at, to, px);
    this.root.querySelector("#board-at").textContent = measured(drag.at, to, this.inch);
  }

  // Where a dragged point goes: onto another point where one is near.
  pointTo(drag, at, event) {
    if (!this.snap.active(event) || drag.kind === "handle") return at;
    return this.snap.place(at, this.grain);
  }

  // Lines on which what is dragged now lies with something else.
  showLines(lines = {}) {
    const at = `${lines.x} ${lines.y}`, before = this.root.querySelector("#snapped");
    if (before?.dataset.at === at) return;
    before?.remove();
    if (lines.x == null && lines.y == null) return;
    const layer = document.createElementNS(SVG, "svg"), px = this.grain;
    layer.id = "snapped";
    layer.dataset.at = at;
    layer.setAttribute("viewBox", this.svg.getAttribute("viewBox"));
    for (const [axis, at] of Object.entries(lines)) {
      if (at == null) continue;
      const line = document.createElementNS(SVG, "line"), ends = axis === "x" ? [at, -2000, at, 2000] : [-2000, at, 2000, at];
      for (const [nth, name] of ["x1", "y1", "x2", "y2"].entries()) line.setAttribute(name, ends[nth]);
      line.setAttribute("class", "measure");
      line.setAttribute("stroke-width", px);
      layer.append(line);
    }
    this.svg.after(layer);
  }

  boxChoosing(drag, at) {
    this.mark();
    drawBox(this, at, drag.at, this.grain);
  }

  // What a drag of the shapes, a corner or the turning handle comes to: the edit and how it looks meanwhile.
  changed(drag, at, event) {
    if (drag.kind === "kern") {
      const dx = at.x - drag.at.x;
      return { what: "kern", numbers: { dx: `${dx.toFixed(3)} mm` }, by: { dx, dy: 0 } };
    }
    if (drag.kind === "move") {
      let dx = at.x - drag.at.x, dy = at.y - drag.at.y, lines = {};
      if (this.snap.active(event)) ({ dx, dy, lines } = this.snap.box(this.boxOf(this.chosen), dx, dy, this.grain));
      return { lines, what: "move", numbers: { dx: `${dx.toFixed(3)} mm`, dy: `${dy.toFixed(3)} mm` }, by: { dx, dy } };
    }
    const box = this.boxOf(this.chosen), x = (box.left + box.right) / 2, y = (box.top + box.bottom) / 2;
    if (drag.kind === "size") {
      const factor = Math.max(Math.hypot(at.x - x, at.y - y) / Math.hypot(drag.at.x - x, drag.at.y - y), 0.02);
      return { what: "size", numbers: { width: `${((box.right - box.left) * factor).toFixed(3)} mm` }, by: { factor, x, y } };
    }
    const turned = ((Math.atan2(at.y - y, at.x - x) - Math.atan2(drag.at.y - y, drag.at.x - x)) * 180) / Math.PI;
    return { what: "turn", numbers: { degrees: turned.toFixed(2) }, by: { degrees: turned, x, y } };
  }

  // Chosen points under the pointer; the outline itself follows once the edit is made.
  pointsDragged(drag, at) {
    const path = this.path(this.chosen[0]);
    if (path.dataset.nodes) {
      const chosen = drag.kind === "handle" ? [drag.point] : this.points;
      const rings = nodesDragged(nodesOf(path), chosen, drag.side, at.x - drag.at.x, at.y - drag.at.y);
      this.marks.replaceChildren();
      drawNodes(this, rings, this.grain);
      path.setAttribute("d", pathOf(rings));
      return;
    }
    this.mark();
    for (const mark of this.marks.querySelectorAll("[data-point]")) {
      if (!this.points.includes(mark.dataset.point)) continue;
      mark.setAttribute("cx", Number(mark.getAttribute("cx")) + at.x - drag.at.x);
      mark.setAttribute("cy", Number(mark.getAttribute("cy")) + at.y - drag.at.y);
    }
  }

  dropped(drag, event) {
    const at = ["points", "handle"].includes(drag.kind) ? this.pointTo(drag, this.place(event), event) : this.place(event);
    this.showLines();
    if (drag.kind === "handle") {
      this.points = [drag.point];
      if (drag.moved) this.onEdit("move-handle", { points: drag.point, side: drag.side, dx: `${(at.x - drag.at.x).toFixed(3)} mm`, dy: `${(at.y - drag.at.y).toFixed(3)} mm` });
    } else if (drag.kind === "measure") return;
    else if (drag.kind === "points") {
      if (drag.moved) this.onEdit("move-points", { dx: `${(at.x - drag.at.x).toFixed(3)} mm`, dy: `${(at.y - drag.at.y).toFixed(3)} mm` });
    } else if (drag.kind === "add") {
      this.points = [];
      this.onEdit("add-point", { x: `${drag.at.x.toFixed(3)} mm`, y: `${drag.at.y.toFixed(3)} mm` });
    } else if (drag.kind === "box" && this.editing) this.boxPoints(drag, at);
    else if (drag.kind === "box") {
      const inside = drag.moved ? this.within(drag.at, at) : [];
      this.choose(drag.more ? [...new Set([...this.chosen, ...inside])] : inside);
    } else if (drag.moved && drag.kind !== "pan") {
      const { what, numbers } = this.changed(drag, at, event);
      this.onEdit(what, numbers);
    }
  }

  boxPoints(drag, at) {
    const [left, right] = [Math.min(drag.at.x, at.x), Math.max(drag.at.x, at.x)], [top, bottom] = [Math.min(drag.at.y, at.y), Math.max(drag.at.y, at.y)];
    const rings = this.path(this.chosen[0]).dataset.nodes ? nodesOf(this.path(this.chosen[0])) : this.rings();
    const inside = drag.moved ? rings.flatMap((points, ring) => points.map(([x, y], nth) => ({ x, y, name: `${ring}.${nth}` }))) : [];
    const names = inside.filter(({ x, y }) => x >= left && x <= right && y >= top && y <= bottom).map(({ name }) => name);
    this.points = drag.more ? [...new Set([...this.points, ...names])] : names;
    this.mark();
  }

  within(one, other) {
    const [left, right] = [Math.min(one.x, other.x), Math.max(one.x, other.x)], [top, bottom] = [Math.min(one.y, other.y), Math.max(one.y, other.y)];
    const groups = new Set(), found = this.paths.filter((path) => {
      if (path.dataset.hidden) return false;
      const box = path.dataset.box.split(" ").map(Number);
      return box[0] >= left && box[1] >= top && box[2] <= right && box[3] <= bottom;
    });
    for (const path of found) if (path.dataset.group) groups.add(path.dataset.group);
    return this.paths.filter((path) => found.includes(path) || groups.has(path.dataset.group)).map((path) => path.dataset.id);
  }
}
