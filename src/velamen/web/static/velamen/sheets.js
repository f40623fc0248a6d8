// What is laid on the cloth: cut or still to be cut, printed, with the surface of its material; openings and fluff.

import { paintFluff } from "./fluff.js";

const PRINT_REPEAT = 6; // mm of a printed cloth
const PRINT_TILE = 64; // px it is drawn in

export function outline(rings) {
  const path = new Path2D();
  for (const ring of rings) {
    ring.forEach(([x, y], index) => (index ? path.lineTo(x, y) : path.moveTo(x, y)));
    path.closePath();
  }
  return path;
}

// Sheets and pressed pile of a plan, as they are painted, in the order they come.
export function sheetsOf(plan) {
  const drawn = (sheet) => ({ ...sheet, states: sheet.states.map((state) => ({ from: state.from + 1, path: outline(state.rings) })) });
  const sheets = [...plan.sheets, ...plan.presses.map((one) => ({ ...one, flat: true }))].map(drawn);
  return sheets.sort((one, other) => one.states[0].from - other.states[0].from);
}

// How a sheet lies after so many rows: as it was laid, cut, or as little as is left of it.
export function stateAt(sheet, row) {
  return sheet.states.findLast((state) => row > state.from);
}

// What is laid, as it lies by now: see-through while it is still to be cut. surface(path, key): paints that over it.
export function paintSheet(context, sheet, row, ratio, surface) {
  const state = stateAt(sheet, row);
  if (sheet.ridges) return state === sheet.states.at(-1) && paintFluff(context, sheet.ridges);
  if (sheet.table) {
    context.fillStyle = state === sheet.states.at(-1) ? sheet.table : sheet.colour;
    return context.fill(state.path, "evenodd");
  }
  context.fillStyle = styleOf(context, sheet);
  if (sheet.flat) return context.fill(state.path, "evenodd");
  if (state !== sheet.states.at(-1)) {
    context.globalAlpha = 0.86;
    context.fill(state.path, "evenodd");
    context.globalAlpha = 1;
    return;
  }
  if (sheet.clear) {
    context.globalAlpha = 1 - sheet.clear;
    context.fill(state.path, "evenodd");
    context.globalAlpha = 1;
    return;
  }
  context.save();
  context.shadowColor = "#0005";
  context.shadowBlur = 2.5 * ratio;
  context.shadowOffsetY = 1 * ratio;
  context.fill(state.path, "evenodd");
  context.restore();
  if (sheet.surface) surface(state.path, sheet.surface);
}

// A cloth's colour, or its print as a pattern of true size.
function styleOf(context, sheet) {
  if (sheet.print === "plain") return sheet.colour;
  const pattern = context.createPattern(printTile(sheet), "repeat");
  pattern.setTransform(new DOMMatrix().scale(PRINT_REPEAT / PRINT_TILE));
  return pattern;
}

// One repeat of a printed cloth.
function printTile(piece) {
  const tile = document.createElement("canvas");
  tile.width = tile.height = PRINT_TILE;
  const context = tile.getContext("2d"), part = PRINT_TILE / 4;
  context.fillStyle = piece.colour;
  context.fillRect(0, 0, PRINT_TILE, PRINT_TILE);
  context.fillStyle = piece.print_colour;
  if (piece.print === "stripe") context.fillRect(0, 0, PRINT_TILE / 2, PRINT_TILE);
  if (piece.print === "check") {
    context.globalAlpha = 0.6;
    context.fillRect(0, 0, part, PRINT_TILE);
    context.fillRect(0, 0, PRINT_TILE, part);
  }
  if (piece.print === "dot") {
    for (const [x, y] of [[part, part], [3 * part, 3 * part]]) {
      context.beginPath();
      context.arc(x, y, 0.6 * part, 0, 2 * Math.PI);
      context.fill();
    }
  }
  return tile;
}
