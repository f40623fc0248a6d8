// Keys and progress that every stage shares.

const typing = (target) => target.closest?.("input, select, textarea, [contenteditable]");

document.addEventListener("keydown", (event) => {
  const undoing = (event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z";
  if (undoing && !typing(event.target)) {
    const button = document.querySelector(`[data-key="${event.shiftKey ? "redo" : "undo"}"]`);
    if (button && !button.disabled) {
      event.preventDefault();
      button.click();
    }
    return;
  }
  const keys = document.getElementById("keys");
  if (event.key === "?" && keys && !typing(event.target)) return keys.open ? keys.close() : keys.showModal();
  if (keys?.open) return;
  if (typing(event.target) || event.ctrlKey || event.metaKey || event.altKey) return;
  const stage = document.querySelector(`[data-stage-key="${event.key}"]`);
  if (stage) stage.click();
});

document.querySelector("[data-keys]")?.addEventListener("click", () => document.getElementById("keys").showModal());

for (const form of document.querySelectorAll("form[data-progress]")) {
  form.addEventListener("submit", () => {
    const button = form.querySelector("button.btn-primary");
    button.setAttribute("aria-busy", "true");
    button.textContent = "Reading the artwork…";
  });
}
