// The strip of a piece: the way across its rows in their colours, with what can be dragged along it; rows are drawn on
// the cloth as they would lie meanwhile.

const APART = 1; // % that stops keep from their neighbours

export class Strip {
  // Like the handles of the cloth it paints there, but is held in the panel.
  constructor(redraw, spots) {
    this.redraw = redraw;
    this.spots = spots;
    this.lines = [];
    this.held = null;
    const panel = document.getElementById("values");
    panel.addEventListener("pointerdown", (event) => this.take(event));
    panel.addEventListener("keydown", (event) => this.key(event));
    document.addEventListener("htmx:afterSettle", () => this.lay());
    this.lay();
  }

  stops() {
    return [...document.querySelectorAll(".strip-way [role=slider]")];
  }

  share(stop) {
    return Number(stop.getAttribute("aria-valuenow"));
  }

  // Stops where they belong, and their colours between them.
  lay() {
    const way = document.querySelector(".strip-way"), stops = this.stops();
    if (!way) return;
    for (const stop of stops) {
      stop.style.left = `${this.share(stop)}%`;
      stop.style.background = stop.dataset.colour;
    }
    const colours = stops.map((stop) => `color-mix(in srgb, ${stop.dataset.colour} ${Math.round(25 + 75 * stop.dataset.dense)}%, #fffdf8) ${this.share(stop)}%`);
    way.style.background = `linear-gradient(to right, ${colours.join(", ")})`;
  }

  take(event) {
    const stop = event.target.closest(".strip-way [role=slider]");
    if (!stop) return;
    const way = stop.parentElement.getBoundingClientRect();
    this.held = stop;
    stop.setPointerCapture(event.pointerId);
    const move = ({ clientX }) => this.set(stop, (100 * (clientX - way.left)) / way.width);
    const drop = () => {
      stop.removeEventListener("pointermove", move);
      this.drop(stop);
    };
    stop.addEventListener("pointermove", move);
    stop.addEventListener("pointerup", drop, { once: true });
    stop.addEventListener("pointercancel", drop, { once: true });
  }

  key(event) {
    const stop = event.target.closest?.(".strip-way [role=slider]");
    const step = { ArrowLeft: -1, ArrowDown: -1, ArrowRight: 1, ArrowUp: 1 }[event.key];
    if (!stop || !step) return;
    event.preventDefault();
    event.stopPropagation();
    this.set(stop, this.share(stop) + step * (event.shiftKey ? 10 : 1));
    clearTimeout(this.waits);
    this.waits = setTimeout(() => this.drop(stop), 600);
  }

  set(stop, wanted) {
    const stops = this.stops(), at = stops.indexOf(stop);
    const low = at ? this.share(stops[at - 1]) + APART : 0, high = at < stops.length - 1 ? this.share(stops[at + 1]) - APART : 100;
    const share = Math.round(Math.min(Math.max(wanted, low), high));
    if (share === this.share(stop)) return;
    stop.setAttribute("aria-valuenow", share);
    stop.setAttribute("aria-valuetext", `${stop.title} at ${share} %`);
    stop.nextElementSibling.value = share;
    this.moved = true;
    this.lay();
    this.ask();
  }

  // Where rows would lie so; only the latest wish is kept.
  async ask() {
    this.wanted = true;
    if (this.asking) return;
    this.asking = true;
    while (this.wanted) {
      this.wanted = false;
      const strip = document.querySelector(".strip");
      if (!strip) break;
      const asked = new URLSearchParams(this.stops().map((stop) => [stop.nextElementSibling.name, this.share(stop)]));
      try {
        const { lines, colours } = await (await fetch(`${strip.dataset.led}?${asked}`)).json();
        if (lines && this.moved) this.lines = lines.map((line, nth) => ({ line, colour: colours[nth] }));
      } catch {
        this.lines = []; // the drop says what is wrong
      }
      this.redraw();
    }
    this.asking = false;
  }

  drop(stop) {
    this.held = null;
    if (!this.moved) return;
    this.moved = false;
    stop.nextElementSibling.dispatchEvent(new Event("change", { bubbles: true }));
  }

  // A new plan has come: its own stitches are seen again.
  settle() {
    if (!this.held) this.lines = [];
  }

  grip() {
    return null;
  }

  paint(context, scale) {
    if (!this.lines.length) return;
    context.setLineDash([]);
    context.lineCap = "butt";
    context.lineWidth = Math.max(0.3, 1 / scale);
    for (const { line, colour } of this.lines) {
      context.strokeStyle = colour || "#b3392f";
      context.beginPath();
      for (const [x, y] of line) {
        const at = this.spots.inCopy({ x, y });
        context.lineTo(at.x, at.y);
      }
      context.stroke();
    }
  }
}
