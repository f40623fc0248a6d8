// Artwork: shapes chosen, moved, sized and turned by hand; every edit is computed by the server.

import { Board } from "./board.js";
import { Pen } from "./pen.js";

const pen = new Pen({ onDrawn: (numbers) => edit("pen", numbers), onTurned: penTurned });
const board = new Board({ onChoose: chosen, onEdit: edit, onPoints: pointsChosen, pen });
let reach = null; // as typed, kept while the page's parts are swapped
let nudge = { x: 0, y: 0, timer: 0 };

attach();
document.body.addEventListener("htmx:afterSettle", () => {
  if (document.getElementById("art") !== board.root) attach();
});

function attach() {
  const root = document.getElementById("art");
  board.attach(root);
  for (const form of root.querySelectorAll("form[data-do]")) {
    form.addEventListener("submit", (event) => {
      event.preventDefault();
      edit(form.dataset.do, Object.fromEntries(new FormData(form)));
    });
    if (["rename", "size"].includes(form.dataset.do)) form.addEventListener("change", (event) => {
      const { name, value } = event.target;
      edit(form.dataset.do, { [name]: value });
    });
  }
  for (const button of root.querySelectorAll("button[data-do]")) {
    button.addEventListener("click", () => edit(button.dataset.do, Object.fromEntries(new URLSearchParams(button.dataset.with || ""))));
  }
  for (const button of root.querySelectorAll("button[data-points]")) {
    button.addEventListener("click", () => edit(button.dataset.points, Object.fromEntries(new URLSearchParams(button.dataset.with || ""))));
  }
  for (const button of root.querySelectorAll("[data-pen]")) button.addEventListener("click", () => pen.turn(pen.on && pen.cut === (button.dataset.pen === "cut") ? false : true, button.dataset.pen === "cut"));
  root.querySelector("[data-fit]").addEventListener("click", () => board.fit());
  penTurned();
  const points = root.querySelector("#points");
  points.open = board.editing;
  points.addEventListener("toggle", () => points.open !== board.editing && board.editPoints(points.open));
  const field = root.querySelector("#reach");
  if (reach !== null) field.value = reach;
  field.addEventListener("input", () => (reach = field.value));
  field.form.addEventListener("submit", (event) => event.preventDefault());
  attachList(root);
  chosen(board.chosen);
}

// Sends one edit of what is chosen.
function edit(what, numbers = {}) {
  flushNudge(what !== "move");
  const form = document.getElementById("edit");
  form.replaceChildren();
  const add = (name, value) => {
    const field = document.createElement("input");
    field.type = "hidden";
    field.name = name;
    field.value = value;
    form.append(field);
  };
  add("do", what);
  for (const id of board.chosen) add("ids", id);
  if (board.editing) {
    for (const point of board.points) add("points", point);
    if (what === "move-points") add("reach", document.getElementById("reach").value);
  }
  if (["add-point", "remove-points", "straighten", "hole"].includes(what)) board.points = [];
  for (const [name, value] of Object.entries(numbers)) add(name, value);
  form.requestSubmit();
}

// Which pen is in hand, and how it is used.
function penTurned() {
  const root = document.getElementById("art");
  for (const button of root.querySelectorAll("[data-pen]")) button.setAttribute("aria-pressed", String(pen.on && pen.cut === (button.dataset.pen === "cut")));
  root.querySelector(".pen-hint").hidden = !pen.on;
  root.querySelector("#board").classList.toggle("drawing", pen.on);
}

// What can be done with the chosen points.
function pointsChosen(points, shown = 0, every = 0) {
  const root = document.getElementById("art");
  for (const button of root.querySelectorAll("button[data-points]")) {
    const rings = new Set(points.map((point) => point.split(".")[0]));
    if (button.dataset.leastPoints) button.disabled = points.length < 1;
    else if (button.dataset.exactPoints) button.disabled = points.length !== 2 || rings.size !== 1;
    else button.disabled = rings.size !== 1 || rings.has("0");
  }
  root.querySelector("#point-count").textContent = board.editing ? `${points.length} of ${every} chosen${shown < every ? `, ${shown} shown at this size` : ""}.` : "";
}

function attachList(root) {
  const items = [...root.querySelectorAll(".shape-list [role=option]")];
  for (const [nth, item] of items.entries()) {
    item.addEventListener("click", (event) => pick(item, event));
    item.addEventListener("keydown", (event) => {
      const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
      if (step && items[nth + step]) items[nth + step].focus();
      else if (event.key === " " || event.key === "Enter") pick(item, event);
      else return;
      event.preventDefault();
      event.stopPropagation();
    });
  }
}

function pick(item, event) {
  board.pick(item.dataset.id, event.shiftKey || event.ctrlKey || event.metaKey);
}

// Shows the tools for what is chosen, with its name and size.
function chosen(ids) {
  const root = document.getElementById("art");
  for (const item of root.querySelectorAll("[role=option]")) item.setAttribute("aria-selected", String(ids.includes(item.dataset.id)));
  root.querySelector('[data-pen="cut"]').disabled = ids.length !== 1;
  root.querySelector('[data-when="none"]').hidden = ids.length > 0;
  root.querySelector('[data-when="some"]').hidden = ids.length === 0;
  if (!ids.length) return;
  for (const part of root.querySelectorAll('[data-when="one"]')) part.hidden = ids.length !== 1;
  for (const button of root.querySelectorAll("[data-least]")) button.disabled = ids.length < Number(button.dataset.least);
  const box = board.boxOf(ids), inch = root.dataset.unit === "in";
  const shown = (mm) => (inch ? (mm / 25.4).toFixed(2) : mm.toFixed(1));
  root.querySelector("#shape-width").value = shown(box.right - box.left);
  root.querySelector("#shape-height").value = shown(box.bottom - box.top);
  root.querySelector("#chosen-title").textContent = ids.length === 1 ? "Shape" : `${ids.length} shapes`;
  root.querySelector("#shape-name").value = ids.length === 1 ? board.nameOf(ids[0]) : "";
}

// Nudges add up while keys are pressed and are sent once they rest.
function flushNudge(send) {
  clearTimeout(nudge.timer);
  const { x, y } = nudge;
  nudge = { x: 0, y: 0, timer: 0 };
  if (send && (x || y)) edit("move", { dx: `${x.toFixed(2)} mm`, dy: `${y.toFixed(2)} mm` });
}

const ways = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
document.addEventListener("keydown", (event) => {
  if (event.target.closest("input, select, textarea, summary, button, .top, dialog") || document.querySelector("dialog[open]") || event.ctrlKey || event.metaKey || event.altKey) return;
  if (pen.on && pen.key(event)) return event.preventDefault();
  const way = ways[event.key];
  if (way && board.editing) {
    const step = event.shiftKey ? 1 : 0.1;
    if (board.points.length) edit("move-points", { dx: `${way[0] * step} mm`, dy: `${way[1] * step} mm` });
  } else if (way && board.chosen.length) {
    const step = event.shiftKey ? 10 : 1;
    nudge.x += way[0] * step;
    nudge.y += way[1] * step;
    board.shift(nudge.x, nudge.y);
    clearTimeout(nudge.timer);
    nudge.timer = setTimeout(() => flushNudge(true), 450);
  } else if (event.key === "Delete" && board.editing) board.points.length && edit("remove-points");
  else if (event.key === "Delete" && board.chosen.length) edit("remove");
  else if (event.key === "p" && board.chosen.length === 1) document.getElementById("points").open = !board.editing;
  else if (event.key === "Escape" && board.editing) document.getElementById("points").open = false;
  else if (event.key === "Escape") board.choose([]);
  else if (event.key === "a") board.chooseAll();
  else if (event.key === "d" && board.chosen.length) edit("duplicate");
  else if (event.key === "n") pen.turn(true, false);
  else if (event.key === "f") board.fit();
  else return;
  event.preventDefault();
});
