// Answers that are tried on the sheet: they stay on the ruler as dots, and can be kept as sample answers.
import { on } from "../../design/scripts/delegate.js";
import { ask } from "./asking.js";
import { carryOut } from "./filling.js";

const MOST = 6;

/** Tried answers, the newest last and each once. */
export function remembered(lines, tried) {
  return [...lines.filter((line) => line && line !== tried), tried].slice(-MOST);
}

/** The place in the question of the part on the sheet that something lies in. */
export function partAt(element) {
  return Number(element.closest("[data-sheet-part]")?.dataset.number ?? 0);
}

on(
  "change",
  ".tried-answer",
  (field) => {
    const tried = field.value.trim();
    if (!tried) return;
    const [kept] = document.getElementsByName(field.name.replace("try-", "tries-"));
    kept.value = remembered(kept.value.split("\n"), tried).join("\n");
  },
  { capture: true },
);

// the sheet may be renewed with what was asked before something was typed on it: what stands there counts
let standing = [];
document.addEventListener("htmx:oobBeforeSwap", (event) => {
  if (event.detail.target.id !== "sheet") return;
  const fields = event.detail.target.querySelectorAll(".tried-answer, [name^=tries-]");
  standing = [...fields].map((field) => [field.name, field.value]);
});
document.addEventListener("htmx:oobAfterSwap", () => {
  for (const [name, value] of standing.splice(0)) {
    const [field] = document.getElementsByName(name);
    if (field && field.value !== value) field.value = value;
  }
});

on("click", "[data-keep-trial]", async (button) => {
  carryOut(await ask("trial", { part: partAt(button), outcome: button.dataset.keepTrial }));
});
