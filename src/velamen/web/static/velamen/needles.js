// Needle points of the chosen piece: chosen by box, lasso, thread or range while their panel is open, and edited.

import { JUMP, STITCH, readPlan } from "./plan.js";

const REACH = 9; // px round a point
const SAME = 0.004; // mm within which a row of the plan is a point
const LATER = 500; // ms after the last arrow key before a move is sent
const ORIGIN = { x: 0, y: 0 };
const MOST_LINES = 20000; // of what is dragged that are drawn

export class Needles {
  // spots: knows where a design lies in the hoop; at: the row at the needle; look: shows the needle look.
  constructor(canvas, redraw, spots, { at, look }) {
    Object.assign(this, { redraw, spots, at, look, canvas });
    this.tool = "box";
    this.points = null; // { xy, owner, pass, chosen, url }: owner is the thread of each
    this.held = null; // what is dragged: { kind, from, to, path }
    canvas.addEventListener("pointerdown", (event) => (this.adding = event.shiftKey || event.ctrlKey || event.metaKey), true);
    const panel = document.getElementById("values");
    panel.addEventListener("click", (event) => this.pressed(event));
    panel.addEventListener("toggle", (event) => event.target.matches?.("details.needles") && this.settle(), true);
    document.body.addEventListener("htmx:afterSettle", () => this.settle());
    document.body.addEventListener("htmx:beforeSwap", ({ detail }) => {
      const told = /id="needles-next" value="([-\d ]*)"/.exec(detail.xhr.responseText);
      if (told) this.next = told[1].split(" ").filter(Boolean).map((each) => each.split("-").map(Number));
      else if (detail.xhr.status === 422) this.held = this.more = null; // refused: all lies as it did
    });
  }

  get panel() {
    return document.querySelector("details.needles[open]");
  }

  // The points as the server has them, once the panel is open or an edit is answered.
  async settle(fresh = false) {
    const panel = this.panel, form = document.getElementById("needle-edit");
    if (!panel || !form) return this.close();
    if (!fresh && this.points?.url === panel.dataset.points) return this.tell();
    const url = panel.dataset.points, mine = (this.asked = Symbol("asked"));
    if (this.points?.url !== url) this.look();
    const answer = await fetch(url, { cache: "no-cache" });
    if (mine !== this.asked || !answer.ok) return;
    const { xy, counts, passes, rows } = readPlan(await answer.arrayBuffer());
    const owner = numbered(counts, rows), pass = numbered(passes, rows);
    const chosen = new Uint8Array(rows);
    for (const [low, high] of this.next ?? []) chosen.fill(1, low, high + 1);
    this.next = this.held = null;
    this.points = { xy, owner, pass, chosen, url };
    if (this.more) this.sendLater(this.more);
    this.more = null;
    this.tell();
  }

  close() {
    if (!this.points) return;
    this.points = this.held = null;
    this.redraw();
  }

  get count() {
    return this.points ? this.points.chosen.reduce((sum, one) => sum + one, 0) : 0;
  }

  tell() {
    const told = document.getElementById("needles-chosen"), form = document.getElementById("needle-edit");
    if (!told || !form) return;
    const count = this.count;
    told.textContent = count ? `${count.toLocaleString("en").replaceAll(",", "\u00a0")} chosen` : "None chosen";
    for (const button of form.querySelectorAll("[data-do]")) button.disabled = !count;
    for (const button of this.panel.querySelectorAll("[data-tool]")) button.setAttribute("aria-pressed", String(button.dataset.tool === this.tool));
    this.redraw();
  }

  pressed({ target }) {
    const button = target.closest("button");
    if (!button || !this.points) return;
    if (button.dataset.tool) this.take(button.dataset.tool);
    else if (button.dataset.take) this.choose(button.dataset.take);
    else if (button.dataset.do && button.form?.id === "needle-edit") this.send(button.dataset.do);
    else if (button.closest(".needle-keep")) button.form.elements.points.value = this.ranges();
  }

  take(tool) {
    this.tool = this.tool === tool ? "" : tool;
    this.tell();
  }

  choose(how) {
    const { chosen, owner, pass } = this.points;
    if (how === "all") chosen.fill(1);
    if (how === "thread" || how === "pass") {
      const of = how === "pass" ? pass : owner, wanted = new Set(of.filter((_, nth) => chosen[nth]));
      of.forEach((one, nth) => (chosen[nth] = wanted.has(one) ? 1 : 0));
    }
    if (how === "from") this.from = this.pointAtNeedle();
    if (how === "from" || how === "upto") {
      const low = this.from ?? 0, high = how === "from" ? low : this.pointAtNeedle();
      chosen.fill(0);
      chosen.fill(1, Math.min(low, high), Math.max(low, high) + 1);
    }
    this.tell();
  }

  // The point that the row at the needle sews, or the one sewn last before it.
  pointAtNeedle() {
    const { plan } = this.spots, { xy } = this.points, piece = this.canvas.dataset.chosen, row = this.at();
    let nth = 0;
    for (const block of plan.blocks) {
      if (block.piece !== piece) continue;
      for (let at = block.first; at < block.first + block.count && nth < xy.length / 2; at++) {
        if (plan.command[at] !== STITCH && plan.command[at] !== JUMP) continue;
        if (at >= row) return Math.max(nth - 1, 0);
        const same = (one) => {
          const { x, y } = this.spots.inCopy({ x: xy[2 * one], y: xy[2 * one + 1] });
          return Math.abs(x - plan.xy[2 * at]) + Math.abs(y - plan.xy[2 * at + 1]) < SAME;
        };
        if (same(nth)) nth += 1;
        else if (nth + 1 < xy.length / 2 && same(nth + 1)) nth += 2; // a thread begins where the one before ended
      }
    }
    return Math.max(nth - 1, 0);
  }

  // Stretches of chosen points, "3-40 52".
  ranges() {
    const { chosen } = this.points, found = [];
    for (let nth = 0; nth < chosen.length; nth++) {
      if (!chosen[nth]) continue;
      const first = nth;
      while (nth + 1 < chosen.length && chosen[nth + 1]) nth += 1;
      found.push(first === nth ? `${first}` : `${first}-${nth}`);
    }
    return found.join(" ");
  }

  // shift: in mm, as a drag or an arrow key moves; the fields of the form otherwise.
  send(what, shift) {
    const form = document.getElementById("needle-edit");
    if (!form || !this.count) return;
    const fields = form.elements;
    fields.points.value = this.ranges();
    fields.do.value = what;
    for (const key of ["dx", "dy"]) fields[key].value = shift ? `${shift[key].toFixed(3)} mm` : form.querySelector(`[data-by="${key}"]`).value;
    htmx.trigger(form, "needles");
  }

  // On the cloth.

  near(place, scale) {
    const { xy } = this.points;
    let best = REACH / scale, found = -1;
    for (let nth = 0; nth < xy.length / 2; nth++) {
      const far = Math.hypot(xy[2 * nth] - place.x, xy[2 * nth + 1] - place.y);
      if (far < best) [best, found] = [far, nth];
    }
    return found;
  }

  grip(spot, scale) {
    if (!this.points || !this.panel) return null;
    this.scale = scale;
    const place = this.spots.inDesign(spot), nth = this.near(place, scale);
    if (nth >= 0 && this.points.chosen[nth]) return { kind: "move", from: place };
    return this.tool ? { kind: this.tool, from: place } : null;
  }

  drag(grip, spot) {
    const place = this.spots.inDesign(spot);
    this.held ??= { ...grip, path: [grip.from] };
    this.held.to = place;
    if (grip.kind === "lasso") this.held.path.push(place);
    this.redraw();
  }

  drop() {
    const { held } = this;
    if (!held) return;
    if (held.kind === "move") {
      if (!held.sent) this.send("move", { dx: held.to.x - held.from.x, dy: held.to.y - held.from.y });
      held.sent = true; // drawn so until it is answered
      return;
    }
    const { xy, chosen } = this.points, inside = held.kind === "box" ? boxed(held.from, held.to) : lassoed(held.path);
    for (let nth = 0; nth < chosen.length; nth++) {
      const hit = inside(xy[2 * nth], xy[2 * nth + 1]);
      if (hit) chosen[nth] = 1;
      else if (!this.adding) chosen[nth] = 0;
    }
    this.held = null;
    this.tell();
  }

  // A click chooses one point, with Shift one more or less; whether it was for the points.
  click(spot) {
    if (!this.points || !this.panel) return false;
    const nth = this.near(this.spots.inDesign(spot), this.scale ?? 1), { chosen } = this.points;
    if (!this.adding) chosen.fill(0);
    if (nth >= 0) chosen[nth] = this.adding && chosen[nth] ? 0 : 1;
    this.tell();
    return true;
  }

  key(event) {
    if (!this.points || !this.panel || event.altKey || event.target.closest?.("input, select, textarea, .needles button")) return false;
    const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    if (way && this.count) return this.nudge(way, event.shiftKey ? 1 : 0.1);
    if (event.key === "Delete" || event.key === "Backspace") this.send("delete");
    else if (event.key === "Escape" && this.count) this.points.chosen.fill(0);
    else if (event.key === "b") this.take("box");
    else if (event.key === "g") this.take("lasso");
    else if (event.key === "a") this.points.chosen.fill(1);
    else return false;
    this.tell();
    return true;
  }

  // What comes while a move is on its way is added to it once that is answered.
  nudge([right, down], step) {
    const sent = this.held?.sent, so = sent ? (this.more ?? ORIGIN) : (this.held?.to ?? ORIGIN);
    const to = { x: so.x + step * right, y: so.y + step * down };
    if (sent) this.more = to;
    else this.sendLater(to);
    this.redraw();
    return true;
  }

  sendLater(to) {
    this.held = { kind: "move", from: ORIGIN, to, path: [] };
    clearTimeout(this.timer);
    this.timer = setTimeout(() => this.held && this.drop(), LATER);
  }

  paint(context, scale) {
    if (!this.points || !this.panel) return;
    context.save();
    const [x0, y0] = [this.spots.inCopy({ x: 0, y: 0 })].map(({ x, y }) => [x, y])[0];
    if (this.spots.plan?.turned) context.transform(0, 1, -1, 0, x0, y0);
    else context.translate(x0, y0);
    const { held } = this, moving = held?.kind === "move";
    if (moving) this.paintMoved(context, scale, held.to.x - held.from.x, held.to.y - held.from.y);
    else this.paintChosen(context, scale, 0, 0);
    if (held && !moving) this.paintTool(context, scale, held);
    context.restore();
  }

  paintChosen(context, scale, dx, dy) {
    const { xy, chosen } = this.points, size = Math.max(5 / scale, 0.14), half = size / 2;
    context.fillStyle = "#b3392f";
    for (let nth = 0; nth < chosen.length; nth++) {
      if (chosen[nth]) context.fillRect(xy[2 * nth] + dx - half, xy[2 * nth + 1] + dy - half, size, size);
    }
  }

  // The stitches at chosen points as they would lie.
  paintMoved(context, scale, dx, dy) {
    const { xy, chosen, owner } = this.points;
    context.strokeStyle = "#b3392f";
    context.lineWidth = 1 / scale;
    context.beginPath();
    let drawn = 0;
    for (let nth = 1; nth < chosen.length && drawn < MOST_LINES; nth++) {
      if (owner[nth] !== owner[nth - 1] || !(chosen[nth] || chosen[nth - 1])) continue;
      context.moveTo(xy[2 * nth - 2] + (chosen[nth - 1] ? dx : 0), xy[2 * nth - 1] + (chosen[nth - 1] ? dy : 0));
      context.lineTo(xy[2 * nth] + (chosen[nth] ? dx : 0), xy[2 * nth + 1] + (chosen[nth] ? dy : 0));
      drawn += 1;
    }
    context.stroke();
    this.paintChosen(context, scale, dx, dy);
  }

  paintTool(context, scale, { kind, from, to, path }) {
    context.strokeStyle = "#2b5d7d";
    context.fillStyle = "#2b5d7d1f";
    context.lineWidth = 1.5 / scale;
    context.setLineDash([5 / scale, 4 / scale]);
    context.beginPath();
    if (kind === "box") context.rect(from.x, from.y, to.x - from.x, to.y - from.y);
    else for (const one of path) context.lineTo(one.x, one.y);
    context.closePath();
    context.fill();
    context.stroke();
    context.setLineDash([]);
  }
}

// The number of its group of every point, by the sizes of those.
function numbered(counts, rows) {
  const found = new Uint32Array(rows);
  let first = 0;
  counts.forEach((count, nth) => {
    found.fill(nth, first, first + count);
    first += count;
  });
  return found;
}

function boxed(one, other) {
  const [left, right] = [Math.min(one.x, other.x), Math.max(one.x, other.x)];
  const [top, bottom] = [Math.min(one.y, other.y), Math.max(one.y, other.y)];
  return (x, y) => x >= left && x <= right && y >= top && y <= bottom;
}

function lassoed(path) {
  const xs = path.map((one) => one.x), ys = path.map((one) => one.y);
  const within = boxed({ x: Math.min(...xs), y: Math.min(...ys) }, { x: Math.max(...xs), y: Math.max(...ys) });
  return (x, y) => {
    if (!within(x, y)) return false;
    let inside = false;
    for (let one = 0, other = path.length - 1; one < path.length; other = one++) {
      if (ys[one] > y !== ys[other] > y && x < ((xs[other] - xs[one]) * (y - ys[one])) / (ys[other] - ys[one]) + xs[one]) inside = !inside;
    }
    return inside;
  };
}
