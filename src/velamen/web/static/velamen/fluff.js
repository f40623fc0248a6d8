// Fluff of layers that are slit and washed: tufts along the lines of stitching, as core/relief/fluff has them.

const PITCH = 0.34; // mm along a line between tufts of one layer and side
const LONG = 0.5; // of its reach that a tuft is long
const INNER = 0.3, OUTER = 0.95; // of the reach: where tufts of the uppermost and of the lowest layer end
const STRAY = 0.28, LEAN = 0.6, SHADES = 6;
const TUFT = 0.24; // mm that a tuft is drawn wide

// From 0 to 1, looking like chance, the same for the same number everywhere.
export function chance(number, nth = 0) {
  const found = Math.sin(number * 12.9898 + nth * 78.233) * 43758.5453;
  return found - Math.floor(found);
}

const known = new WeakMap(); // paths by ridges

// Tufts of ridges are worked out once: for every layer from the lowest on, and every tone, one path.
export function paintFluff(context, ridges) {
  if (!known.has(ridges)) known.set(ridges, pathsOf(ridges));
  context.lineWidth = TUFT;
  context.lineCap = "butt";
  for (const { style, path } of known.get(ridges)) {
    context.strokeStyle = style;
    context.stroke(path);
  }
}

function pathsOf({ spines, reaches, colours }) {
  const spots = spines.flatMap((line, nth) => along(line, reaches[nth])), found = [];
  for (const [layer, colour] of colours.entries()) {
    const out = OUTER + ((INNER - OUTER) * layer) / Math.max(colours.length - 1, 1);
    for (const side of [-1, 1]) {
      const paths = Array.from({ length: SHADES }, () => new Path2D()), seed = 1000 * layer + 500 * (side > 0);
      for (const [nth, { x, y, dx, dy, reach }] of spots.entries()) {
        const drawn = (which) => chance(nth + seed, which);
        const tip = reach * (out + STRAY * (drawn(0) - 0.5) * 2), root = Math.max(tip - LONG * reach, 0);
        const lean = LEAN * (drawn(1) - 0.5) * 2, cos = Math.cos(lean), sin = Math.sin(lean), on = PITCH * (drawn(2) - 0.5);
        const across = [side * (-dy * cos - dx * sin), side * (dx * cos - dy * sin)];
        const path = paths[Math.floor(SHADES * drawn(3))];
        path.moveTo(x + dx * on + root * across[0], y + dy * on + root * across[1]);
        path.lineTo(x + dx * on + tip * across[0], y + dy * on + tip * across[1]);
      }
      for (const [shade, path] of paths.entries()) found.push({ path, style: tone(colour, shade) });
    }
  }
  return found;
}

// Places along a line, evenly apart, each with the line's direction there.
function along(line, reach) {
  const ways = [0];
  for (let nth = 1; nth < line.length; nth++) ways.push(ways[nth - 1] + Math.hypot(line[nth][0] - line[nth - 1][0], line[nth][1] - line[nth - 1][1]));
  const length = ways.at(-1), count = Math.max(Math.floor(length / PITCH), 2), found = [];
  let nth = 1;
  for (let spot = 0; spot < count; spot++) {
    const at = ((spot + 0.5) * length) / count;
    while (nth < line.length - 1 && ways[nth] < at) nth++;
    const [ax, ay] = line[nth - 1], [bx, by] = line[nth], far = Math.max(ways[nth] - ways[nth - 1], 1e-9), part = (at - ways[nth - 1]) / far;
    found.push({ x: ax + part * (bx - ax), y: ay + part * (by - ay), dx: (bx - ax) / far, dy: (by - ay) / far, reach });
  }
  return found;
}

// A colour from shaded to lit, as threads have it.
function tone(colour, shade) {
  const lit = 0.72 + (0.5 * shade) / (SHADES - 1);
  const parts = [1, 3, 5].map((at) => parseInt(colour.slice(at, at + 2), 16));
  return `rgb(${parts.map((one) => Math.round(lit <= 1 ? one * lit : one + (255 - one) * (lit - 1))).join(",")})`;
}
