// The rule table narrowed by words as they are typed.

const words = document.getElementById("rule-words");
words.closest("form").addEventListener("submit", (event) => event.preventDefault());
words.addEventListener("input", () => {
  const wanted = words.value.toLowerCase().split(/\s+/).filter(Boolean);
  let found = 0;
  for (const table of document.querySelectorAll(".rule-table")) {
    let shown = 0;
    for (const row of table.querySelectorAll("tbody tr")) {
      const text = row.textContent.toLowerCase();
      row.hidden = !wanted.every((word) => text.includes(word));
      shown += row.hidden ? 0 : 1;
    }
    table.hidden = shown === 0;
    found += shown;
  }
  document.getElementById("no-rule").hidden = found > 0;
});
