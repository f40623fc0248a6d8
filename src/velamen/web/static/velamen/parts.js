// Parts of an artwork, chosen in the list or on the picture before they come in.

const form = document.getElementById("parts"), all = document.getElementById("all-parts");
const boxes = [...form.querySelectorAll(".part-list input")], paths = [...form.querySelectorAll(".part")];
const inch = form.dataset.unit === "in";

for (const path of paths) path.addEventListener("click", () => {
  const box = boxes[Number(path.dataset.part)];
  box.checked = !box.checked;
  show();
});
form.querySelector(".part-list").addEventListener("change", show);
all.addEventListener("change", () => {
  for (const box of boxes) box.checked = all.checked;
  show();
});
show();

function show() {
  const taken = boxes.filter((box) => box.checked), bounds = taken.map((box) => box.dataset.box.split(" ").map(Number));
  for (const [nth, path] of paths.entries()) path.classList.toggle("taken", boxes[nth].checked);
  form.elements.parts.value = taken.map((box) => box.value).join(" ");
  all.checked = taken.length === boxes.length;
  all.indeterminate = taken.length > 0 && taken.length < boxes.length;
  const width = Math.max(...bounds.map((box) => box[2])) - Math.min(...bounds.map((box) => box[0]));
  document.getElementById("parts-width").placeholder = taken.length ? (inch ? width / 25.4 : width).toFixed(inch ? 2 : 1) : "";
  const button = document.getElementById("take-parts");
  button.disabled = !taken.length;
  button.textContent = `Bring in ${taken.length} part${taken.length === 1 ? "" : "s"}`;
}
