// Parts of a stitch file: chosen on the picture or in the list, replayed, each given what it becomes.

import { loadPlan } from "./plan.js";
import { SewLine } from "./sewline.js";
import { rowsPainted } from "./thread.js";

const FAINT = 0.16, MARGIN = 24, NEAR = 2.0; // mm from a stitch that a click still means
const form = document.getElementById("stitch-parts"), canvas = document.getElementById("stitched");
const context = canvas.getContext("2d"), at = document.getElementById("stitched-at"), fileName = at.textContent;
const rows = new Map([...form.querySelectorAll(".stitch-list li")].map((row) => [row.dataset.nth, row]));
const proposals = [...form.querySelectorAll(".found")], repeat = document.getElementById("one-repeat");
const colours = JSON.parse(document.getElementById("thread-colours").textContent);
const inch = form.dataset.unit === "in" ? 25.4 : 1, ends = ["repeat_from", "repeat_to"].map((name) => form.elements[name]);
let plan = null, view = null, frame = 0, held = null, dragged = false;
const sewing = new SewLine(document.getElementById("sewline"), () => draw());

sewing.onPlay = (on) => form.querySelector(".play").classList.toggle("playing", on);

// What each part becomes, and what goes to the server.

const boxOf = (row) => row.querySelector("input"), wayOf = (row) => row.querySelector("select");
const chosen = () => [...rows.values()].filter((row) => boxOf(row).checked);

function clothOf(row) {
  const of = row.dataset.of;
  return of === undefined ? "" : form.elements[`cloth-${of}`].value;
}

function told() {
  const picked = chosen(), buttons = form.querySelectorAll("[data-way]");
  const free = picked.filter((row) => !clothOf(row));
  for (const row of rows.values()) {
    const cloth = Boolean(clothOf(row));
    row.classList.toggle("dropped", !cloth && wayOf(row).value === "drop");
    row.classList.toggle("chosen", boxOf(row).checked);
    wayOf(row).hidden = cloth;
    row.querySelector(".in-cloth").hidden = !cloth;
  }
  const count = picked.length;
  document.getElementById("parts-chosen").textContent = count ? `${count} part${count === 1 ? "" : "s"}` : "No part chosen";
  for (const button of buttons) {
    button.disabled = !free.some((row) => [...wayOf(row).options].some((one) => one.value === button.dataset.way));
  }
  const cuts = count && picked.every((row) => "cut" in row.dataset);
  for (const [id, url] of [["cut-svg", form.dataset.cutSvg], ["cut-dxf", form.dataset.cutDxf]]) {
    const link = document.getElementById(id);
    link.classList.toggle("disabled", !cuts);
    link.setAttribute("aria-disabled", String(!cuts));
    if (cuts) link.href = `${url}${url.includes("?") ? "&" : "?"}parts=${picked.map((row) => row.dataset.nth).join("+")}`;
    else link.removeAttribute("href");
  }
  const ways = [...rows.values()].filter((row) => !clothOf(row) && wayOf(row).value !== "drop");
  const cloths = proposals.filter((one) => form.elements[`cloth-${one.dataset.proposal}`].value);
  form.elements.ways.value = ways.map((row) => `${row.dataset.nth}:${wayOf(row).value}`).join(" ");
  form.elements.cloths.value = cloths.map((one) => `${one.dataset.proposal}:${form.elements[`cloth-${one.dataset.proposal}`].value}`).join(" ");
  const take = document.getElementById("take-parts"), parts = ways.length + cloths.length;
  take.disabled = !parts;
  take.textContent = cloths.length && !ways.length ? `Bring in ${cloths.length} appliqué${cloths.length === 1 ? "" : "s"}` : "Bring in";
  draw();
}

form.addEventListener("change", (event) => {
  if (event.target.dataset.colour !== undefined) threaded();
  if (event.target.dataset.sew === "speed") sewing.speed = Number(event.target.value);
  told();
});

form.addEventListener("click", (event) => {
  const button = event.target.closest("button");
  if (!button) return;
  if ("showParts" in button.dataset) {
    const parts = button.closest(".found").dataset.parts.split(" ");
    for (const [key, row] of rows) boxOf(row).checked = parts.includes(key);
    told();
  } else if ("oneColour" in button.dataset) {
    const [first, ...others] = form.querySelectorAll("[data-colour]");
    for (const select of others) select.value = first.value;
    threaded();
  } else if (button.dataset.way) {
    for (const row of chosen()) {
      const select = wayOf(row);
      if (!clothOf(row) && [...select.options].some((one) => one.value === button.dataset.way)) select.value = button.dataset.way;
    }
    told();
  } else if (button.dataset.view) zoom(button.dataset.view);
  else if (button.dataset.sew === "play") sewing.toggle();
  else if (button.dataset.sew) sewing.step(button.dataset.sew);
});

// The thread of every colour of the file, as chosen.
function threaded() {
  const keys = form.elements.threads.value.split(" ");
  for (const select of form.querySelectorAll("[data-colour]")) keys[Number(select.dataset.colour)] = select.value;
  form.elements.threads.value = keys.join(" ");
  coloured();
  draw();
}

// Every part in the colour of its thread.
function coloured() {
  const keys = form.elements.threads.value.split(" ");
  for (const row of rows.values()) row.querySelector("svg").style.color = colours[keys[Number(row.dataset.thread)]];
  for (const block of plan?.blocks ?? []) block.colour = colours[keys[block.thread]];
  for (const select of form.querySelectorAll("[data-colour]")) {
    select.parentElement.querySelector("rect").setAttribute("fill", colours[select.value]);
  }
  sewing.draw();
}

function choose(nth, too) {
  for (const [key, row] of rows) boxOf(row).checked = key === nth ? !(too && boxOf(row).checked) : too && boxOf(row).checked;
  rows.get(nth)?.scrollIntoView({ block: "nearest" });
  told();
}

// The picture.

function fit() {
  const [left, top, right, bottom] = plan.box, { width, height } = canvas.getBoundingClientRect();
  const scale = Math.min((width - 2 * MARGIN) / Math.max(right - left, 1), (height - 2 * MARGIN) / Math.max(bottom - top, 1));
  view = { x: (left + right) / 2, y: (top + bottom) / 2, scale, fitted: true };
  draw();
}

function zoom(how, factor = 1.3, spot = null) {
  if (!plan) return;
  if (how === "fit") return fit();
  const { width, height } = canvas.getBoundingClientRect(), place = spot ?? { x: width / 2, y: height / 2 };
  const before = toMm(place);
  view.scale = Math.min(Math.max(view.scale * (how === "in" ? factor : 1 / factor), 0.3), 120);
  const after = toMm(place);
  view.x += before.x - after.x;
  view.y += before.y - after.y;
  view.fitted = false;
  draw();
}

function toMm(spot) {
  const { width, height } = canvas.getBoundingClientRect();
  return { x: (spot.x - width / 2) / view.scale + view.x, y: (spot.y - height / 2) / view.scale + view.y };
}

function draw() {
  if (frame || !plan || !view) return;
  frame = requestAnimationFrame(() => {
    frame = 0;
    paint();
  });
}

function paint() {
  const ratio = window.devicePixelRatio || 1, { width, height } = canvas.getBoundingClientRect();
  canvas.width = Math.round(width * ratio);
  canvas.height = Math.round(height * ratio);
  const scale = view.scale * ratio;
  context.setTransform(scale, 0, 0, scale, canvas.width / 2 - view.x * scale, canvas.height / 2 - view.y * scale);
  const one = toMm({ x: 0, y: 0 }), other = toMm({ x: width, y: height });
  const seen = { left: one.x, top: one.y, right: other.x, bottom: other.y };
  const some = chosen().length > 0, dropped = new Set(), faint = new Set();
  for (const [key, row] of rows) {
    if (!clothOf(row) && wayOf(row).value === "drop") dropped.add(key);
    if (some && !boxOf(row).checked) faint.add(key);
  }
  context.globalAlpha = FAINT;
  for (const _ of rowsPainted(context, plan, 0, sewing.row, "thread", view.scale, seen, (key) => dropped.has(key) || faint.has(key)));
  context.globalAlpha = 1;
  for (const _ of rowsPainted(context, plan, 0, sewing.row, "thread", view.scale, seen, (key) => !dropped.has(key) && !faint.has(key)));
  paintLines(seen);
}

// Where one repeat is cut.
function linesAt() {
  return repeat.open ? ends.map((field) => Number(field.value) * inch) : [];
}

function paintLines(seen) {
  context.strokeStyle = "#b3392f";
  context.lineWidth = 1.5 / view.scale;
  for (const place of linesAt()) {
    context.beginPath();
    if (form.elements.upright.checked) context.moveTo(seen.left, place), context.lineTo(seen.right, place);
    else context.moveTo(place, seen.top), context.lineTo(place, seen.bottom);
    context.stroke();
  }
}

repeat.addEventListener("toggle", () => {
  if (repeat.open && !ends[0].value) {
    const [left, top, right, bottom] = plan.box;
    form.elements.upright.checked = bottom - top > right - left;
    setLines();
  }
  draw();
});
form.elements.upright.addEventListener("change", setLines);
for (const field of ends) field.addEventListener("input", draw);

function setLines() {
  const [left, top, right, bottom] = plan.box, [low, high] = form.elements.upright.checked ? [top, bottom] : [left, right];
  ends[0].value = ((low + (high - low) / 3) / inch).toFixed(inch > 1 ? 3 : 1);
  ends[1].value = ((low + (2 * (high - low)) / 3) / inch).toFixed(inch > 1 ? 3 : 1);
  draw();
}

// The pointer.

const spotOf = (event) => ({ x: event.offsetX, y: event.offsetY });

canvas.addEventListener("pointerdown", (event) => {
  if (!plan) return;
  const spot = spotOf(event), place = toMm(spot), along = form.elements.upright.checked ? place.y : place.x;
  const line = linesAt().findIndex((one) => Math.abs(one - along) * view.scale < 6);
  held = { spot, x: view.x, y: view.y, line };
  dragged = false;
  canvas.setPointerCapture(event.pointerId);
});
canvas.addEventListener("pointermove", (event) => {
  if (!held) return;
  const spot = spotOf(event);
  dragged ||= Math.hypot(spot.x - held.spot.x, spot.y - held.spot.y) > 4;
  if (!dragged) return;
  if (held.line >= 0) {
    const place = toMm(spot);
    ends[held.line].value = ((form.elements.upright.checked ? place.y : place.x) / inch).toFixed(inch > 1 ? 3 : 1);
  } else {
    view.x = held.x - (spot.x - held.spot.x) / view.scale;
    view.y = held.y - (spot.y - held.spot.y) / view.scale;
    view.fitted = false;
  }
  draw();
});
canvas.addEventListener("pointerup", (event) => {
  if (held && !dragged && held.line < 0) {
    const nth = partAt(toMm(spotOf(event)));
    if (nth !== null) choose(nth, event.shiftKey || event.ctrlKey || event.metaKey);
    else if (!event.shiftKey) choose("", false);
  }
  held = null;
});
canvas.addEventListener("wheel", (event) => {
  event.preventDefault();
  zoom(event.deltaY < 0 ? "in" : "out", 1.15, spotOf(event));
}, { passive: false });

// The part whose stitch lies nearest to a place, what was sewn last first among equals.
function partAt(place) {
  let best = NEAR, found = null;
  for (const block of plan.blocks) {
    if (!rows.has(block.piece) || block.first >= sewing.row) continue;
    for (let row = Math.max(block.first, 1); row < Math.min(block.first + block.count, sewing.row); row++) {
      const far = distance(place, plan.xy[2 * row - 2], plan.xy[2 * row - 1], plan.xy[2 * row], plan.xy[2 * row + 1]);
      if (far <= best) [best, found] = [Math.max(far, 0.2), block.piece];
    }
  }
  return found;
}

function distance(place, x0, y0, x1, y1) {
  const dx = x1 - x0, dy = y1 - y0, share = Math.min(Math.max(((place.x - x0) * dx + (place.y - y0) * dy) / (dx * dx + dy * dy || 1), 0), 1);
  return Math.hypot(place.x - x0 - share * dx, place.y - y0 - share * dy);
}

document.addEventListener("keydown", (event) => {
  if (event.target.closest?.("input, select, textarea") || event.ctrlKey || event.metaKey || event.altKey || !plan) return;
  const steps = { ArrowLeft: event.shiftKey ? "pass-back" : "stitch-back", ArrowRight: event.shiftKey ? "pass-on" : "stitch-on" };
  if (steps[event.key]) sewing.step(steps[event.key]);
  else if (event.key === " " && !event.target.closest?.("button, summary, a")) sewing.toggle();
  else if (event.key === "f") fit();
  else if (event.key === "+") zoom("in");
  else if (event.key === "-") zoom("out");
  else if (event.key === "Escape") choose("", false);
  else return;
  event.preventDefault();
});

new ResizeObserver(() => (view?.fitted ? fit() : draw())).observe(canvas);

loadPlan(canvas.dataset.rows).then((found) => {
  plan = found;
  document.getElementById("waiting").hidden = true;
  fit();
  coloured();
  sewing.setPlan(plan, plan.rows);
  document.body.dataset.plan = plan.sewn[plan.rows];
  at.textContent = fileName;
  told();
}, (error) => {
  document.getElementById("waiting").textContent = error.message;
});
