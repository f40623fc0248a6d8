// Artwork: shapes chosen, moved, sized and turned by hand; every edit is computed by the server.

import { Board } from "./board.js";
import { Pen } from "./pen.js";
import { Stamp } from "./stamp.js";
import { attachTools, fillLive, keepTools, restoreTools, shownLength } from "./tools.js";

const CLIP = "velamen-copied-shapes";
const pen = new Pen({ onDrawn: (numbers) => edit("pen", numbers), onTurned: inHand });
const stamp = new Stamp({
  onPlaced: (die, { x, y }) => edit("die", { die, x: `${x.toFixed(3)} mm`, y: `${y.toFixed(3)} mm` }),
  onTurned: () => {
    if (stamp.on) pen.turn(false);
    else inHand();
    chosen(board.chosen);
  },
});
const board = new Board({ onChoose: choose, onEdit: edit, onPoints: pointsChosen, pen, stamp });
let nudge = { x: 0, y: 0, timer: 0, ids: [] };
let sending = false; // an edit is on its way; the next ones wait for its answer
let outcome = []; // what the last answer left chosen
let picked = false; // whether somebody has chosen anew since the edit on its way was sent
let undoing = ""; // "undo" or "redo", once all edits are answered
const waiting = []; // edits with what they are of; of whatever the edit on its way leaves chosen where that is null
let kept = null; // what was typed into the tools, while the page's parts are swapped

attach();
document.body.addEventListener("htmx:beforeSwap", (event) => {
  if (event.detail.target.id === "art") kept = { ...keepTools(document.getElementById("art")), refused: event.detail.xhr.status === 422 };
});
// The board is taken on at once with the swap, so that no key goes to the one that is gone; edits wait
// until htmx has taken on the new form, which comes a little later.
document.body.addEventListener("htmx:afterSwap", () => {
  const root = document.getElementById("art");
  if (root && root !== board.root) attach();
});
document.body.addEventListener("htmx:afterSettle", (event) => {
  if (event.target !== board.root) return; // one answer settles several parts
  sending = false;
  if (waiting.length) edit(...waiting.shift());
  else if (undoing) document.querySelector(`[data-key="${undoing}"]`).click();
});
// Undo and redo come after the edits that were asked for before them, even where there is nothing else to undo yet.
function afterEdits(event, which) {
  flushNudge(true);
  if (!sending) return;
  event.preventDefault();
  event.stopImmediatePropagation();
  undoing = which;
}
document.addEventListener("submit", (event) => event.target.id === "history" && afterEdits(event, event.submitter.dataset.key), true);
document.addEventListener("keydown", (event) => {
  const undo = (event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z" && !event.target.closest("input, select, textarea");
  if (undo) afterEdits(event, event.shiftKey ? "redo" : "undo");
}, true);
document.body.addEventListener("htmx:afterRequest", (event) => {
  if (event.detail.failed && event.detail.xhr.status !== 422) sending = false;
});

function attach() {
  const root = document.getElementById("art");
  const own = picked ? board.chosen : [];
  if (kept) restoreTools(root, kept, kept.refused);
  board.attach(root);
  outcome = board.chosen;
  attachTools(root, edit, () => board.chosen);
  for (const button of root.querySelectorAll("button[data-points]")) {
    button.addEventListener("click", () => edit(button.dataset.points, Object.fromEntries(new URLSearchParams(button.dataset.with || ""))));
  }
  for (const button of root.querySelectorAll("[data-pen]")) button.addEventListener("click", () => pen.turn(!(pen.on && pen.kind === button.dataset.pen), button.dataset.pen));
  root.querySelector("[data-fit]").addEventListener("click", () => board.fit());
  root.querySelector("[data-snap]").addEventListener("click", snapTurned);
  root.querySelector("[data-measure]").addEventListener("click", () => measuring(!board.measuring));
  root.querySelector("[data-copy-shapes]").addEventListener("click", copy);
  stamp.attach(root);
  inHand();
  snapShown();
  const points = root.querySelector("#points");
  points.open = board.editing;
  points.addEventListener("toggle", () => points.open !== board.editing && board.editPoints(points.open));
  attachList(root);
  chosen(board.chosen);
  if (kept?.refused) {
    restoreTools(root, kept, true);
    pen.resume();
  }
  pen.drawn = kept = null;
  const left = own.filter((id) => board.path(id)); // what was chosen meanwhile stays chosen
  if (left.length) board.choose(left);
  picked = left.length > 0 && waiting.length > 0; // the answers to come are of earlier edits
}

// Somebody chooses: what was nudged before is sent for what it was.
function choose(ids) {
  if (nudge.timer && nudge.ids?.join() !== ids.join()) flushNudge(true);
  picked = sending;
  chosen(ids);
}

// What an edit asked for now is of.
function subject() {
  return sending && !picked ? null : [...board.chosen];
}

// Sends one edit of what is chosen when it is asked for, whatever is chosen when its turn comes.
function edit(what, numbers = {}, ids = subject()) {
  if (board.editing && !numbers.points) numbers = { ...numbers, points: board.points.join(" ") };
  if (sending) return waiting.push([what, numbers, ids]);
  flushNudge(what !== "move");
  if (sending) return waiting.push([what, numbers, ids]);
  sending = true;
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
  add("ids", (ids ?? outcome).join(" "));
  if (what === "move-points") add("reach", board.root.querySelector('[name="reach"]').value);
  if (["add-point", "remove-points", "straighten", "hole", "split"].includes(what)) board.points = [];
  for (const [name, value] of Object.entries(numbers)) add(name, value);
  form.requestSubmit();
}

// What is in hand, pen or die, and how it is used.
function inHand() {
  const root = document.getElementById("art");
  if (pen.on && stamp.on) return stamp.turn("");
  if (board.inHand && board.measuring) measuring(false);
  stamp.shown(root);
  for (const button of root.querySelectorAll("[data-pen]")) button.setAttribute("aria-pressed", String(pen.on && pen.kind === button.dataset.pen));
  board.seeThrough();
  showHint(root, stamp.on ? "stamp" : pen.on ? (pen.open ? "line" : pen.kind || "pen") : board.measuring ? "measure" : "");
}

function showHint(root, which) {
  root.querySelector(".pen-hint").hidden = !which;
  for (const hint of root.querySelectorAll("[data-hint]")) hint.hidden = hint.dataset.hint !== which;
  document.querySelector("main").classList.toggle("drawing", Boolean(which)); // stays while its parts are swapped
}

function measuring(on) {
  board.measuring = on;
  if (on && pen.on) pen.turn(false);
  if (on && stamp.on) stamp.turn("");
  board.root.querySelector("[data-measure]").setAttribute("aria-pressed", String(on));
  showHint(board.root, on ? "measure" : "");
  board.mark();
}

function snapTurned() {
  board.snap.on = !board.snap.on;
  snapShown();
}

function snapShown() {
  document.querySelector("[data-snap]").setAttribute("aria-pressed", String(board.snap.on));
}

// Copied shapes stay with the browser, so that any job of the shop can take them.
async function copy() {
  if (!board.chosen.length) return;
  const answer = await fetch(`${board.root.dataset.copy}?ids=${encodeURIComponent(board.chosen.join(" "))}`);
  if (!answer.ok) return;
  localStorage.setItem(CLIP, await answer.text());
  board.root.querySelector("#board-at").textContent = `${board.chosen.length} copied: V puts them in, here or in another job.`;
}

function paste() {
  const clip = localStorage.getItem(CLIP);
  if (clip) edit("paste", { clip });
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
  for (const count of root.querySelectorAll(".point-count")) count.textContent = board.editing ? `${points.length} of ${every} chosen${shown < every ? `, ${shown} shown at this size` : ""}.` : "";
}

function attachList(root) {
  const items = [...root.querySelectorAll(".shape-list [role=option]")];
  for (const [nth, item] of items.entries()) {
    item.addEventListener("click", (event) => pick(item, event));
    item.addEventListener("keydown", (event) => {
      const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
      if (step && board.chosen.length) return; // what is chosen is nudged
      if (step && items[nth + step]) items[nth + step].focus();
      else if (event.key === " " || event.key === "Enter") pick(item, event);
      else return;
      event.preventDefault();
      event.stopPropagation();
    });
  }
}

function pick(item, event) {
  board.pick(item.dataset.id, event.shiftKey || event.ctrlKey || event.metaKey, true);
}

// Shows the tools for what is chosen, with its name, cloth and size.
function chosen(ids) {
  const root = document.getElementById("art");
  for (const item of root.querySelectorAll("[role=option]")) item.setAttribute("aria-selected", String(ids.includes(item.dataset.id)));
  root.querySelector('[data-pen="cut"]').disabled = ids.length !== 1;
  if (pen.kind === "cut" && ids.length !== 1) pen.turn(false);
  const paths = ids.map((id) => board.path(id)), areas = paths.filter((path) => !path.dataset.open), lines = paths.length - areas.length;
  const maker = new Set(paths.map((path) => path.dataset.maker || ""));
  const live = maker.size === 1 && !maker.has("") ? fillLive(root, [...maker][0], Boolean(kept?.refused)) : "";
  const one = ids.length === 1, nodes = one && Boolean(paths[0].dataset.nodes);
  const when = { none: !ids.length || stamp.on, some: ids.length && !stamp.on, one, area: areas.length, line: lines && !areas.length, nodes, plain: one && !nodes, text: live === "text", around: live === "around", die: one && paths[0].dataset.die };
  for (const part of root.querySelectorAll("[data-when]")) part.hidden = !when[part.dataset.when];
  root.querySelector("#points").hidden = root.querySelector("#tool-lines").hidden = !one || Boolean(paths[0]?.dataset.open);
  if (!ids.length) return;
  for (const button of root.querySelectorAll("[data-least]")) button.disabled = ids.length < Number(button.dataset.least);
  for (const button of root.querySelectorAll("[data-mark]")) {
    const on = paths.every((path) => path.dataset[button.dataset.mark]);
    button.textContent = button.dataset.mark === "locked" ? (on ? "Unlock" : "Lock") : on ? "Show" : "Hide";
    button.dataset.now = on ? button.dataset.off : button.dataset.do;
  }
  const grouped = root.querySelector('[data-do="group"]'), groups = new Set(paths.map((path) => path.dataset.group || path.dataset.id));
  const together = ids.length > 1 && groups.size === 1 && !live;
  grouped.textContent = together ? "Ungroup" : "Group";
  grouped.dataset.now = together ? "ungroup" : "group";
  root.querySelector("[data-lines]").disabled = !paths.some((path) => path.dataset.lines);
  const box = board.boxOf(ids), cloths = new Set(areas.map((path) => path.dataset.cloth));
  root.querySelector("#shape-width").value = shownLength(box.right - box.left, board.inch);
  root.querySelector("#shape-height").value = shownLength(box.bottom - box.top, board.inch);
  for (const field of root.querySelectorAll("#shape-width, #shape-height")) field.disabled = paths.some((path) => path.dataset.die);
  root.querySelector("#shape-cloth").value = cloths.size === 1 ? [...cloths][0] : "";
  root.querySelector("#chosen-title").textContent = one ? (paths[0].dataset.open ? "Line" : "Shape") : `${ids.length} shapes`;
  root.querySelector("#shape-name").value = one ? board.nameOf(ids[0]) : "";
  root.querySelector("#board-at").textContent = ids.length === 2 ? gapBetween(ids) : `Middle → ${shownLength((box.left + box.right) / 2, board.inch)} ↓ ${shownLength((box.top + box.bottom) / 2, board.inch)} ${root.dataset.unit}`;
}

function gapBetween([one, other]) {
  const a = board.boxOf([one]), b = board.boxOf([other]);
  const across = Math.max(a.left, b.left) - Math.min(a.right, b.right), down = Math.max(a.top, b.top) - Math.min(a.bottom, b.bottom);
  const shown = (gap) => (gap >= 0 ? shownLength(gap, board.inch) : `overlap ${shownLength(-gap, board.inch)}`);
  return `Boxes apart ↔ ${shown(across)} · ↕ ${shown(down)} ${board.root.dataset.unit}`;
}

// Nudges add up while keys are pressed and are sent once they rest.
function flushNudge(send) {
  clearTimeout(nudge.timer);
  const { x, y, ids, letter } = nudge;
  nudge = { x: 0, y: 0, timer: 0, ids: [] };
  if (!send || !(x || y)) return;
  if (letter) edit("kern", { dx: `${(x / 5).toFixed(2)} mm` }, ids);
  else edit("move", { dx: `${x.toFixed(2)} mm`, dy: `${y.toFixed(2)} mm` }, ids);
}

function nudged(way, event) {
  const step = event.shiftKey ? 10 : event.altKey ? 0.1 : 1;
  if (!nudge.timer) Object.assign(nudge, { ids: subject(), letter: board.letter });
  nudge.x += way[0] * step;
  nudge.y += way[1] * step;
  if (nudge.letter) board.shift(nudge.x / 5, 0);
  else board.shift(nudge.x, nudge.y);
  clearTimeout(nudge.timer);
  nudge.timer = setTimeout(() => flushNudge(true), 450);
}

const ways = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
const press = (selector) => {
  const button = board.root.querySelector(selector);
  if (!button.disabled) button.click();
};
const keys = {
  a: () => board.chooseAll(),
  c: copy,
  d: () => board.chosen.length && edit("duplicate"),
  f: () => board.fit(),
  g: () => board.chosen.length > 1 && press('[data-do="group"]'),
  h: () => board.chosen.length && press('[data-do="hide"]'),
  k: () => board.chosen.length && press('[data-do="lock"]'),
  m: () => measuring(!board.measuring),
  n: () => pen.turn(true),
  o: () => pen.turn(true, "line"),
  p: () => {
    if (board.chosen.length !== 1 || board.path(board.chosen[0]).dataset.open) return;
    const points = document.getElementById("points");
    points.open = !board.editing;
    points.scrollIntoView({ block: "nearest" });
  },
  s: snapTurned,
  v: paste,
  Delete: () => (board.editing ? board.points.length && edit("remove-points") : board.chosen.length && edit("remove")),
  Escape: () => {
    if (board.measuring) measuring(false);
    else if (board.editing) document.getElementById("points").open = false;
    else board.choose([]);
  },
};
document.addEventListener("keydown", (event) => {
  const way = ways[event.key];
  const lets = event.key === "Escape" && board.inHand; // wherever focus is, that of its own button too
  if (event.target.closest(`input, select, textarea, .top, dialog${way || lets ? "" : ", summary, button"}`) || document.querySelector("dialog[open]") || event.ctrlKey || event.metaKey) return;
  if (event.altKey && !way) return;
  if ((pen.on && pen.key(event)) || (stamp.on && stamp.key(event))) return event.preventDefault();
  if (way && board.editing) {
    const step = event.shiftKey ? 1 : 0.1;
    if (board.points.length) edit("move-points", { dx: `${way[0] * step} mm`, dy: `${way[1] * step} mm` });
  } else if (way && board.chosen.length) nudged(way, event);
  else if (keys[event.key]) keys[event.key]();
  else return;
  event.preventDefault();
});
