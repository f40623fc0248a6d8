// Light on the cloth: asks for it whenever what is shown changes, keeps the last one, and lays it over the picture.

export class Light {
  // redraw: told once new light is there.
  constructor(redraw) {
    this.redraw = redraw;
    this.busy = false;
    this.plan = null;
    this.wanted = this.shown = null;
    if (typeof Worker === "undefined" || typeof OffscreenCanvas === "undefined") return; // all lies flat then
    this.worker = new Worker(new URL("./relief_worker.js", import.meta.url), { type: "module" });
    this.worker.addEventListener("message", ({ data }) => this.take(data));
    this.worker.addEventListener("error", () => (this.worker = null));
  }

  setPlan(plan) {
    this.plan = plan;
    this.sent = false;
    this.wanted = null;
  }

  // What is to be lit: so many rows, without some pieces. Only the latest wish is kept.
  show(row, hidden) {
    const key = `${row} ${hidden.join()}`;
    if (!this.worker || !this.plan || key === this.wanted?.key) return;
    this.wanted = { key, row, hidden };
    this.ask();
  }

  ask() {
    if (this.busy || !this.wanted || this.wanted.asked) return;
    this.busy = true;
    this.wanted.asked = true;
    const { rows, relief, base, toppings, sheets, presses, blocks, xy, command } = this.plan;
    const bare = blocks.map(({ piece, first, count }) => ({ piece, first, count }));
    const plan = this.sent ? undefined : { rows, relief, base, toppings, sheets, presses, blocks: bare, xy, command };
    this.worker.postMessage({ plan, key: this.wanted.key, row: this.wanted.row, hidden: this.wanted.hidden });
    this.sent = true;
  }

  take({ left, top, step, wide, high, pixels }) {
    this.busy = false;
    const canvas = document.createElement("canvas");
    canvas.width = wide;
    canvas.height = high;
    canvas.getContext("2d").putImageData(new ImageData(pixels, wide, high), 0, 0);
    this.shown = { canvas, left, top, width: wide * step, height: high * step };
    this.redraw();
    this.ask();
  }

  // The context is in mm.
  paint(context) {
    if (!this.shown) return;
    const { canvas, left, top, width, height } = this.shown;
    context.imageSmoothingEnabled = true;
    context.imageSmoothingQuality = "high";
    context.drawImage(canvas, left, top, width, height);
  }
}
