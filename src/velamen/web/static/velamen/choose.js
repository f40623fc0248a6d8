// Pieces chosen on Build: one whose values are shown, and others beside it that every edit reaches too.

import { forget, isTyped, waitsFor } from "./hold.js";

const canvas = document.getElementById("cloth");

// What every request of Build carries: the revision it was made from, the pieces beside, how the Stack is listed.
export function carried() {
  return Object.fromEntries([...document.querySelectorAll(".carried")].map((one) => [one.name, one.value]));
}

export function chosen() {
  const also = document.getElementById("also").value;
  return [canvas.dataset.chosen, ...also.split(",")].filter(Boolean);
}

function show([lead, ...also]) {
  if (lead !== canvas.dataset.chosen) forget();
  asked = [lead, ...also];
  htmx.ajax("GET", canvas.dataset.pieceUrl.replace("PIECE", lead), {
    target: "#values",
    values: { ...carried(), also: also.join(",") },
  });
}

// Parts of the panels stay open from one answer to the next; what is in them comes once they are opened.
document.addEventListener("toggle", (event) => {
  const part = event.target.dataset?.part;
  const field = document.getElementById("opened");
  if (!part || !field) return;
  const open = new Set(field.value.split(",").filter(Boolean));
  if (open.has(part) === event.target.open) return;
  if (event.target.open) open.add(part);
  else open.delete(part);
  field.value = [...open].join(",");
  if (event.target.open && part !== "add") show(chosen());
}, true);

// A stitch or a motif is chosen: its list has done its work.
document.addEventListener("change", (event) => {
  const list = event.target.type === "radio" && event.target.closest("details.sewn-as");
  if (list) list.open = false;
});

// The pieces that were asked for last, while their panels are on their way: an edit that is answered meanwhile keeps
// to them.
let asked = null;
const pieceOf = (config) => (config?.verb === "get" && config.path.match(/\/pieces\/([^/?]+)\//)?.[1]) || null;
document.addEventListener("htmx:beforeRequest", (event) => {
  const piece = pieceOf(event.detail.requestConfig);
  if (piece && asked?.[0] !== piece) asked = [piece];
});
document.addEventListener("htmx:afterSettle", (event) => {
  if (!asked) return;
  const now = chosen(), gone = pieceOf(event.detail.requestConfig) === asked[0] && now[0] !== asked[0];
  if (gone || now.join() === asked.join()) asked = null;
});

// Panels that come while an edit is on its way would take its form away, and those asked for before an edit was answered
// may show what was before it, its revision too: those that follow the edit are shown instead.
let clock = 0, answered = 0;
document.addEventListener("htmx:beforeSend", (event) => (event.detail.xhr.asked = ++clock));
document.addEventListener("htmx:beforeSwap", (event) => {
  const { requestConfig, target, xhr } = event.detail;
  if (requestConfig.verb !== "get") return void (answered = ++clock);
  const panels = target.id === "values";
  if (xhr.asked < answered || (panels && target.querySelector(".htmx-request"))) event.detail.shouldSwap = false;
  else if (panels && waitsFor(() => show(asked ?? chosen()))) event.detail.shouldSwap = false;
});

// A part of the panels that has done its work.
function shut(part) {
  const field = document.getElementById("opened");
  field.value = field.value.split(",").filter((one) => one !== part).join(",");
}

// The panels as an edit left them. What somebody is typing meanwhile stays; its own edit brings them anew.
let stale = null;
export function refreshPanels({ piece, alone }) {
  const typed = isTyped();
  if (alone) shut("add");
  stale = typed ? { piece, alone } : null;
  const now = asked ?? chosen();
  if (!typed) show(alone || !now.length ? [piece] : now);
}
document.addEventListener("focusout", () => stale && setTimeout(() => stale && refreshPanels(stale), 0));

// how: "" for it alone, "too" to add or let go, "upto" for all from the leading one to it in the Stack.
export function choose(piece, how) {
  const now = chosen();
  if (how === "too") {
    const next = now.includes(piece) ? now.filter((one) => one !== piece) : [...now, piece];
    if (next.length) show(next);
  } else if (how === "upto") {
    const order = heads().map((one) => one.dataset.piece);
    const [low, high] = [order.indexOf(now[0]), order.indexOf(piece)].sort((one, other) => one - other);
    if (low >= 0) show([now[0], ...order.slice(low, high + 1).filter((one) => one !== now[0])]);
  } else show([piece]);
}

export function chooseAll() {
  const order = heads().map((one) => one.dataset.piece);
  if (order.length > 1) show([chosen()[0], ...order.filter((one) => one !== chosen()[0])]);
}

// Back to one piece; false where there is but one.
export function letGo() {
  const several = chosen().length > 1;
  if (several) show(chosen().slice(0, 1));
  return several;
}

// With the keys of the keyboard held down, what a press on a piece asks for.
export function howOf(event) {
  return event.ctrlKey || event.metaKey ? "too" : event.shiftKey ? "upto" : "";
}

function heads() {
  return [...document.querySelectorAll(".stack-head")];
}

// Caught before the row asks for its own piece alone.
const frame = document.querySelector("main");
function caught(event) {
  const head = event.target.closest(".stack-head");
  const how = howOf(event);
  if (!head || !how) return;
  event.preventDefault();
  event.stopPropagation();
  choose(head.dataset.piece, how);
}
frame.addEventListener("click", caught, true);
frame.addEventListener("keydown", (event) => ["Enter", " "].includes(event.key) && caught(event), true);
