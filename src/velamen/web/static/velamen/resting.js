// The outline of what is chosen, on the cloth: it fades while the pointer rests on its stitches and comes back as it moves on.

const REST = 450; // ms that the pointer lies still
const FADE = 250; // ms
const FAINT = 0.1; // of it that is left
const BESIDE = 8; // px: a border's stitches lie beside the outline

export class Resting {
  // over: whether a place in px lies on what is chosen; redraw: paints the cloth anew.
  constructor(canvas, over, redraw) {
    this.over = over;
    this.redraw = redraw;
    this.strength = 1;
    this.still = matchMedia("(prefers-reduced-motion: reduce)");
    canvas.addEventListener("pointermove", (event) => this.moved({ x: event.offsetX, y: event.offsetY }));
    for (const kind of ["pointerdown", "pointerleave", "wheel"]) canvas.addEventListener(kind, () => this.wake(), { passive: true });
  }

  moved(spot) {
    this.wake();
    if (this.over(spot, BESIDE)) this.timer = setTimeout(() => this.fade(performance.now()), REST);
  }

  wake() {
    clearTimeout(this.timer);
    cancelAnimationFrame(this.frame);
    this.set(1);
  }

  fade(since) {
    const done = this.still.matches ? 1 : Math.min((performance.now() - since) / FADE, 1);
    this.set(1 - done * (1 - FAINT));
    if (done < 1) this.frame = requestAnimationFrame(() => this.fade(since));
  }

  set(strength) {
    if (strength === this.strength) return;
    this.strength = strength;
    this.redraw();
  }
}
