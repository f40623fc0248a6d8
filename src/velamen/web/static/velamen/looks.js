// Who only looks finds the controls of edits switched off, with why.

const WHY = "Changes are made by the shop's digitizers.";
const OWN = ".who, .units, [data-own]"; // forms that are for everybody

function switchOff(root) {
  for (const form of root.querySelectorAll('form[method="post"], form[hx-post]')) {
    if (form.matches(OWN)) continue;
    for (const control of form.elements) {
      control.disabled = true;
      control.title = WHY;
    }
  }
}

if (document.body.classList.contains("looks-only")) {
  switchOff(document);
  document.addEventListener("htmx:afterSwap", () => switchOff(document));
}
