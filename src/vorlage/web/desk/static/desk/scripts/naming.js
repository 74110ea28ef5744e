// Who does not see where a field stands hears it: every part is a group with its label, every row one with its place.
import { labelsOf } from "./labels.js";

function name(element, label) {
  if (element.getAttribute("role") !== "group") element.setAttribute("role", "group");
  if (element.getAttribute("aria-label") !== label) element.setAttribute("aria-label", label);
}

function nameParts() {
  const parts = [...document.querySelectorAll("#parts > .part-fields")];
  const labels = labelsOf(parts.map((part) => part.querySelector("[data-under]")?.checked ?? false));
  for (const [k, part] of parts.entries()) {
    name(part, labels[k] ? `Part ${labels[k]}` : "Part");
    for (const list of part.querySelectorAll("[data-list]")) nameRows(list, list.dataset.list);
  }
}

function nameRows(list, what) {
  for (const [k, row] of [...list.querySelectorAll(":scope > [data-row]")].entries()) name(row, `${what} ${k + 1}`);
}

function nameAll() {
  nameParts();
  for (const list of document.querySelectorAll("#desk [data-list]")) {
    if (!list.closest(".part-fields")) nameRows(list, list.dataset.list);
  }
}

const fields = document.querySelector("#desk .fields");
if (fields) {
  nameAll();
  new MutationObserver(nameAll).observe(fields, { childList: true, subtree: true });
  fields.addEventListener("change", (event) => event.target.matches("[data-under]") && nameParts());
}
