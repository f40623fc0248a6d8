// Brief: a recommendation taken sets its fields in the form, and what follows is asked anew.

const form = document.getElementById("brief");

document.getElementById("follows").addEventListener("click", (event) => {
  const button = event.target.closest("[data-take]");
  if (!button) return;
  let last = null;
  for (const [name, value] of new URLSearchParams(button.dataset.take)) {
    last = form.elements[name];
    last.value = value;
    last.closest(".brief-field")?.classList.add("just-set");
  }
  last?.dispatchEvent(new Event("change", { bubbles: true }));
});

// The colour goes with the base unless it is one of the job's own.
const colours = JSON.parse(document.getElementById("base-colours").textContent), colour = form.elements.base_colour;
let base = form.elements.base.value;
form.elements.base.addEventListener("change", () => {
  if (colour.value === colours[base]) colour.value = colours[form.elements.base.value];
  base = form.elements.base.value;
});

form.addEventListener("change", (event) => {
  if (event.isTrusted) event.target.closest(".brief-field")?.classList.remove("just-set");
});
