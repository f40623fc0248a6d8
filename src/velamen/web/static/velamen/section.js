// The Section view: the stack along the cut at true relative thickness, as it lies at one row.

const FLOOR = 20; // px under the stack, for the scale
const ROOM = 1.3; // mm over it, for stitches
const LARGEST = 30; // px a mm
const FIBRE = 0.22; // mm between drawn fibres of pile

export class Section {
  constructor(canvas) {
    this.canvas = canvas;
    this.context = canvas.getContext("2d");
    this.row = 0;
    this.data = null;
    this.asked = null;
    this.busy = false;
    this.of = "all"; // every copy in the hoop, or "one"
    new ResizeObserver(() => this.resize()).observe(canvas);
  }

  setPlan(plan) {
    this.stack = plan.stack;
    this.rows = plan.rows;
    this.data = null;
    this.shown = null;
    this.resize();
    if (this.asked) this.cut(this.asked);
  }

  resize() {
    const ratio = window.devicePixelRatio || 1;
    const { width, height } = this.canvas.getBoundingClientRect();
    if (!width || !this.stack) return;
    this.canvas.width = Math.round(width * ratio);
    this.canvas.height = Math.round(height * ratio);
    this.ratio = ratio;
    this.size = { width, height };
    this.scale = Math.min((height - FLOOR) / (this.stack + ROOM), LARGEST);
    this.draw();
  }

  // Once all is sewn toppings are washed or torn off, and pile stands up again.
  get finished() {
    return this.row >= this.rows;
  }

  get length() {
    return this.size ? Math.min(Math.max(this.size.width / this.scale, 2), 400) : 12;
  }

  // Asks for a cut; while one is on its way only the latest wish is kept.
  async cut(where) {
    this.asked = where;
    if (this.busy || !this.size) return;
    const wanted = { ...where, length: this.length, of: this.of };
    const mark = JSON.stringify(wanted);
    if (mark === this.shown) return this.draw();
    this.busy = true;
    try {
      const query = new URLSearchParams({ x: wanted.x.toFixed(3), y: wanted.y.toFixed(3), angle: wanted.angle.toFixed(4), length: wanted.length.toFixed(2), of: wanted.of });
      const answer = await fetch(`${this.canvas.dataset.section}?${query}`, { cache: "no-cache" });
      if (!answer.ok) throw new Error(String(answer.status));
      this.data = await answer.json();
      this.shown = mark;
      this.failed = false;
    } catch {
      this.failed = true;
      this.shown = mark;
    } finally {
      this.busy = false;
    }
    this.draw();
    if (this.asked !== where) this.cut(this.asked);
  }

  show(row) {
    this.row = row;
    this.draw();
  }

  draw() {
    if (!this.size) return;
    const context = this.context;
    context.setTransform(this.ratio, 0, 0, this.ratio, 0, 0);
    context.clearRect(0, 0, this.size.width, this.size.height);
    if (!this.data) {
      context.fillStyle = "#5c6468";
      context.font = '13px "Source Sans 3", sans-serif';
      context.fillText(this.failed ? "The cut could not be fetched." : "", 8, 24);
      return;
    }
    this.ground = this.size.height - FLOOR;
    const { threads } = this.data;
    const sewn = lowerBound(threads.row, this.row);
    const sheets = this.data.sheets.filter((sheet) => sheet.from <= this.row && (sheet.to === null || this.row < sheet.to) && !(sheet.kind === "topping" && this.finished));
    for (const sheet of sheets) {
      this.paintSheet(context, sheet);
      if (sheet.pile) this.paintPile(context, sheet, sheets.filter((other) => other.place > sheet.place), sewn);
    }
    this.paintThreads(context, sewn);
    this.paintMiddle(context);
    this.paintScale(context);
    this.canvas.setAttribute("aria-label", `The stack along the cut, from below: ${sheets.map((sheet) => sheet.name).join(", ")}; ${sewn} stitches cross it`);
  }

  x(column) {
    return column * this.data.step * this.scale;
  }

  y(height) {
    return this.ground - height * this.scale;
  }

  paintSheet(context, sheet) {
    for (const [first, last] of sheet.spans) {
      context.beginPath();
      for (let column = first; column < last; column++) context.lineTo(this.x(column), this.y(sheet.bottom[column]));
      context.lineTo(this.x(last), this.y(sheet.bottom[last - 1]));
      context.lineTo(this.x(last), this.y(sheet.bottom[last - 1] + sheet.thickness));
      for (let column = last - 1; column >= first; column--) context.lineTo(this.x(column), this.y(sheet.bottom[column] + sheet.thickness));
      context.closePath();
      context.fillStyle = sheet.kind === "topping" ? "#9fc3d8aa" : sheet.colour;
      context.fill();
      context.lineWidth = 1;
      context.strokeStyle = sheet.kind === "topping" ? "#4f87a5" : "#23303a66";
      context.stroke();
    }
  }

  // Fibres stand up where nothing presses them: less under cloth and film, hardly at all under stitches.
  paintPile(context, sheet, over, sewn) {
    const { step, threads } = this.data;
    const kept = new Float32Array(sheet.bottom.length).fill(1);
    for (const other of over) {
      for (const [first, last] of other.spans) {
        for (let column = first; column < last; column++) kept[column] = Math.min(kept[column], other.pile_left);
      }
    }
    for (const press of this.data.presses) {
      if (press.from >= this.row) continue;
      for (const [first, last] of press.spans) kept.fill(threads.pile_left, first, last);
    }
    for (let nth = 0; nth < sewn; nth++) {
      const [from, to] = threads.span[nth];
      const low = Math.max(0, Math.floor(from / step)), high = Math.min(kept.length - 1, Math.floor(to / step));
      for (let column = low; column <= high; column++) kept[column] = Math.min(kept[column], threads.pile_left);
    }
    context.strokeStyle = tone(sheet.colour, 0.84);
    context.lineWidth = 1.3;
    context.beginPath();
    for (const [first, last] of sheet.spans) {
      for (let at = first * step; at < last * step; at += FIBRE) {
        const column = Math.min(Math.floor(at / step), kept.length - 1);
        const foot = sheet.bottom[column] + sheet.thickness, high = sheet.pile * kept[column];
        const lean = (0.16 * Math.sin(at * 37.3) + 0.1 * Math.sin(at * 11.1)) * Math.min(1, high);
        context.moveTo(at * this.scale, this.y(foot));
        context.quadraticCurveTo((at + lean) * this.scale, this.y(foot + 0.6 * high), (at - lean) * this.scale, this.y(foot + high));
      }
    }
    context.stroke();
  }

  paintThreads(context, sewn) {
    const { threads } = this.data;
    const thick = Math.max(threads.high * this.scale, 2);
    context.lineCap = context.lineJoin = "round";
    for (let nth = 0; nth < sewn; nth++) {
      const colour = threads.colours[threads.block[nth]];
      const [from, to] = threads.span[nth].map((at) => at * this.scale);
      const [start, middle, end] = threads.height[nth].map((height) => this.y(height) - thick / 2);
      const inset = Math.min(thick / 2, (to - from) / 2);
      for (const [width, style] of [[thick + 1, tone(colour, 0.55)], [thick - 0.4, colour]]) {
        context.strokeStyle = style;
        context.lineWidth = width;
        context.beginPath();
        context.moveTo(from + inset, start);
        context.quadraticCurveTo((from + to) / 2, 2 * middle - (start + end) / 2, to - inset, end);
        context.stroke();
      }
    }
  }

  paintMiddle(context) {
    const x = this.size.width / 2;
    context.strokeStyle = "#b3392f";
    context.lineWidth = 1;
    context.setLineDash([3, 3]);
    context.beginPath();
    context.moveTo(x, 0);
    context.lineTo(x, this.ground);
    context.stroke();
    context.setLineDash([]);
  }

  paintScale(context) {
    const step = [0.5, 1, 2, 5, 10].filter((mm) => mm * this.scale <= 70).pop() || 0.5;
    const down = this.size.height - 6;
    context.strokeStyle = context.fillStyle = "#23303a";
    context.lineWidth = 1.2;
    context.beginPath();
    context.moveTo(2, down - 4);
    context.lineTo(2, down);
    context.lineTo(2 + step * this.scale, down);
    context.lineTo(2 + step * this.scale, down - 4);
    context.stroke();
    context.font = '12px "Source Sans 3", sans-serif';
    context.fillText(`${step} mm`, 8 + step * this.scale, down);
  }
}

function lowerBound(rows, wanted) {
  let low = 0, high = rows.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (rows[middle] < wanted) low = middle + 1;
    else high = middle;
  }
  return low;
}

function tone(colour, factor) {
  const parts = [1, 3, 5].map((at) => Math.round(parseInt(colour.slice(at, at + 2), 16) * factor));
  return `rgb(${parts.join(",")})`;
}
