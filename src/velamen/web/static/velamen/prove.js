// Prove: what a row of a list tells stands out in the picture while it is pointed at, or once it is pressed.

const picture = document.querySelector(".proof-picture");

function mark(kind, nth, on) {
  for (const spot of picture?.querySelectorAll(`[data-${kind}="${nth}"]`) ?? []) {
    spot.classList.toggle("now", on);
    if (on) spot.parentNode.append(spot);
  }
}

function watch(kind) {
  for (const row of document.querySelectorAll(`li[data-${kind}], tr[data-${kind}]`)) {
    const nth = row.dataset[kind];
    const held = () => row.querySelector('[aria-pressed="true"]') !== null;
    for (const event of ["pointerenter", "focusin"]) row.addEventListener(event, () => mark(kind, nth, true));
    for (const event of ["pointerleave", "focusout"]) row.addEventListener(event, () => mark(kind, nth, held()));
  }
}

watch("finding");
watch("thread");
for (const button of document.querySelectorAll("button[data-finding]")) {
  button.addEventListener("click", () => {
    const on = button.getAttribute("aria-pressed") !== "true";
    button.setAttribute("aria-pressed", String(on));
    mark("finding", button.dataset.finding, on);
  });
}
