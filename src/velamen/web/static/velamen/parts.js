// Colours and parts of an artwork, what each comes in as, chosen in the list or on the picture.

const form = document.getElementById("parts");
const boxes = [...form.querySelectorAll(".part-list input")].sort((one, other) => one.value - other.value);
const paths = [...form.querySelectorAll(".part")], sorts = [...form.querySelectorAll("[data-sort]")];
const inch = form.dataset.unit === "in";

for (const path of paths) path.addEventListener("click", () => {
  const box = boxes[Number(path.dataset.part)], select = rowOf(box).querySelector("select");
  if (!select.value) select.value = [...select.options].find((one) => one.defaultSelected).value;
  else box.checked = !box.checked;
  show();
});
for (const path of paths) path.addEventListener("pointerenter", () => rowOf(boxes[Number(path.dataset.part)]).classList.add("pointed"));
for (const path of paths) path.addEventListener("pointerleave", () => rowOf(boxes[Number(path.dataset.part)]).classList.remove("pointed"));
for (const row of sorts) {
  row.addEventListener("pointerenter", () => point(row, true));
  row.addEventListener("pointerleave", () => point(row, false));
}
form.addEventListener("change", show);
show();

function rowOf(box) {
  return box.closest("[data-sort]");
}

function point(row, on) {
  for (const box of row.querySelectorAll("input")) paths[Number(box.value)].classList.toggle("pointed", on);
}

function show() {
  const taken = boxes.filter((box) => box.checked && rowOf(box).querySelector("select").value);
  const bounds = taken.map((box) => box.dataset.box.split(" ").map(Number));
  for (const [nth, path] of paths.entries()) path.classList.toggle("taken", taken.includes(boxes[nth]));
  for (const row of sorts) row.classList.toggle("left-out", !row.querySelector("select").value);
  form.elements.parts.value = taken.map((box) => box.value).join(" ");
  form.elements.ways.value = sorts.map((row) => `${row.dataset.sort}:${row.querySelector("select").value}`).join(" ");
  const width = Math.max(...bounds.map((box) => box[2])) - Math.min(...bounds.map((box) => box[0]));
  document.getElementById("parts-width").placeholder = taken.length ? (inch ? width / 25.4 : width).toFixed(inch ? 2 : 1) : "";
  const button = document.getElementById("take-parts");
  button.disabled = !taken.length;
  button.textContent = `Bring in ${taken.length} part${taken.length === 1 ? "" : "s"}`;
}
