// Build: cloth, Stack, values and Sew line kept together.

import { choose, chooseAll, chosen, howOf, letGo, refreshPanels } from "./choose.js";
import { Cloth } from "./cloth.js";
import { CutLine } from "./cutline.js";
import { Guides } from "./guides.js";
import { Needles } from "./needles.js";
import { Places } from "./places.js";
import { blockAt, loadPlan } from "./plan.js";
import { Section } from "./section.js";
import { SewLine } from "./sewline.js";
import { Spots } from "./spots.js";
import { watchEyes } from "./stack.js";
import { Strip } from "./strip.js";

const canvas = document.getElementById("cloth");
const at = document.getElementById("at");
const hands = document.getElementById("hands");
const waiting = document.getElementById("waiting");
let plan = null;
let alone = false; // whether the one design is shown where the hoop has several
let asked = new URLSearchParams(location.search).get("row"); // where another stage points to on the Sew line

const section = new Section(document.getElementById("section"));
const cut = new CutLine((line) => {
  section.cut({ x: line.x, y: line.y, angle: line.angle });
  cloth.cutLength = section.length;
  cloth.draw();
  document.getElementById("section-where").textContent = line.placed ? "Section along the cut" : "Section at the needle";
  document.querySelector("[data-cut]").setAttribute("aria-pressed", String(line.placed));
});
const spots = new Spots(canvas, () => cloth.draw());
const places = new Places(() => cloth.draw(), spots);
const guides = new Guides(() => cloth.draw(), spots);
const strip = new Strip(() => cloth.draw(), spots);
const needles = new Needles(canvas, () => cloth.draw(), spots, { at: () => sewing.row, look: () => setLook("needle") });
const cloth = new Cloth(canvas, {
  cut,
  handles: [spots, needles, places, guides, strip, cut],
  placed: (spot) => spots.click(spot) || needles.click(spot),
  onPick: (piece, event) => choose(piece, howOf(event) ? "too" : ""),
});
const sewing = new SewLine(document.getElementById("sewline"), moved);

function moved(row) {
  cloth.show(row);
  section.show(row);
  follow();
  const block = blockAt(plan, row - 1);
  const piece = block && plan.pieces.find((one) => one.id === block.piece);
  const count = plan.sewn[row].toLocaleString("en").replaceAll(",", "\u00a0");
  const total = plan.sewn[plan.rows].toLocaleString("en").replaceAll(",", "\u00a0");
  at.textContent = block && row > 0 ? `Stitch ${count} of ${total} · ${block.label} · ${piece?.name ?? ""}` : `Stitch 0 of ${total}`;
  const stop = plan.stops.findIndex((one) => one.row + 1 === row);
  hands.hidden = stop < 0;
  if (stop >= 0) hands.textContent = `Stop ${stop + 1}: ${plan.stops[stop].text}`;
  markRow(block, stop >= 0 ? plan.stops[stop] : null);
}

// The cut goes along with the needle, unless somebody has placed it.
function follow() {
  const row = sewing.row;
  if (row > 0) cut.follow(plan.xy[2 * row - 2], plan.xy[2 * row - 1]);
  else cut.follow(0, 0);
}

function placeCut() {
  cut.place(!cut.placed);
  follow();
}

// The needle goes on to a piece that is chosen before it is sewn.
function reach(piece) {
  const blocks = plan?.blocks.filter((one) => one.piece === piece && one.count > 1) ?? [];
  if (blocks.length && !sewing.playing && blocks[0].first >= sewing.row) sewing.go(blocks.at(-1).first + blocks.at(-1).count);
}

// Marks the row at the needle; the piece it belongs to is open while it sews, not once all is sewn.
function markRow(block, stop) {
  for (const piece of document.querySelectorAll(".stack-piece")) {
    piece.classList.toggle("sewing", piece.dataset.piece === block?.piece && sewing.row < plan.rows);
  }
  for (const row of document.querySelectorAll(".stack-row")) {
    row.classList.toggle("now", stop ? stop.keys.includes(row.dataset.unit) : row.dataset.unit === block?.key);
  }
}

// after: what to ask for once the plan has come, while it is drawn.
let newest = 0;
async function refresh(keepView, after) {
  const mine = ++newest;
  const slow = setTimeout(() => (waiting.hidden = false), 300);
  const atEnd = !plan || sewing.row >= plan.rows;
  try {
    const loaded = await loadPlan(canvas.dataset.plan + (alone ? "?of=one" : ""));
    if (mine !== newest) return; // a later edit is on its way
    plan = loaded;
    after?.();
    cloth.setPlan(plan, keepView);
    spots.plan = plan;
    guides.settle();
    strip.settle();
    needles.settle(true);
    cloth.choose(chosen());
    section.setPlan(plan);
    sewing.setPlan(plan, asked !== null ? Number(asked) || 0 : atEnd ? plan.rows : sewing.row);
    asked = null;
    cloth.drawNow();
    waiting.hidden = true;
  } catch (error) {
    waiting.hidden = false;
    waiting.textContent = error.message;
  } finally {
    clearTimeout(slow);
    document.body.dataset.plan = plan ? `${plan.stitches}` : "";
  }
}

// An edit is answered: told by its target, which stays, while the form that sent it may be gone by now.
document.body.addEventListener("htmx:beforeSwap", (event) => {
  const edited = event.detail.xhr.getResponseHeader("X-Edited");
  if (edited) refresh(true, () => refreshPanels(JSON.parse(edited)));
});
document.body.addEventListener("htmx:afterSettle", () => {
  const before = canvas.dataset.chosen;
  canvas.dataset.chosen = document.getElementById("lead")?.value ?? "";
  cloth.choose(chosen());
  if (canvas.dataset.chosen !== before) reach(canvas.dataset.chosen);
  if (plan) markRow(blockAt(plan, sewing.row - 1), null);
});

document.querySelector("#stack").parentElement.addEventListener("click", (event) => {
  const row = event.target.closest(".stack-row");
  if (!row || !plan) return;
  const block = plan.blocks.findLast((one) => one.key === row.dataset.unit); // of the last copy, where there are several
  const stop = plan.stops.find((one) => one.keys.includes(row.dataset.unit));
  if (block) sewing.go(block.first + block.count);
  else if (stop) sewing.go(stop.row + 1);
});

const values = document.getElementById("values");
values.addEventListener("click", (event) => {
  const button = event.target.closest("[data-spot]");
  if (button && plan) spots.begin(button.dataset.spot);
});
values.addEventListener("toggle", () => cloth.draw(), true);

for (const button of document.querySelectorAll("[data-look]")) {
  button.addEventListener("click", () => setLook(button.dataset.look));
}
function setLook(look) {
  cloth.setLook(look);
  for (const button of document.querySelectorAll("[data-look]")) button.setAttribute("aria-pressed", String(button.dataset.look === look));
}

// One design alone, or every copy in the hoop; what is sewn of the design so far is not what is sewn of the hooping.
const hooping = document.querySelector("[data-hooping]");
function showHooping() {
  alone = !alone;
  tellHooping();
  plan = null;
  refresh(true);
}
function tellHooping() {
  hooping?.setAttribute("aria-pressed", String(!alone));
  section.of = alone ? "one" : "all";
}
hooping?.addEventListener("click", showHooping);

const views = { in: () => cloth.zoom(1.4), out: () => cloth.zoom(1 / 1.4), fit: () => cloth.fit() };
for (const button of document.querySelectorAll("[data-view]")) button.addEventListener("click", () => plan && views[button.dataset.view]());

document.querySelector("[data-cut]").addEventListener("click", () => plan && placeCut());
for (const button of document.querySelectorAll("[data-cut-turn]")) button.addEventListener("click", () => plan && cut.turn(15 * Number(button.dataset.cutTurn)));

for (const control of document.querySelectorAll("button[data-sew]")) {
  control.addEventListener("click", () => {
    if (!plan) return;
    if (control.dataset.sew === "play") sewing.toggle();
    else sewing.step(control.dataset.sew);
  });
}
document.querySelector("select[data-sew]").addEventListener("change", (event) => (sewing.speed = Number(event.target.value)));
sewing.onPlay = (on) => document.querySelector(".play").classList.toggle("on", on);

const keys = {
  " ": () => sewing.toggle(),
  ArrowLeft: (event) => sewing.step(event.shiftKey ? "pass-back" : "stitch-back"),
  ArrowRight: (event) => sewing.step(event.shiftKey ? "pass-on" : "stitch-on"),
  PageUp: () => sewing.step("stop-back"),
  PageDown: () => sewing.step("stop-on"),
  Home: () => sewing.go(0),
  End: () => sewing.go(plan.rows),
  f: () => cloth.fit(),
  a: chooseAll,
  Escape: () => letGo() || cloth.outlineChosen(false),
  c: placeCut,
  h: () => hooping && showHooping(),
  ",": () => cut.turn(-15),
  ".": () => cut.turn(15),
  l: () => setLook({ cloth: "thread", thread: "needle", needle: "cloth" }[cloth.look]),
  "+": () => cloth.zoom(1.4),
  "-": () => cloth.zoom(1 / 1.4),
};
const shifts = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
document.addEventListener("keydown", (event) => {
  if (!plan || event.ctrlKey || event.metaKey || document.querySelector("dialog[open]")) return;
  if (spots.key(event) || guides.key(event) || needles.key(event)) return event.preventDefault();
  if (event.altKey) {
    if (!shifts[event.key]) return;
    event.preventDefault();
    return cut.shift(...shifts[event.key]);
  }
  // A button that was clicked, not reached by keys, does not keep Space to itself.
  const clicked = event.key === " " && event.target.closest("button:not(:focus-visible)");
  if (!clicked && event.target.closest("input, select, textarea, .side button, .top button, .top a")) return;
  const act = keys[event.key];
  if (!act) return;
  if (event.key === " " && !clicked && event.target.closest("button")) return;
  event.preventDefault();
  act(event);
});

alone = asked !== null; // rows that another stage names are those of the one design
tellHooping();
watchEyes((shown) => cloth.showOnly(shown));
refresh(false);
