// Try-outs: the pictures of all variants zoomed and moved together, and what differs between them marked.

import { markDifferences } from "./differences.js";

const REST = 250; // ms without a move until pictures are drawn anew
const NEARER = 1.4;
const STEP = 0.15; // of the view, by an arrow key
const HANDS = "Wheel and drag move all of them together";
const LEAST = 3; // mm of a view

class Together {
  constructor(list) {
    this.list = list;
    this.rows = [...list.querySelectorAll("li")].map((row) => ({ frame: row.querySelector(".tried-view"), image: row.querySelector("img"), canvas: row.querySelector("canvas"), now: row.dataset.now }));
    const [left, top, right, bottom] = list.dataset.box.split(",").map(Number);
    this.first = { x: (left + right) / 2, y: (top + bottom) / 2, width: right - left, height: bottom - top };
    for (const row of this.rows) row.shown = this.first;
    this.from = document.getElementById("differs-from");
    this.from.value = String(Math.max(this.rows.findIndex((row) => row.now), 0));
    this.from.addEventListener("change", () => this.mark());
    for (const button of document.querySelectorAll("[data-zoom]")) button.addEventListener("click", () => this[button.dataset.zoom]());
    this.listen();
    this.fit();
  }

  in() {
    this.zoom(1 / NEARER);
  }

  out() {
    this.zoom(NEARER);
  }

  // The view as it was first, as broad for its height as the frames are.
  fit() {
    const { width, height } = this.rows[0].frame.getBoundingClientRect(), { first } = this;
    const scale = Math.min(width / first.width, height / first.height);
    this.view = { x: first.x, y: first.y, width: width / scale, height: height / scale };
    if (this.rows.some((row) => row.shown !== first)) return this.moved();
    for (const row of this.rows) this.place(row);
    Promise.all(this.rows.map((row) => row.image.decode())).then(() => this.rested(), () => null);
  }

  rested() {
    this.list.dataset.rests = "yes";
    this.mark();
  }

  // at: where in a frame, each way from its middle in shares of it, stays where it is.
  zoom(factor, at = { x: 0, y: 0 }) {
    const { view } = this, width = Math.min(Math.max(view.width * factor, LEAST), 1500), real = width / view.width;
    this.view = { x: view.x + at.x * view.width * (1 - real), y: view.y + at.y * view.height * (1 - real), width, height: view.height * real };
    this.moved();
  }

  shift(x, y) {
    this.view = { ...this.view, x: this.view.x + x * this.view.width, y: this.view.y + y * this.view.height };
    this.moved();
  }

  // Pictures as they are follow at once; those of the new view are asked for once it rests.
  moved() {
    for (const row of this.rows) this.place(row);
    this.list.dataset.rests = "";
    clearTimeout(this.timer);
    this.timer = setTimeout(() => this.fetch(), REST);
  }

  place({ frame, image, shown, canvas }) {
    const { view } = this, { width, height } = frame.getBoundingClientRect(), scale = width / view.width;
    const now = Math.min(width / shown.width, height / shown.height);
    image.style.transform = `translate(${(shown.x - view.x) * scale}px, ${(shown.y - view.y) * scale}px) scale(${scale / now})`;
    canvas.hidden = true;
  }

  async fetch() {
    const { view } = this, mine = (this.asked = {});
    const box = [view.x - view.width / 2, view.y - view.height / 2, view.x + view.width / 2, view.y + view.height / 2];
    this.list.setAttribute("aria-busy", "true");
    await Promise.all(this.rows.map(async (row) => {
      const image = new Image();
      image.src = `${row.image.dataset.src}?box=${box.map((one) => one.toFixed(3)).join(",")}`;
      await image.decode().catch(() => null); // it stays as it was
      if (mine !== this.asked || !image.naturalWidth) return;
      row.image.src = image.src;
      await row.image.decode().catch(() => null);
      row.shown = view;
      if (mine === this.asked) this.place(row);
    }));
    if (mine !== this.asked) return;
    this.list.removeAttribute("aria-busy");
    this.rested();
  }

  mark() {
    const from = this.rows[Number(this.from.value)], on = this.from.value !== "" && this.list.dataset.rests;
    for (const row of this.rows) {
      row.canvas.hidden = !on || row === from;
      row.canvas.dataset.cells = on ? markDifferences(row.canvas, from.image, row.image) : "";
    }
    const alike = on && this.rows.every((row) => row.canvas.dataset.cells === "0");
    document.getElementById("differs-told").textContent = alike ? "Nothing differs to the eye at this size: come nearer." : HANDS;
  }

  listen() {
    let drag = null;
    this.list.addEventListener("wheel", (event) => {
      const frame = event.target.closest(".tried-view");
      if (!frame) return;
      event.preventDefault();
      const box = frame.getBoundingClientRect();
      this.zoom(Math.exp(event.deltaY * 0.0015), { x: (event.clientX - box.left) / box.width - 0.5, y: (event.clientY - box.top) / box.height - 0.5 });
    }, { passive: false });
    this.list.addEventListener("pointerdown", (event) => {
      const frame = event.target.closest(".tried-view");
      if (!frame || event.button !== 0) return;
      drag = { x: event.clientX, y: event.clientY, frame };
      frame.setPointerCapture(event.pointerId);
    });
    this.list.addEventListener("pointermove", (event) => {
      if (!drag) return;
      const { width, height } = drag.frame.getBoundingClientRect();
      this.shift((drag.x - event.clientX) / width, (drag.y - event.clientY) / height);
      Object.assign(drag, { x: event.clientX, y: event.clientY });
    });
    this.list.addEventListener("pointerup", () => (drag = null));
    const keys = {
      "+": () => this.in(), "-": () => this.out(), f: () => this.fit(),
      ArrowLeft: () => this.shift(-STEP, 0), ArrowRight: () => this.shift(STEP, 0), ArrowUp: () => this.shift(0, -STEP), ArrowDown: () => this.shift(0, STEP),
    };
    this.list.addEventListener("keydown", (event) => {
      if (event.target !== this.list || event.ctrlKey || event.metaKey || event.altKey || !keys[event.key]) return;
      event.preventDefault();
      keys[event.key]();
    });
  }
}

let taken = null;
function take() {
  const list = document.querySelector(".tried");
  if (list && list !== taken) new Together((taken = list));
}
take();
document.body.addEventListener("htmx:afterSettle", take);
