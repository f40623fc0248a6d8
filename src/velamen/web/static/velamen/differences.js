// What differs between two pictures of one view, as lines round the places.

const CELL = 4; // px of the frame that a cell is wide
const AROUND = 2; // cells each way over which a difference is averaged: threads that only lie elsewhere even out
const SEEN = 8; // of 255, by which a place differs
const FEWEST = 6; // cells together that are marked

// Draws lines round what differs on a canvas over the second picture; gives how many cells do.
export function markDifferences(canvas, one, other) {
  const { width, height } = canvas.parentElement.getBoundingClientRect();
  const columns = Math.max(Math.round(width / CELL), 1), rows = Math.max(Math.round(height / CELL), 1);
  const differs = together(far(pixels(one, columns, rows), pixels(other, columns, rows), columns, rows), columns, rows);
  canvas.width = width;
  canvas.height = height;
  const context = canvas.getContext("2d"), at = (x, y) => x >= 0 && y >= 0 && x < columns && y < rows && differs[y * columns + x];
  const wide = width / columns, high = height / rows;
  context.beginPath();
  for (let y = 0; y <= rows; y++) {
    for (let x = 0; x <= columns; x++) {
      if (at(x, y) !== at(x - 1, y)) line(context, x * wide, y * high, x * wide, (y + 1) * high);
      if (at(x, y) !== at(x, y - 1)) line(context, x * wide, y * high, (x + 1) * wide, y * high);
    }
  }
  for (const [colour, thick] of [["#ffffff", 3], ["#23303a", 1.2]]) {
    context.strokeStyle = colour;
    context.lineWidth = thick;
    context.stroke();
  }
  return differs.filter(Boolean).length;
}

function line(context, x, y, toX, toY) {
  context.moveTo(x, y);
  context.lineTo(toX, toY);
}

// A picture in so many cells, each the mean of what lies in it.
function pixels(image, columns, rows) {
  const canvas = new OffscreenCanvas(columns, rows), context = canvas.getContext("2d", { willReadFrequently: true });
  context.imageSmoothingQuality = "high";
  const scale = Math.min(columns / image.naturalWidth, rows / image.naturalHeight); // as wide as it lies in its frame
  const width = image.naturalWidth * scale, height = image.naturalHeight * scale;
  context.drawImage(image, (columns - width) / 2, (rows - height) / 2, width, height);
  return context.getImageData(0, 0, columns, rows).data;
}

// Whether cells differ, seen with those round them.
function far(one, other, columns, rows) {
  const found = new Array(columns * rows).fill(false);
  for (let channel = 0; channel < 3; channel++) {
    const signed = Array.from(found, (_, at) => one[4 * at + channel] - other[4 * at + channel]);
    const even = averaged(averaged(signed, columns, rows, 1, columns), columns, rows, columns, rows);
    for (let at = 0; at < found.length; at++) found[at] ||= Math.abs(even[at]) > SEEN;
  }
  return found;
}

// Means along rows (step 1) or columns.
function averaged(cells, columns, rows, step, length) {
  return cells.map((_, at) => {
    const place = step === 1 ? at % columns : Math.floor(at / columns);
    let sum = 0, count = 0;
    for (let by = -AROUND; by <= AROUND; by++) {
      if (place + by < 0 || place + by >= length) continue;
      sum += cells[at + by * step];
      count += 1;
    }
    return sum / count;
  });
}

// Marked cells that hang together in a place large enough to be seen.
function together(marked, columns, rows) {
  const kept = new Array(marked.length).fill(false), seen = new Set();
  for (let start = 0; start < marked.length; start++) {
    if (!marked[start] || seen.has(start)) continue;
    const group = [start];
    seen.add(start);
    for (const at of group) {
      const x = at % columns;
      for (const next of [x > 0 ? at - 1 : -1, x < columns - 1 ? at + 1 : -1, at - columns, at + columns]) {
        if (next < 0 || next >= marked.length || !marked[next] || seen.has(next)) continue;
        seen.add(next);
        group.push(next);
      }
    }
    if (group.length >= FEWEST) for (const at of group) kept[at] = true;
  }
  return kept;
}
