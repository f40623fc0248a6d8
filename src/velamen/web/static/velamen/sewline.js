// The Sew line: length is stitches, colour is thread, flags are hand steps; and the clock that sews.

const TOP = 24, HEIGHT = 40;

export class SewLine {
  constructor(canvas, onMove) {
    this.canvas = canvas;
    this.context = canvas.getContext("2d");
    this.onMove = onMove;
    this.row = 0;
    this.speed = 240;
    new ResizeObserver(() => this.draw()).observe(canvas);
    this.listen();
  }

  // row: to go to, where it stood otherwise.
  setPlan(plan, row = this.row) {
    this.plan = plan;
    this.total = plan.sewn[plan.rows] || 1;
    this.canvas.setAttribute("aria-valuemax", this.total);
    this.go(Math.min(row, plan.rows), false);
  }

  go(row, keepPlaying) {
    if (!keepPlaying) this.pause();
    this.row = Math.max(0, Math.min(Math.round(row), this.plan.rows));
    this.canvas.setAttribute("aria-valuenow", this.plan.sewn[this.row]);
    this.draw();
    this.onMove(this.row);
  }

  play() {
    if (this.row >= this.plan.rows) this.go(0);
    this.playing = true;
    let last = performance.now(), part = 0;
    const tick = (now) => {
      if (!this.playing) return;
      part += ((now - last) / 1000) * this.speed;
      last = now;
      const whole = Math.floor(part);
      part -= whole;
      const next = this.row + whole;
      const stop = this.plan.stops.find((one) => one.row + 1 > this.row && one.row + 1 <= next);
      this.go(stop ? stop.row + 1 : next, true);
      if (stop || this.row >= this.plan.rows) this.pause();
      else requestAnimationFrame(tick);
    };
    requestAnimationFrame(tick);
    this.onPlay?.(true);
  }

  pause() {
    if (!this.playing) return;
    this.playing = false;
    this.onPlay?.(false);
  }

  toggle() {
    if (this.playing) this.pause();
    else this.play();
  }

  step(what) {
    const { plan, row } = this;
    const [unit, way] = what.split("-");
    const forward = way === "on";
    if (unit === "stitch") {
      let next = row + (forward ? 1 : -1);
      while (next > 0 && next < plan.rows && plan.command[next - 1] !== 0) next += forward ? 1 : -1;
      return this.go(next);
    }
    const edges = unit === "pass" ? plan.blocks.map((block) => block.first + block.count) : plan.stops.map((stop) => stop.row + 1);
    if (forward) return this.go(edges.find((edge) => edge > row) ?? plan.rows);
    return this.go(edges.filter((edge) => edge < row).pop() ?? 0);
  }

  toX(row) {
    return 2 + (this.plan.sewn[row] / this.total) * (this.width - 4);
  }

  draw() {
    if (!this.plan) return;
    const ratio = window.devicePixelRatio || 1;
    const box = this.canvas.getBoundingClientRect();
    this.width = box.width;
    this.canvas.width = Math.round(box.width * ratio);
    this.canvas.height = Math.round(box.height * ratio);
    const context = this.context;
    context.setTransform(ratio, 0, 0, ratio, 0, 0);
    context.font = '12px "Source Sans 3", sans-serif';
    this.drawBlocks(context);
    this.drawStops(context);
    const x = this.toX(this.row);
    context.strokeStyle = "#b3392f";
    context.lineWidth = 2;
    context.beginPath();
    context.moveTo(x, TOP - 8);
    context.lineTo(x, TOP + HEIGHT + 6);
    context.stroke();
  }

  drawBlocks(context) {
    let labelled = -1, piece = null;
    for (const block of this.plan.blocks) {
      const x0 = this.toX(block.first), x1 = this.toX(block.first + block.count);
      const cover = block.broad;
      context.globalAlpha = cover ? 1 : 0.6;
      context.fillStyle = block.colour;
      context.fillRect(x0, cover ? TOP : TOP + 5, Math.max(x1 - x0 - 1, 1), cover ? HEIGHT : HEIGHT - 10);
      context.globalAlpha = 1;
      context.strokeStyle = "#23303a40";
      context.lineWidth = 1;
      context.strokeRect(x0 + 0.5, (cover ? TOP : TOP + 5) + 0.5, Math.max(x1 - x0 - 2, 0.5), (cover ? HEIGHT : HEIGHT - 10) - 1);
      if (block.piece !== piece) {
        piece = block.piece;
        const name = this.plan.pieces.find((one) => one.id === piece)?.name ?? "";
        const wide = context.measureText(name).width;
        const left = Math.min(x0, this.width - 2 - wide); // the last one ends with the line
        if (left > labelled) {
          context.fillStyle = "#5c6468";
          context.fillText(name, left, TOP + HEIGHT + 17);
          labelled = left + wide + 8;
        }
      }
    }
  }

  drawStops(context) {
    context.lineWidth = 1.5;
    for (const { x, first, last } of this.flags(context)) {
      const text = first === last ? `${first}` : `${first}–${last}`;
      context.fillStyle = "#a87c0c";
      context.fillRect(x, 2, context.measureText(text).width + 6, 14);
      context.fillStyle = "#fff";
      context.fillText(text, x + 3, 13);
    }
  }

  // Numbers of stops where they are written: those that would lie on one another as one flag, within the line.
  flags(context) {
    const found = [];
    context.strokeStyle = "#a87c0c";
    this.plan.stops.forEach((stop, index) => {
      const x = this.toX(stop.row), before = found.at(-1);
      context.beginPath();
      context.moveTo(x, 2);
      context.lineTo(x, TOP + HEIGHT);
      context.stroke();
      if (before && x < before.x + context.measureText(`${before.first}–${index + 1}`).width + 7) before.last = index + 1;
      else found.push({ x, first: index + 1, last: index + 1 });
    });
    for (const flag of found) {
      const wide = context.measureText(flag.first === flag.last ? `${flag.first}` : `${flag.first}–${flag.last}`).width + 6;
      flag.x = Math.min(flag.x, this.width - wide);
    }
    return found;
  }

  listen() {
    const rowAt = (event) => {
      const share = (event.clientX - this.canvas.getBoundingClientRect().left - 2) / (this.width - 4);
      const wanted = Math.round(Math.max(0, Math.min(share, 1)) * this.total);
      let low = 0, high = this.plan.rows;
      while (low < high) {
        const middle = (low + high) >> 1;
        if (this.plan.sewn[middle] < wanted) low = middle + 1;
        else high = middle;
      }
      return low;
    };
    let held = false;
    this.canvas.addEventListener("pointerdown", (event) => {
      if (!this.plan) return;
      held = true;
      this.canvas.setPointerCapture(event.pointerId);
      this.go(rowAt(event));
    });
    this.canvas.addEventListener("pointermove", (event) => held && this.go(rowAt(event)));
    this.canvas.addEventListener("pointerup", () => (held = false));
  }
}
