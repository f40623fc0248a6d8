// What is under a hand on Build is not taken away: panels that come meanwhile wait, and what is set and not sent stays.

const panelOf = (target) => target.closest?.("#values, #stack");
let pressed = false; // a button of the panels is down
let open = null; // the list that is open
let later = null; // what to do once the hand lets go

const held = () => pressed || open?.isConnected || isTyped();

// Whether somebody is in a field of the panels that reads otherwise than what was sent of it last.
export function isTyped() {
  const field = document.activeElement?.closest("#values input, #values textarea");
  return Boolean(field) && field.value !== (field.dataset.sent ?? field.defaultValue);
}
document.addEventListener("change", ({ target }) => target.matches?.("#values input, #values textarea") && (target.dataset.sent = target.value), true);

// Whether panels have to wait; `then` is done once they need not.
export function waitsFor(then) {
  if (!held()) return false;
  later = then;
  return true;
}

function letGo() {
  if (held() || !later) return;
  const then = later;
  later = null;
  then();
}

document.addEventListener("pointerdown", (event) => {
  const list = event.target.matches?.("#values select");
  if (list) open = event.target;
  else pressed = Boolean(panelOf(event.target));
}, true);
for (const end of ["pointerup", "pointercancel"]) {
  document.addEventListener(end, () => {
    pressed = false;
    setTimeout(letGo, 0); // the click comes first
  }, true);
}
document.addEventListener("keydown", (event) => {
  if (!event.target.matches?.("#values select")) return;
  if (event.key === "Escape" || event.key === "Tab") open = null;
  else if ([" ", "Enter", "F4", "ArrowDown", "ArrowUp"].includes(event.key)) open = event.target;
}, true);
for (const end of ["change", "focusout"]) {
  document.addEventListener(end, (event) => {
    if (event.target === open) open = null;
    if (panelOf(event.target)) setTimeout(letGo, 0);
  }, true);
}

// Controls that are set and wait for a button: what they were set to is kept from panel to panel until it is pressed.
const unsent = new Map();
export function forget() {
  unsent.clear();
}
document.addEventListener("input", (event) => {
  const { id, form, value } = event.target;
  if (id && form?.closest("#values") && !form.getAttribute("hx-trigger")?.includes("change")) unsent.set(id, value);
});
document.addEventListener("htmx:configRequest", (event) => {
  for (const control of event.detail.elt.closest?.("#values form")?.elements ?? []) unsent.delete(control.id);
});
document.addEventListener("htmx:afterSwap", () => {
  for (const [id, value] of unsent) {
    const control = document.getElementById(id);
    if (!control) continue;
    control.value = value;
    if (control.value !== value) unsent.delete(id); // a list that offers it no longer
  }
});
