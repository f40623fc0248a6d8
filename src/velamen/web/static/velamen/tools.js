// The tools beside the board: what is typed is sent, shown beforehand where that helps, and kept when the page answers.

const OF_CHOSEN = ["rename", "size", "cloth", "retype", "around", "backdrop"]; // these show what is, not what was typed
const AT_ONCE = ["rename", "size", "cloth", "backdrop"];
const FORMS = "form[data-do], form.tool";
export const shownLength = (mm, inch) => (inch ? (mm / 25.4).toFixed(2) : mm.toFixed(1));

export function attachTools(root, edit, chosen) {
  for (const form of root.querySelectorAll("form[data-do]")) {
    form.addEventListener("submit", (event) => {
      event.preventDefault();
      if (!["rename", "size"].includes(form.dataset.do)) edit(form.dataset.do, Object.fromEntries(new FormData(form)));
    });
    if (AT_ONCE.includes(form.dataset.do)) {
      form.addEventListener("change", ({ target }) => edit(form.dataset.do, { [target.name]: target.value }));
    }
    if (form.matches(".lettering")) {
      form.addEventListener("input", () => tellLeast(form));
      tellLeast(form);
      if (form.elements.sewn) form.addEventListener("input", () => judge(form));
    }
    if (form.dataset.preview !== undefined) attachPreview(root, form, chosen);
  }
  for (const button of root.querySelectorAll("button[data-do]")) {
    button.addEventListener("click", () => {
      const asked = new URLSearchParams(button.dataset.with || "");
      edit(button.dataset.now || button.dataset.do, Object.fromEntries(asked));
    });
  }
  for (const form of root.querySelectorAll("form.tool:not([data-do])")) {
    form.addEventListener("submit", (event) => event.preventDefault());
  }
}

// How each typeface does for the text, where what it is sewn as judges that: said beside its name, and of the chosen
// one below.
let judging = 0;
function judge(form) {
  const address = form.elements.sewn.selectedOptions[0]?.dataset.judged, text = form.elements.text.value || form.elements.text.placeholder;
  const told = form.querySelector(".judged-told"), mine = ++judging;
  const say = (found) => {
    for (const option of form.elements.typeface.options) {
      option.dataset.name ??= option.textContent;
      const one = found[option.value];
      option.textContent = one ? `${option.dataset.name} · ${one.fits ? "fits" : "falls short"}` : option.dataset.name;
    }
    const one = found[form.elements.typeface.value];
    told.hidden = !one;
    told.classList.toggle("wrong", Boolean(one && !one.fits));
    told.textContent = one ? `${form.elements.sewn.selectedOptions[0].textContent}: ${one.told}.` : "";
  };
  if (!address) return say({});
  told.hidden = false;
  told.classList.remove("wrong");
  told.textContent = "Looking at the strokes…";
  setTimeout(async () => {
    if (mine !== judging) return; // typed on
    const asked = new URLSearchParams({ construct: form.elements.sewn.value, text, height: form.elements.letter_height.value });
    const found = await (await fetch(`${address}?${asked}`)).json();
    if (mine === judging) say(found);
  }, 250);
}

// Below its smallest height a typeface's strokes are too thin to sew.
function tellLeast(form) {
  const least = Number(form.elements.typeface.selectedOptions[0]?.dataset.smallest);
  const height = parseFloat(form.elements.letter_height.value);
  const told = form.querySelector(".least-height");
  told.hidden = !(height < least) || form.elements.as.value === "monogram";
  told.textContent = `Strokes under 1 mm: ${least.toFixed(1)} mm or more sews well.`;
}

// How a shape would be mended, drawn over how it is.
function attachPreview(root, form, chosen) {
  let timer = 0;
  const clear = () => root.querySelector("#after")?.remove();
  const show = () => {
    clearTimeout(timer);
    timer = setTimeout(async () => {
      const typed = Object.fromEntries(new FormData(form));
      const asked = new URLSearchParams({ ...typed, do: form.dataset.do, ids: chosen().join(" ") });
      const found = await (await fetch(`${root.dataset.after}?${asked}`)).json();
      clear();
      const told = root.querySelector("#mend-told");
      told.textContent = found.wrong ?? `${found.before} points before, ${found.after} after.`;
      if (!found.path) return;
      const path = document.createElementNS("http://www.w3.org/2000/svg", "path");
      path.id = "after";
      path.setAttribute("d", found.path);
      path.setAttribute("vector-effect", "non-scaling-stroke");
      root.querySelector("#board").append(path);
    }, 180);
  };
  form.addEventListener("input", show);
  form.addEventListener("focusin", show);
  form.addEventListener("focusout", () => {
    clearTimeout(timer);
    clear();
  });
}

// Fills the form of the live text or outline that is chosen; gives which of both it is.
export function fillLive(root, maker, refused) {
  const known = JSON.parse(root.querySelector("#makers").textContent)[maker];
  if (!known) return "";
  const form = root.querySelector(`form[data-do="${known.kind === "text" ? "retype" : "around"}"]`);
  form.elements.maker.value = known.maker;
  if (refused) return known.kind;
  for (const [name, value] of Object.entries(known)) if (form.elements[name]) form.elements[name].value = typeof value === "number" ? value.toFixed(1) : value;
  if (known.kind === "text") tellLeast(form);
  return known.kind;
}

// What stands in the tools, which of them are open, and how far they are scrolled.
export function keepTools(root) {
  const typed = new Map();
  for (const form of root.querySelectorAll(FORMS)) {
    for (const field of form.elements) {
      if (!isTyped(field)) continue;
      typed.set(nameOf(form, field), field.type === "checkbox" ? field.checked : field.value);
    }
  }
  const open = [...root.querySelectorAll("details[id][open]")].map((part) => part.id);
  return { typed, open, scroll: root.querySelector(".tools-side").scrollTop };
}

export function restoreTools(root, kept, refused) {
  for (const form of root.querySelectorAll(FORMS)) {
    if (OF_CHOSEN.includes(form.dataset.do) && !refused) continue;
    for (const field of form.elements) {
      const value = kept.typed.get(nameOf(form, field));
      if (!isTyped(field) || value === undefined) continue;
      if (field.type === "checkbox") field.checked = value;
      else field.value = value;
    }
  }
  for (const part of root.querySelectorAll("details[id]")) if (part.id !== "points") part.open = kept.open.includes(part.id);
  root.querySelector(".tools-side").scrollTop = kept.scroll;
}

function isTyped(field) {
  return field.name && field.type !== "hidden";
}

function nameOf(form, field) {
  const basic = form.elements.basic?.value ?? "";
  return `${form.dataset.do ?? ""} ${basic} ${field.name}`;
}
