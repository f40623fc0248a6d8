// Trace: the picture's colours and parts, worked out by the server and drawn over it, before they are taken.

const SVG = "http://www.w3.org/2000/svg";
const root = document.getElementById("trace"), form = document.getElementById("trace-form");
const regions = document.getElementById("trace-regions"), rows = document.getElementById("trace-colours");
const take = document.getElementById("take"), told = document.getElementById("trace-told");
let running = null, timer = 0, skipped = new Set();

for (const slide of form.querySelectorAll("[data-for]")) {
  const field = form.elements[slide.dataset.for];
  slide.addEventListener("input", () => {
    field.value = slide.value;
    changed(slide.dataset.for);
  });
  field.addEventListener("input", () => {
    slide.value = field.value;
    changed(field.name);
  });
}
for (const button of root.querySelectorAll("[data-look]")) button.addEventListener("click", () => look(button.dataset.look));
rows.addEventListener("change", () => {
  form.elements.states.value = [...rows.querySelectorAll("select")].map((one) => one.value).join(",");
  changed("");
});
form.addEventListener("keydown", (event) => {
  if (event.key !== "Enter" || !event.target.closest("input")) return;
  event.preventDefault(); // only the button brings in
  clearTimeout(timer);
  run();
});
form.addEventListener("submit", () => (form.elements.skipped.value = [...skipped].join(" ")));
run();

function changed(name) {
  if (name === "colours") form.elements.states.value = "";
  clearTimeout(timer);
  timer = setTimeout(run, 250);
}

function look(which) {
  for (const button of root.querySelectorAll("[data-look]")) button.setAttribute("aria-pressed", String(button.dataset.look === which));
  regions.toggleAttribute("hidden", which === "picture");
  regions.style.display = which === "picture" ? "none" : "";
  regions.classList.toggle("solid", which === "shapes");
  document.getElementById("trace-picture").style.display = which === "shapes" ? "none" : "";
}

// Traces with what is set now; an older run that is still going is given up.
async function run() {
  running?.abort();
  const mine = (running = new AbortController());
  take.disabled = true;
  const progress = root.querySelector(".trace-progress");
  const late = setTimeout(() => (progress.hidden = false), 150);
  try {
    const answer = await fetch(root.dataset.preview, { method: "POST", body: new FormData(form), headers: { "X-CSRFToken": form.elements.csrfmiddlewaretoken.value }, signal: mine.signal });
    if (!answer.ok) return refuse((await answer.text()).replace(/<[^>]*>/g, " ").trim().slice(0, 300));
    for await (const line of lines(answer.body)) step(JSON.parse(line), progress);
  } catch (error) {
    if (error.name !== "AbortError") refuse("The picture could not be traced: try again.");
  } finally {
    clearTimeout(late);
    if (mine === running) progress.hidden = true;
  }
}

async function* lines(body) {
  const reader = body.pipeThrough(new TextDecoderStream()).getReader();
  let rest = "";
  for (let part = await reader.read(); !part.done; part = await reader.read()) {
    const found = (rest + part.value).split("\n");
    rest = found.pop();
    yield* found;
  }
  if (rest) yield rest;
}

function step(found, progress) {
  progress.querySelector("progress").value = found.share;
  document.getElementById("trace-what").textContent = found.what ?? "";
  if (found.colours) palette(found.colours);
  if (found.wrong) return refuse(found.wrong);
  if (found.regions) draw(found);
}

function refuse(sentence) {
  regions.replaceChildren();
  told.className = "wrong trace-told";
  told.textContent = sentence;
}

function draw(found) {
  skipped = new Set();
  regions.replaceChildren(...found.regions.map((one, nth) => {
    const path = document.createElementNS(SVG, "path");
    path.setAttribute("d", one.path);
    path.setAttribute("fill", found.colours[one.colour].colour);
    path.setAttribute("fill-rule", "evenodd");
    path.addEventListener("click", () => {
      if (!skipped.delete(nth)) skipped.add(nth);
      path.classList.toggle("left-out", skipped.has(nth));
      count(found);
    });
    return path;
  }));
  count(found);
}

function count(found) {
  const left = found.regions.length - skipped.size;
  told.className = "trace-told";
  told.textContent = `${left} shape${left === 1 ? "" : "s"} · ${found.points} curve points · ${found.colours.filter((one) => !one.out).length} of ${found.colours.length} colours`;
  take.textContent = `Bring in ${left} shape${left === 1 ? "" : "s"}`;
  take.disabled = left === 0;
}

// One row a colour: kept, left out, or made another.
function palette(colours) {
  const before = form.elements.states.value ? form.elements.states.value.split(",") : [];
  const focused = document.activeElement?.dataset.colour;
  rows.replaceChildren(...colours.map((one, nth) => {
    const row = document.createElement("tr");
    row.innerHTML = `<td class="num">${nth + 1}</td><td><svg class="swatch" viewBox="0 0 20 14" aria-hidden="true"><rect width="20" height="14" rx="2"/></svg></td><td class="num"></td><td><select></select></td>`;
    row.querySelector("rect").setAttribute("fill", one.colour);
    row.children[2].textContent = `${one.share.toFixed(1)} %`;
    const choice = row.querySelector("select");
    choice.dataset.colour = nth;
    choice.setAttribute("aria-label", `Colour ${nth + 1} becomes`);
    choice.append(new Option("kept", "keep"), new Option("left out", "out"), ...colours.flatMap((_, other) => (other === nth ? [] : [new Option(`same as ${other + 1}`, other)])));
    choice.value = before[nth] ?? (one.out ? "out" : "keep");
    return row;
  }));
  if (!before.length) form.elements.states.value = [...rows.querySelectorAll("select")].map((one) => one.value).join(",");
  if (focused !== undefined) rows.querySelector(`[data-colour="${focused}"]`)?.focus();
}
