// The stitch plan as the server sends it: a JSON header, then bare arrays.

export const STITCH = 0;
export const JUMP = 1;

export async function loadPlan(url) {
  document.dispatchEvent(new Event("velamen:asks"));
  try {
    const answer = await fetch(url, { cache: "no-cache" });
    if (!answer.ok) throw new Error(await sentenceOf(answer));
    return readPlan(await answer.arrayBuffer());
  } finally {
    document.dispatchEvent(new Event("velamen:answered"));
  }
}

// What a page of the server says went wrong.
async function sentenceOf(answer) {
  const page = new DOMParser().parseFromString(await answer.text(), "text/html");
  return page.querySelector(".told-wrong")?.textContent ?? "The stitches could not be fetched. Reload the page to try again.";
}

export function readPlan(buffer) {
  const size = new DataView(buffer).getUint32(0, true);
  const header = JSON.parse(new TextDecoder().decode(new Uint8Array(buffer, 4, size)));
  const xy = new Float32Array(buffer, 4 + size, 2 * header.rows);
  const command = new Uint8Array(buffer, 4 + size + 8 * header.rows, header.rows);
  const sewn = new Uint32Array(header.rows + 1);
  for (let row = 0; row < header.rows; row++) sewn[row + 1] = sewn[row] + (command[row] === STITCH ? 1 : 0);
  return { ...header, xy, command, sewn };
}

// The block that holds a row, or the last one before it.
export function blockAt(plan, row) {
  let found = null;
  for (const block of plan.blocks) {
    if (block.first > row) break;
    found = block;
  }
  return found;
}

// The main pass of a piece: the last one, that what is sewn before only prepares.
export function blockOf(plan, piece) {
  return plan.blocks.filter((block) => block.piece === piece && block.count > 1).pop() ?? null;
}
