// Works out light on the relief beside the page, so that nothing waits for it.

import { heightsOf, veilOf } from "./relief.js";

let plan = null;
self.addEventListener("message", ({ data }) => {
  if (data.plan) plan = data.plan;
  if (data.row === undefined || !plan) return;
  const found = heightsOf(plan, data.row, new Set(data.hidden));
  const pixels = veilOf(plan, found);
  const { left, top, step, wide, high } = found;
  self.postMessage({ key: data.key, left, top, step, wide, high, pixels }, [pixels.buffer]);
});
