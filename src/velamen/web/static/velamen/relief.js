// Height and light, as core/relief has them: what is sewn and laid stands so high, and catches the light so.
// Constants come with the plan; tests/browser/test_relief.py holds these heights against the server's.

import { chance } from "./fluff.js";
import { JUMP, STITCH } from "./plan.js";

const MOST = 420_000; // cells; a larger box gets coarser ones

// Heights of a plan after some rows: { wide, high, step, height, pile }, mm. hidden: ids of pieces left out.
export function heightsOf(plan, row, hidden = new Set()) {
  const { relief } = plan, [left, top, right, bottom] = relief.box;
  const step = Math.max(relief.step, Math.sqrt(((right - left) * (bottom - top)) / MOST));
  const wide = Math.max(Math.ceil((right - left) / step), 2), high = Math.max(Math.ceil((bottom - top) / step), 2);
  const grid = { left, top, step, wide, high };
  const cells = (far) => Math.max(Math.round(far / step), 1);
  const size = wide * high, every = threadsOf(plan, 0, row, hidden, grid);
  const height = new Float32Array(size), pile = new Float32Array(size).fill(plan.base.pile), threads = new Float32Array(size);
  for (const one of plan.toppings) {
    if (row >= plan.rows || !(one.from <= row && row < one.to)) continue; // washed or torn off once all is sewn
    const there = maskOf(one.rings, grid);
    for (let at = 0; at < size; at++) pile[at] *= 1 - there[at] * (1 - one.left);
  }
  const presses = plan.presses.map((one) => ({ row: one.states[0].from + 1, there: maskOf(one.states[0].rings, grid) }));
  let sewn = 0;
  const sew = (to) => {
    const more = threadsOf(plan, sewn, to, hidden, grid);
    for (let at = 0; at < size; at++) threads[at] += more[at];
    sewn = to;
  };
  for (const sheet of [...plan.sheets].sort((one, other) => one.states[0].from - other.states[0].from)) {
    const state = sheet.states.findLast((one) => row > one.from + 1);
    if (!state || hidden.has(sheet.piece)) continue;
    if (sheet.ridges) continue;
    sew(Math.min(sheet.states[0].from + 2, row));
    if (sheet.table) open(maskOf(state.rings, grid), { height, pile, threads }, relief.sunk);
    else lay(plan, sheet, maskOf(state.rings, grid), presses.filter((one) => one.row < sewn), { height, pile, threads, ...grid }, cells);
  }
  sew(row);
  if (pile.some((one) => one > 0)) press(plan, row, every, pile, presses, grid, cells);
  const raised = calmed(threads, wide, high, cells(relief.near));
  const even = calmed(height, wide, high, cells(relief.wide));
  for (let at = 0; at < size; at++) {
    height[at] += Math.min(raised[at], 1) * (even[at] - height[at]); // threads go straight over the edge of a cloth
    height[at] += pile[at] + relief.thread_high * raised[at];
  }
  for (const sheet of row >= plan.rows ? plan.sheets : []) {
    if (sheet.ridges && !hidden.has(sheet.piece)) raise(relief, sheet.ridges, height, grid, cells);
  }
  return { ...grid, height, pile };
}

// An opening: the table lies lower, and nothing on it.
function open(there, { height, pile, threads }, sunk) {
  for (let at = 0; at < there.length; at++) {
    height[at] = height[at] * (1 - there[at]) - sunk * there[at];
    pile[at] *= 1 - there[at];
    threads[at] *= 1 - there[at];
  }
}

// Fluff: a round ridge along each spine, broken up as tufts are.
function raise(relief, { spines, reaches, tall }, height, { left, top, step, wide, high }, cells) {
  const found = new Float32Array(wide * high), most = Math.max(...reaches);
  for (const reach of [...new Set(reaches)].sort((one, other) => one - other)) {
    const canvas = new OffscreenCanvas(wide, high), context = canvas.getContext("2d", { willReadFrequently: true });
    context.setTransform(1 / step, 0, 0, 1 / step, -left / step, -top / step);
    context.lineWidth = cells(reach) * step;
    context.lineJoin = "round";
    context.beginPath();
    for (const [nth, line] of spines.entries()) if (reaches[nth] === reach) line.forEach(([x, y], at) => (at ? context.lineTo(x, y) : context.moveTo(x, y)));
    context.stroke();
    const { data } = context.getImageData(0, 0, wide, high);
    const solid = Float32Array.from({ length: wide * high }, (_, at) => data[4 * at + 3] / 255);
    const round = calmed(solid, wide, high, cells(relief.fluff * reach));
    for (let at = 0; at < found.length; at++) found[at] = Math.max(found[at], (reach / most) * round[at]);
  }
  const rough = calmed(Float32Array.from({ length: wide * high }, (_, at) => chance(at)), wide, high, 1);
  for (let at = 0; at < found.length; at++) height[at] += tall * found[at] * (1 - relief.rough + relief.rough * rough[at]);
}

// A cloth laid: threads under it lift it, evened out, and lie on top no longer.
function lay({ relief }, sheet, there, presses, { height, pile, threads, wide, high }, cells) {
  const reach = cells(relief.wide);
  let low = [wide, high], last = [0, 0];
  for (let at = 0; at < there.length; at++) {
    if (!there[at]) continue;
    const column = at % wide, line = Math.floor(at / wide);
    low = [Math.min(low[0], column), Math.min(low[1], line)];
    last = [Math.max(last[0], column + 1), Math.max(last[1], line + 1)];
  }
  if (last[0] <= low[0]) return;
  const [left, top] = low.map((one) => Math.max(one - 2 * reach, 0));
  const [right, bottom] = [Math.min(last[0] + 2 * reach, wide), Math.min(last[1] + 2 * reach, high)];
  const across = right - left, part = new Float32Array(across * (bottom - top));
  for (let line = top; line < bottom; line++) part.set(threads.subarray(line * wide + left, line * wide + right), (line - top) * across);
  const lifted = calmed(part, across, bottom - top, reach);
  for (let line = top; line < bottom; line++) {
    for (let column = left; column < right; column++) {
      const at = line * wide + column, lift = lifted[(line - top) * across + column - left];
      let down = Math.min(lift / relief.presses_from, 1);
      for (const one of presses) down = Math.max(down, one.there[at]);
      const up = pile[at] * (1 - (1 - relief.pressed) * down);
      height[at] += there[at] * (sheet.thickness + sheet.left * up + relief.thread_high * lift);
      pile[at] = pile[at] * (1 - there[at]) + sheet.pile * there[at];
      threads[at] *= 1 - there[at];
    }
  }
}

// Pile goes down under threads, and where a pass presses it; what stands leans over the edge.
function press(plan, row, threads, pile, presses, grid, cells) {
  const { relief } = plan;
  let pressed = calmed(threads, grid.wide, grid.high, cells(relief.wide)).map((one) => Math.min(one / relief.presses_from, 1));
  for (const one of presses) {
    if (one.row >= row) continue;
    for (let at = 0; at < pressed.length; at++) pressed[at] = Math.max(pressed[at], one.there[at]);
  }
  if (plan.base.pile > 0) pressed = calmed(pressed, grid.wide, grid.high, cells(relief.leans * plan.base.pile));
  for (let at = 0; at < pile.length; at++) pile[at] *= 1 - (1 - relief.pressed) * pressed[at];
}

// How many threads lie one over another in each cell, of rows up to `row` from `begin` on.
function threadsOf(plan, begin, row, hidden, { left, top, step, wide, high }) {
  const { xy, command } = plan, found = new Float32Array(wide * high);
  for (const block of plan.blocks) {
    if (hidden.has(block.piece)) continue;
    const last = Math.min(block.first + block.count, row);
    for (let at = Math.max(block.first, begin, 1); at < last; at++) {
      if (command[at] !== STITCH || command[at - 1] > JUMP) continue;
      const x = xy[2 * at - 2], y = xy[2 * at - 1], dx = xy[2 * at] - x, dy = xy[2 * at + 1] - y;
      const long = Math.hypot(dx, dy), count = Math.max(Math.ceil(long / step), 1);
      const weight = ((long / count) * plan.relief.thread_wide) / (step * step);
      for (let nth = 0; nth < count; nth++) {
        const part = (nth + 0.5) / count;
        const column = Math.floor((x + part * dx - left) / step), line = Math.floor((y + part * dy - top) / step);
        if (column >= 0 && column < wide && line >= 0 && line < high) found[line * wide + column] += weight;
      }
    }
  }
  return found;
}

// 1 on cells whose middle lies within rings, 0 elsewhere; null rings lie everywhere.
function maskOf(rings, { left, top, step, wide, high }) {
  if (rings === null) return new Float32Array(wide * high).fill(1);
  const canvas = new OffscreenCanvas(wide, high), context = canvas.getContext("2d", { willReadFrequently: true });
  context.setTransform(1 / step, 0, 0, 1 / step, -left / step, -top / step);
  const path = new Path2D();
  for (const ring of rings) {
    ring.forEach(([x, y], nth) => (nth ? path.lineTo(x, y) : path.moveTo(x, y)));
    path.closePath();
  }
  context.fill(path, "evenodd");
  const { data } = context.getImageData(0, 0, wide, high);
  return Float32Array.from({ length: wide * high }, (_, at) => data[4 * at + 3] / 255);
}

// Averaged twice over so many cells either way, along rows and columns.
export function calmed(values, wide, high, reach) {
  let from = values;
  for (const [count, lines, on, over] of [[high, wide, wide, 1], [wide, high, 1, wide]]) {
    for (let twice = 0; twice < 2; twice++) {
      const into = new Float32Array(values.length);
      for (let line = 0; line < lines; line++) average(from, into, line * over, on, count, reach);
      from = into;
    }
  }
  return from;
}

function average(from, into, begin, on, count, reach) {
  const edge = (at) => from[begin + on * Math.min(Math.max(at, 0), count - 1)];
  let total = 0;
  for (let at = -reach; at <= reach; at++) total += edge(at);
  for (let at = 0; at < count; at++) {
    into[begin + on * at] = total / (2 * reach + 1);
    total += edge(at + reach + 1) - edge(at - reach);
  }
}

// What is laid over the picture for light to fall on it: RGBA, black or white, as strong as the light differs.
export function veilOf(plan, { wide, high, step, height, pile }) {
  const { relief } = plan, [lampX, lampY, lampZ] = relief.lamp;
  const seen = height.map((one, at) => one - (1 - relief.finds) * pile[at]);
  const around = calmed(seen, wide, high, relief.far);
  const pixels = new Uint8ClampedArray(4 * wide * high);
  for (let line = 0; line < high; line++) {
    const up = line ? -wide : 0, down = line < high - 1 ? wide : 0;
    for (let column = 0; column < wide; column++) {
      const at = line * wide + column, back = column ? -1 : 0, on = column < wide - 1 ? 1 : 0;
      let right = (seen[at + on] - seen[at + back]) / ((on - back) * step);
      let below = (seen[at + down] - seen[at + up]) / (((down - up) / wide) * step);
      const flat = 1 / Math.sqrt(1 + (right * right + below * below) / (relief.steepest * relief.steepest));
      right *= flat;
      below *= flat;
      const falls = (-right * lampX - below * lampY + lampZ) / Math.sqrt(right * right + below * below + 1);
      const hollow = Math.min(Math.max(around[at] - seen[at], 0), 1);
      const light = Math.min(Math.max(falls / lampZ - 1 - relief.deep * hollow, relief.darkest), relief.brightest);
      const tone = light > 0 ? 255 : 0;
      pixels[4 * at] = pixels[4 * at + 1] = pixels[4 * at + 2] = tone;
      pixels[4 * at + 3] = 255 * (light > 0 ? (relief.shine * light) / relief.brightest : (relief.shade * light) / relief.darkest);
    }
  }
  return pixels;
}
