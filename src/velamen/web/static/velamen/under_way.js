// What takes longer than half a second says how far it is, and can be ended.

const SOON = 500; // ms
const OFTEN = 400;
const bar = document.getElementById("under-way");
const address = document.body.dataset.underWay;
let awaited = 0; // answers that are on their way
let shown = null; // timer, while something is

function begin() {
  awaited += 1;
  if (!shown) shown = setTimeout(look, SOON);
}

function end() {
  awaited = Math.max(0, awaited - 1);
  if (!awaited) hide();
}

function hide() {
  clearTimeout(shown);
  shown = null;
  bar.hidden = true;
}

async function look() {
  try {
    const answer = await fetch(address, { cache: "no-store" });
    if (!shown || !answer.ok) return;
    const { works } = await answer.json();
    if (!shown) return;
    bar.hidden = !works.length;
    if (works.length) tell(works[0]);
  } catch {
    // the page's own answer will say what is wrong
  } finally {
    if (shown) shown = setTimeout(look, OFTEN);
  }
}

function tell({ what, share, at, seconds }) {
  bar.querySelector("[data-what]").textContent = what;
  bar.querySelector("[data-at]").textContent = [at, `${Math.round(seconds)} s`].filter(Boolean).join(" · ");
  const progress = bar.querySelector("progress");
  if (share > 0) progress.value = share;
  else progress.removeAttribute("value");
}

bar?.querySelector("button").addEventListener("click", async () => {
  const token = JSON.parse(document.body.getAttribute("hx-headers"))["X-CSRFToken"];
  await fetch(address, { method: "POST", headers: { "X-CSRFToken": token } });
});

if (bar) {
  document.addEventListener("htmx:beforeRequest", begin);
  document.addEventListener("htmx:afterRequest", end);
  document.addEventListener("velamen:asks", begin); // of a script's own
  document.addEventListener("velamen:answered", end);
  // A page that is left stays until the next one answers.
  window.addEventListener("beforeunload", begin);
  window.addEventListener("pageshow", hide);
  document.addEventListener("visibilitychange", () => document.visibilityState === "visible" && !awaited && hide());
}
