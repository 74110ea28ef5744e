// A parameter that is given another name can be renamed wherever it is used; the server finds where.
import { on } from "../../design/scripts/delegate.js";
import { ask } from "./asking.js";
import { carryOut } from "./filling.js";

const NAMES = "#parameters [data-cell=name]";

on("focusin", NAMES, (field) => {
  field.dataset.was = field.value.trim();
});

on("change", NAMES, async (field) => {
  const old = field.dataset.was;
  const now = field.value.trim();
  if (!old || !now || old === now) return;
  const done = { old, new: now };
  const count = Object.keys((await ask("rename", done))?.fields ?? {}).length;
  if (!count) return;
  const button = document.createElement("button");
  button.type = "button";
  button.className = "btn btn-quiet rename";
  button.textContent = `Rename ${old} to ${now} in ${count} other field${count === 1 ? "" : "s"}`;
  button.addEventListener("click", async () => {
    carryOut(await ask("rename", done));
    button.remove();
  });
  field.closest("[data-row]").after(button);
});
