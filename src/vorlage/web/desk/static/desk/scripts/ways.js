// What a cell takes is shown below it while it is empty; a way is taken with a press.
import { on } from "../../design/scripts/delegate.js";

let shown = null;
let field = null;

function hide() {
  shown?.remove();
  shown = null;
}

function kindOf(cell) {
  return cell.dataset.cell ?? (cell.name.endsWith("-tolerance") ? "tolerance" : "");
}

function show(cell) {
  hide();
  field = cell;
  const template = document.querySelector(`[data-ways="${kindOf(cell)}"]`);
  if (!template || cell.value) return;
  shown = template.content.firstElementChild.cloneNode(true);
  const row = cell.closest(".cells, .condition-row, .side") ?? cell;
  row.after(shown);
}

on("focusin", "#desk .fields input", show);
on("focusout", "#desk .fields input", hide);
on("input", "#desk .fields input", (cell) => {
  if (cell.value) hide();
  else show(cell);
});
// the press leaves the focus where it is
on("mousedown", ".ways", (_, event) => event.preventDefault());
on("click", "[data-way]", (button) => {
  if (!field) return;
  field.value = button.dataset.way;
  hide();
  field.dispatchEvent(new Event("input", { bubbles: true }));
});
