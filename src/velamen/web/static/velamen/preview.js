// Preview of a brief: a piece's box ticks all of its values, and shows when only some are.

for (const body of document.querySelectorAll("tbody[data-piece]")) {
  const all = body.querySelector("[data-all]");
  const boxes = [...body.querySelectorAll('[name="take"]')];
  const show = () => {
    const ticked = boxes.filter((box) => box.checked).length;
    all.checked = ticked === boxes.length;
    all.indeterminate = ticked > 0 && ticked < boxes.length;
  };
  all.addEventListener("change", () => {
    for (const box of boxes) box.checked = all.checked;
    count();
  });
  body.addEventListener("change", () => {
    show();
    count();
  });
  show();
}

function count() {
  const ticked = document.querySelectorAll('[name="take"]:checked').length;
  document.getElementById("take-some").textContent = `Change ticked (${ticked})`;
}
count();
