// The list of questions: what is in the tray is marked, the keys run through the rows, the tray is arranged by dragging.

const WIDE = window.matchMedia("(min-width: 60.01rem)");

/** The buttons say what is in the tray already. */
function markCollected() {
  const inner = document.querySelector("#tray [data-in]");
  const there = new Set(inner ? inner.dataset.in.split(" ") : []);
  for (const button of document.querySelectorAll("[data-collect]")) {
    const held = there.has(button.dataset.collect);
    button.setAttribute("aria-pressed", held ? "true" : "false");
    button.textContent = held ? "In the tray" : "Into the tray";
    button.setAttribute("aria-label", `${button.textContent}: ${button.dataset.title}`);
  }
}

// Counts that are still on their way belong to what was chosen before: they would take the new choice away again.
document.addEventListener("change", (event) => {
  if (event.target.closest("#facets")) window.htmx.trigger("#facets", "htmx:abort");
});

// rows

function rows() {
  return [...document.querySelectorAll("[data-rows] [data-row]")];
}

function choose(row, focus) {
  for (const each of rows()) each.toggleAttribute("aria-current", false);
  row.setAttribute("aria-current", "true");
  const link = row.querySelector("[data-look]");
  if (focus) link.focus();
  row.scrollIntoView({ block: "nearest" });
  window.htmx.trigger(link, "look");
}

function chooseFirst() {
  const all = rows();
  if (all.length && WIDE.matches && !all.some((row) => row.hasAttribute("aria-current"))) choose(all[0], false);
}

function isTyped(target) {
  return target.closest("input:not([type=checkbox], [type=radio]), textarea, select, summary, [contenteditable]");
}

document.addEventListener("keydown", (event) => {
  if (event.altKey || event.ctrlKey || event.metaKey || isTyped(event.target)) return;
  const all = rows();
  if (!all.length) return;
  const at = all.findIndex((row) => row.hasAttribute("aria-current"));
  const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
  if (step) {
    event.preventDefault();
    choose(all[Math.max(0, Math.min(all.length - 1, at + step))], true);
  } else if (at >= 0 && event.key.toLowerCase() === "t") {
    document.querySelector("#look [data-collect]")?.click();
  } else if (at >= 0 && event.key.toLowerCase() === "x") {
    all[at].querySelector("input[type=checkbox]")?.click();
  }
});

document.addEventListener("click", (event) => {
  const fold = event.target.closest("[data-unfold]");
  if (fold) {
    const open = document.getElementById(fold.dataset.unfold).classList.toggle("is-open");
    fold.setAttribute("aria-expanded", open ? "true" : "false");
    return;
  }
  const row = event.target.closest("[data-row]");
  if (row && !event.target.closest("a, input, button")) choose(row, true);
});

// the tray by dragging

let carried = null;

document.addEventListener("dragstart", (event) => {
  carried = event.target.closest?.("[data-sortable] [data-item]");
  carried?.classList.add("is-dragged");
});

document.addEventListener("dragover", (event) => {
  const over = event.target.closest?.("[data-item]");
  if (!carried || !over) return;
  event.preventDefault();
  if (over === carried) return;
  const { left, width } = over.getBoundingClientRect();
  if (event.clientX < left + width / 2) over.before(carried);
  else over.after(carried);
});

document.addEventListener("dragend", () => {
  if (!carried) return;
  carried.classList.remove("is-dragged");
  window.htmx.trigger(carried.parentElement, "sorted");
  carried = null;
});

document.addEventListener("htmx:afterSettle", (event) => {
  markCollected();
  if (event.target.id === "results") chooseFirst();
});

markCollected();
window.addEventListener("load", chooseFirst);
