// The Stack under hand and keys: pieces and passes dragged or moved, pieces hidden or shown alone.

import { carried } from "./choose.js";

// The Stack itself is put in anew with every answer, so its frame listens.
const frame = document.querySelector("main");
const hidden = new Set();
let solo = "";
let told = " ";

// Rows stand with the last sewn on top, places count from the first sewn.
function send(values) {
  const list = document.querySelector(".stack-list");
  htmx.ajax("POST", list.dataset.move, { target: "#values", values: { ...carried(), ...values } });
}

function heads() {
  return [...document.querySelectorAll(".stack-piece")];
}

frame.addEventListener("keydown", (event) => {
  if (!event.altKey || !["ArrowUp", "ArrowDown"].includes(event.key)) return;
  const button = event.target.closest(".stack-head, .stack-row");
  if (!button) return;
  event.preventDefault();
  event.stopPropagation();
  const by = event.key === "ArrowUp" ? 1 : -1;
  send(button.dataset.unit ? { do: "move-pass", unit: button.dataset.unit, by } : { do: "move", piece: button.dataset.piece, by });
});

// A pass is dropped on a pass or hand step, a piece on a piece.
let dragged = null;
function dropAt(event) {
  const over = event.target.closest(dragged?.dataset.unit ? ".stack-row" : ".stack-piece");
  return dragged && over !== dragged ? over : null;
}
frame.addEventListener("dragstart", (event) => {
  dragged = event.target.closest(".stack-row, .stack-piece");
  event.dataTransfer.setData("text/plain", dragged?.dataset.unit ?? dragged?.dataset.piece ?? "");
  dragged?.classList.add("dragged");
});
frame.addEventListener("dragover", (event) => {
  const over = dropAt(event);
  for (const one of document.querySelectorAll(".over-drop")) one.classList.remove("over-drop");
  if (!over) return;
  event.preventDefault();
  over.classList.add("over-drop");
});
frame.addEventListener("drop", (event) => {
  const over = dropAt(event);
  if (!over) return;
  event.preventDefault();
  if (dragged.dataset.unit) return send({ do: "move-pass", unit: dragged.dataset.unit, onto: over.dataset.unit });
  const rows = heads();
  send({ do: "move", piece: dragged.dataset.piece, place: rows.length - 1 - rows.indexOf(over) });
});
frame.addEventListener("dragend", () => {
  dragged = null;
  for (const one of document.querySelectorAll(".dragged, .over-drop")) one.classList.remove("dragged", "over-drop");
});

// What is looked at: some pieces hidden, or one alone. It changes nothing that is sewn.
export function watchEyes(show) {
  const tell = () => {
    for (const button of document.querySelectorAll("[data-eye]")) {
      const own = button.dataset.piece;
      button.setAttribute("aria-pressed", String(button.dataset.eye === "hide" ? hidden.has(own) : solo === own));
    }
    for (const piece of heads()) piece.classList.toggle("gone", hidden.has(piece.dataset.piece) || (solo !== "" && solo !== piece.dataset.piece));
    const now = `${[...hidden].join()} ${solo}`;
    if (now === told) return; // what is looked at has not changed
    told = now;
    show((piece) => !hidden.has(piece) && (solo === "" || solo === piece));
  };
  frame.addEventListener("click", (event) => {
    const button = event.target.closest("[data-eye]");
    if (!button) return;
    const own = button.dataset.piece;
    if (button.dataset.eye === "solo") solo = solo === own ? "" : own;
    else if (!hidden.delete(own)) hidden.add(own);
    tell();
  });
  document.body.addEventListener("htmx:afterSettle", (event) => {
    tell();
    if (event.detail.requestConfig?.verb !== "get") return; // the panels follow
    document.querySelector(".stack-piece.open")?.scrollIntoView({ block: "nearest" });
  });
}
