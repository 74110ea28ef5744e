// Rows copied from a spreadsheet are pasted into rows of cells, wherever there are some.
import { on } from "../../design/scripts/delegate.js";
import { cellsOf } from "./cells.js";
import { changed } from "./renew.js";
import { made } from "./rows.js";

function cellsIn(row) {
  return [...row.querySelectorAll("[data-cell]")];
}

function rowAfter(row) {
  const next = row.nextElementSibling;
  const isFree = next?.matches("[data-row]") && cellsIn(next).every((field) => !field.value || field.matches("select"));
  if (isFree) return next;
  const fresh = made(row.parentElement);
  row.after(fresh);
  return fresh;
}

/** A cell of a list of choices takes the choice that says the same. */
function put(field, value) {
  if (!field.matches("select")) {
    field.value = value;
    return;
  }
  const choice = [...field.options].find((each) => [each.value, each.textContent.trim()].includes(value));
  if (choice) field.value = choice.value;
}

on("paste", "#desk [data-row] input[data-cell]", (cell, event) => {
  const cells = cellsOf(event.clipboardData?.getData("text/plain") ?? "");
  let row = cell.closest("[data-row]");
  if (!cells || !row.parentElement.dataset.template) return;
  event.preventDefault();
  const first = cellsIn(row).indexOf(cell);
  for (const [number, line] of cells.entries()) {
    if (number) row = rowAfter(row);
    const fields = cellsIn(row);
    for (const [place, value] of line.entries()) {
      if (fields[first + place]) put(fields[first + place], value);
    }
  }
  changed();
});
