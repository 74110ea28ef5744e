// Answers that were tried: they stay on the ruler as dots, and can be kept as one of the author's own tests.
import { on } from "../../design/scripts/delegate.js";
import { ask } from "./asking.js";
import { fill } from "./filling.js";

const MOST = 6;

/** Tried answers, the newest last and each once. */
export function remembered(lines, tried) {
  return [...lines.filter((line) => line && line !== tried), tried].slice(-MOST);
}

/** Which part is tried, by its place. */
export function askedPart() {
  return Number(document.getElementById("try-part")?.value ?? 0);
}

on(
  "change",
  "#try",
  (field) => {
    const tried = field.value.trim();
    if (!tried) return;
    const kept = document.getElementById("tries");
    kept.value = remembered(kept.value.split("\n"), tried).join("\n");
  },
  { capture: true },
);

on("click", "[data-keep-trial]", async (button) => {
  fill(await ask("trial", { part: askedPart(), outcome: button.dataset.keepTrial }));
});
