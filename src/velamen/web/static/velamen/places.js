// Places of the chosen piece that have values of their own: drawn on the cloth while their list is open, moved along
// their edge by dragging the middle and sized by dragging an end.

const REACH = 11; // px round a handle
const HANDLE = 4, TAG = 8; // px

export class Places {
  // spots: knows where a design lies in the hoop.
  constructor(redraw, spots) {
    this.redraw = redraw;
    this.spots = spots;
    this.held = null; // what is dragged: { nth, what, from, shift, width }
    const panel = document.getElementById("values");
    for (const event of ["focusin", "focusout", "mouseover", "mouseout"]) {
      panel.addEventListener(event, (happened) => happened.target.closest(".places") && redraw());
    }
  }

  rows() {
    return [...document.querySelectorAll("details.places[open] [data-line]")];
  }

  // A row as it stands: the found edge, the middle and the direction of what is sewn there, mm.
  place(row, nth) {
    const line = row.dataset.line.split(" ").map((one) => {
      const [x, y] = one.split(",").map(Number);
      return this.spots.inCopy({ x, y });
    });
    const first = line[0], last = line.at(-1), middle = line[Math.floor(line.length / 2)];
    const length = Math.hypot(last.x - first.x, last.y - first.y) || 1;
    const way = { x: (last.x - first.x) / length, y: (last.y - first.y) / length };
    const held = this.held?.nth === nth ? this.held : null;
    const value = (key) => Number(row.querySelector(`[name="${key}"]`)?.value) || 0;
    const shift = held?.shift ?? value(row.dataset.shift);
    const width = (held?.width ?? value(row.dataset.width)) || length;
    const now = row.matches(":hover, :focus-within") || Boolean(held);
    return { row, nth, line, middle, way, shift, width, now, off: row.dataset.off === "yes" };
  }

  places() {
    return this.spots.plan ? this.rows().map((row, nth) => this.place(row, nth)) : [];
  }

  at(one, along) {
    return { x: one.middle.x + along * one.way.x, y: one.middle.y + along * one.way.y };
  }

  handles(one) {
    return [["move", this.at(one, one.shift)], ["first", this.at(one, one.shift - one.width / 2)],
            ["last", this.at(one, one.shift + one.width / 2)]];
  }

  grip(spot, scale) {
    for (const one of this.places()) {
      for (const [what, at] of this.handles(one)) {
        if (Math.hypot(spot.x - at.x, spot.y - at.y) * scale <= REACH) return `${one.nth} ${what}`;
      }
    }
    return null;
  }

  drag(grip, spot) {
    const [nth, what] = grip.split(" ");
    const row = this.rows()[Number(nth)];
    if (!row) return;
    const one = this.place(row, Number(nth));
    const along = (spot.x - one.middle.x) * one.way.x + (spot.y - one.middle.y) * one.way.y;
    this.held = { nth: Number(nth), what, shift: one.shift, width: one.width };
    if (what === "move") this.held.shift = along;
    else this.held.width = Math.max(2 * Math.abs(along - one.shift), 1);
    this.redraw();
  }

  drop() {
    if (!this.held) return;
    const { nth, what, shift, width } = this.held, row = this.rows()[nth];
    this.held = null;
    const key = what === "move" ? row?.dataset.shift : row?.dataset.width;
    const input = row?.querySelector(`[name="${key}"]`);
    if (!input) return;
    input.value = (what === "move" ? shift : width).toFixed(1);
    input.dispatchEvent(new Event("change", { bubbles: true }));
    this.redraw();
  }

  cancel() {
    this.held = null;
    this.redraw();
  }

  paint(context, scale) {
    for (const one of this.places()) {
      context.lineCap = "round";
      this.stroke(context, one.line, 1.5 / scale, "#2b2a26", [3 / scale, 3 / scale]);
      if (!one.off) {
        const ends = [this.at(one, one.shift - one.width / 2), this.at(one, one.shift + one.width / 2)];
        this.stroke(context, ends, 4 / scale, one.now ? "#2b5d7d" : "#2b5d7daa", []);
        if (one.now) for (const [, at] of this.handles(one).slice(1)) this.grain(context, at, scale);
      }
      this.tag(context, one, scale);
    }
  }

  stroke(context, line, wide, colour, dash) {
    context.setLineDash(dash);
    context.lineWidth = wide;
    context.strokeStyle = colour;
    context.beginPath();
    for (const { x, y } of line) context.lineTo(x, y);
    context.stroke();
    context.setLineDash([]);
  }

  // The square at either end by which it is sized.
  grain(context, at, scale) {
    const side = HANDLE / scale;
    context.fillStyle = "#fffdf8";
    context.strokeStyle = "#2b5d7d";
    context.lineWidth = 1.5 / scale;
    context.fillRect(at.x - side, at.y - side, 2 * side, 2 * side);
    context.strokeRect(at.x - side, at.y - side, 2 * side, 2 * side);
  }

  // Its number in a disc, by which it is moved.
  tag(context, one, scale) {
    const { x, y } = this.at(one, one.off ? 0 : one.shift);
    context.lineWidth = 1.5 / scale;
    context.strokeStyle = "#2b5d7d";
    context.fillStyle = one.now ? "#2b5d7d" : "#fffdf8";
    context.beginPath();
    context.arc(x, y, TAG / scale, 0, 2 * Math.PI);
    context.fill();
    context.stroke();
    context.font = `600 ${11 / scale}px "Source Sans 3", sans-serif`;
    context.textAlign = "center";
    context.textBaseline = "middle";
    context.fillStyle = one.now ? "#fffdf8" : "#2b2a26";
    context.fillText(one.nth + 1, x, y);
  }
}
