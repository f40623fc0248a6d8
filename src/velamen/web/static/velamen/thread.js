// Threads on a canvas: stitches in batches by direction, so that satin catches the light.

import { JUMP, STITCH } from "./plan.js";

const DIRECTIONS = 24;
const THREAD = 0.38; // mm, a 40-weight thread
const NEEDLE = 0.12; // mm, the hole that a needle leaves
const LIGHT = Math.PI * 0.3; // direction from which the light falls
const CHUNK = 240; // stitches stacked over the ones before
const ONE_BY_ONE = 4; // times as long as stitches in batches, what each is painted by itself takes
const MOST_BOXES = 2000; // kept of a block
const CLOSE = 9; // px a mm from which each stitch lies over the one before
const FAR = 5.5; // px a mm below which a thread is too thin to have sides

function shade(colour, factor) {
  const parts = [1, 3, 5].map((at) => parseInt(colour.slice(at, at + 2), 16));
  const mixed = parts.map((part) => Math.round(factor <= 1 ? part * factor : part + (255 - part) * (factor - 1)));
  return `rgb(${mixed.join(",")})`;
}

const shades = new Map();
function shadesOf(colour) {
  if (!shades.has(colour)) {
    const tones = [], far = [];
    for (let bucket = 0; bucket < DIRECTIONS; bucket++) {
      const angle = ((bucket + 0.5) * Math.PI) / DIRECTIONS;
      const shine = Math.abs(Math.sin(angle - LIGHT));
      tones.push(shade(colour, 0.84 + 0.34 * shine * shine + 0.06 * shine));
      far.push(shade(colour, 0.78 + 0.3 * shine * shine));
    }
    shades.set(colour, { dark: shade(colour, 0.55), tones, far, shine: shade(colour, 1.28), plain: colour });
  }
  return shades.get(colour);
}

// Paints rows [from, to) in mm coordinates, a little at each step; the context is already scaled.
export function* rowsPainted(context, plan, from, to, look, scale, seen, shown) {
  context.lineCap = "round";
  for (const block of plan.blocks) {
    if (!shown(block.piece)) continue;
    const first = Math.max(block.first, from);
    const last = Math.min(block.first + block.count, to);
    if (first >= last || unseen(boxOf(plan, block, block.first, block.first + block.count), seen)) continue;
    if (look !== "needle" && scale < FAR) {
      paintFar(context, plan, block, first, last, shadesOf(block.colour), scale);
      yield last - first;
      continue;
    }
    for (let start = first; start < last; start += CHUNK) {
      const end = Math.min(start + CHUNK, last);
      if (unseen(boxOf(plan, block, start, end), seen)) continue;
      const close = look !== "needle" && scale >= CLOSE;
      if (close) paintClose(context, plan, start, end, shadesOf(block.colour), seen);
      else paintChunk(context, plan, start, end, shadesOf(block.colour), look, scale);
      yield (close ? ONE_BY_ONE : 1) * (end - start);
    }
  }
}

// Left, top, right and bottom of some rows of a block, mm, kept with it.
function boxOf({ xy }, block, first, last) {
  const boxes = (block.boxes ??= new Map()), key = `${first} ${last}`;
  let box = boxes.get(key);
  if (!box) {
    box = { left: Infinity, top: Infinity, right: -Infinity, bottom: -Infinity };
    for (let at = Math.max(first - 1, 0); at < last; at++) {
      box.left = Math.min(box.left, xy[2 * at]);
      box.right = Math.max(box.right, xy[2 * at]);
      box.top = Math.min(box.top, xy[2 * at + 1]);
      box.bottom = Math.max(box.bottom, xy[2 * at + 1]);
    }
    if (boxes.size < MOST_BOXES) boxes.set(key, box);
  }
  return box;
}

function unseen(box, seen) {
  return box.right < seen.left || box.left > seen.right || box.bottom < seen.top || box.top > seen.bottom;
}

// Close up: one stitch after the other, those outside the view left out.
function paintClose(context, plan, first, last, tone, seen) {
  const { xy, command } = plan;
  for (let row = Math.max(first, 1); row < last; row++) {
    if (command[row] !== STITCH || command[row - 1] > JUMP) continue;
    const x0 = xy[2 * row - 2], y0 = xy[2 * row - 1], x1 = xy[2 * row], y1 = xy[2 * row + 1];
    if (Math.max(x0, x1) < seen.left || Math.min(x0, x1) > seen.right || Math.max(y0, y1) < seen.top || Math.min(y0, y1) > seen.bottom) continue;
    for (const [width, style] of [[THREAD * 1.15, tone.dark], [THREAD * 0.8, tone.tones[bucketOf(x1 - x0, y1 - y0)]], [THREAD * 0.18, tone.shine]]) {
      context.lineWidth = width;
      context.strokeStyle = style;
      context.beginPath();
      context.moveTo(x0, y0);
      context.lineTo(x1, y1);
      context.stroke();
    }
  }
}

// The stitches of some rows as paths, one for each direction.
function pathsOf({ xy, command }, first, last) {
  const paths = new Array(DIRECTIONS);
  for (let row = Math.max(first, 1); row < last; row++) {
    if (command[row] !== STITCH || command[row - 1] > JUMP) continue;
    const x0 = xy[2 * row - 2], y0 = xy[2 * row - 1], x1 = xy[2 * row], y1 = xy[2 * row + 1];
    const path = (paths[bucketOf(x1 - x0, y1 - y0)] ??= new Path2D());
    path.moveTo(x0, y0);
    path.lineTo(x1, y1);
  }
  return paths;
}

// Blocks that an edit left as they were keep their paths.
export function keepPaths(before, after) {
  const known = new Map();
  const named = (block) => `${block.key} ${block.count} ${block.nth}`;
  for (const plan of [before, after]) {
    const times = new Map(); // a pass comes once for every copy in the hoop
    for (const block of plan.blocks) times.set(block.key, (block.nth = (times.get(block.key) ?? 0) + 1));
  }
  for (const block of before.blocks) if (block.paths) known.set(named(block), block);
  for (const block of after.blocks) {
    const old = known.get(named(block));
    if (old && sameRows(before.xy, old.first, after.xy, block.first, block.count)) block.paths = old.paths;
  }
}

// The place before the first row counts too: a first stitch may begin there.
function sameRows(one, from, other, to, count) {
  if ((from === 0) !== (to === 0)) return false;
  const lead = from === 0 ? 0 : 2;
  for (let at = -lead; at < 2 * count; at++) if (one[2 * from + at] !== other[2 * to + at]) return false;
  return true;
}

// From afar: one stroke for all stitches of a direction, as wide as thread and the shade beside it.
function paintFar(context, plan, block, first, last, tone, scale) {
  const all = first <= Math.max(block.first, 1) && last === block.first + block.count;
  const paths = all ? (block.paths ??= pathsOf(plan, first, last)) : pathsOf(plan, first, last);
  context.lineCap = "butt";
  context.lineWidth = Math.max(THREAD, 0.8 / scale);
  paths.forEach((path, bucket) => {
    context.strokeStyle = tone.far[bucket];
    context.stroke(path);
  });
  context.lineCap = "round";
}

function bucketOf(dx, dy) {
  let angle = Math.atan2(dy, dx);
  if (angle < 0) angle += Math.PI;
  return Math.min(Math.floor((angle / Math.PI) * DIRECTIONS), DIRECTIONS - 1);
}

function paintChunk(context, plan, first, last, tone, look, scale) {
  const { xy, command } = plan;
  const paths = Array.from({ length: DIRECTIONS }, () => new Path2D());
  const all = new Path2D();
  for (let row = Math.max(first, 1); row < last; row++) {
    if (command[row] !== STITCH || command[row - 1] > JUMP) continue;
    const x0 = xy[2 * row - 2], y0 = xy[2 * row - 1], x1 = xy[2 * row], y1 = xy[2 * row + 1];
    const path = paths[bucketOf(x1 - x0, y1 - y0)];
    path.moveTo(x0, y0);
    path.lineTo(x1, y1);
    all.moveTo(x0, y0);
    all.lineTo(x1, y1);
  }
  if (look !== "needle") {
    context.lineWidth = Math.max(THREAD * 1.15, 0.9 / scale);
    context.strokeStyle = tone.dark;
    context.stroke(all);
    context.lineWidth = Math.max(THREAD * 0.74, 0.7 / scale);
    paths.forEach((path, bucket) => {
      context.strokeStyle = tone.tones[bucket];
      context.stroke(path);
    });
    return;
  }
  context.lineWidth = 0.7 / scale;
  context.globalAlpha = 0.45;
  context.strokeStyle = tone.plain;
  context.stroke(all);
  context.globalAlpha = 1;
}

// Every single penetration, as large as a needle leaves it or at least a point.
export function paintNeedle(context, plan, from, to, scale, seen, shown) {
  const { xy, command } = plan;
  const size = Math.max(NEEDLE, 1.6 / scale), half = size / 2;
  context.fillStyle = "#23303a";
  for (const block of plan.blocks) {
    if (!shown(block.piece)) continue;
    for (let row = Math.max(block.first, from); row < Math.min(block.first + block.count, to); row++) {
      if (command[row] !== STITCH) continue;
      const x = xy[2 * row], y = xy[2 * row + 1];
      if (x < seen.left || x > seen.right || y < seen.top || y > seen.bottom) continue;
      context.fillRect(x - half, y - half, size, size);
    }
  }
}
