// Rows copied from a spreadsheet are pasted into rows of parameters.
import { on } from "../../design/scripts/delegate.js";
import { cellsOf } from "./cells.js";
import { changed } from "./renew.js";
import { copied } from "./rows.js";

const ORDER = ["name", "definition", "unit", "shown"];

function isEmpty(row) {
  return [...row.querySelectorAll("[data-cell]")].every((field) => !field.value);
}

function emptied(row) {
  for (const field of row.querySelectorAll("[data-cell]")) field.value = "";
  return row;
}

function rowAfter(row) {
  const next = row.nextElementSibling;
  return next?.matches("[data-row]") && isEmpty(next) ? next : emptied(copied(row));
}

on("paste", "#parameters input[data-cell]", (cell, event) => {
  const cells = cellsOf(event.clipboardData?.getData("text/plain") ?? "");
  if (!cells) return;
  event.preventDefault();
  const first = ORDER.indexOf(cell.dataset.cell);
  let row = cell.closest("[data-row]");
  for (const [number, line] of cells.entries()) {
    if (number) row = rowAfter(row);
    for (const [place, value] of line.entries()) {
      const field = row.querySelector(`[data-cell="${ORDER[first + place]}"]`);
      if (field) field.value = value;
    }
  }
  changed();
});
