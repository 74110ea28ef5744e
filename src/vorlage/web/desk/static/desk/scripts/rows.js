// Rows of the desk: a cross takes a row away; Enter goes to the next row and makes one at the end; Alt and the arrow
// keys move a row, Alt and D copies it below itself under names of its own.
import { on } from "../../design/scripts/delegate.js";
import { changed, renew } from "./renew.js";

on("click", "[data-drop]", (cross) => {
  const row = cross.closest("[data-row]");
  const neighbour = row.nextElementSibling || row.previousElementSibling;
  row.remove();
  neighbour?.querySelector("input, textarea")?.focus();
  renew();
});

on("keydown", "#desk input", (field, event) => {
  if (event.key !== "Enter" || event.isComposing || field.type === "submit") return;
  // Enter in a field of the desk never sends the form by accident
  event.preventDefault();
  if (!("cell" in field.dataset)) {
    renew();
    return;
  }
  const row = field.closest("[data-row]");
  const next = row.nextElementSibling;
  if (next?.matches("[data-row]")) next.querySelector(`[data-cell="${field.dataset.cell}"]`)?.focus();
  else document.getElementById(row.parentElement.dataset.adder).click();
});

// A new row is ready to be typed into
document.addEventListener("htmx:afterSettle", (event) => {
  const asked = event.detail.requestConfig?.elt;
  const list = event.detail.target;
  if (asked?.matches?.("[data-cure]")) {
    renew();
    return;
  }
  if (asked && list?.dataset?.adder === asked.id) {
    list.lastElementChild.querySelector("input:not([type=hidden]), textarea")?.focus();
  }
});

on("keydown", "#desk [data-row]", (row, event) => {
  if (!event.altKey || !["ArrowUp", "ArrowDown"].includes(event.key) || event.target.matches("select")) return;
  const up = event.key === "ArrowUp";
  const other = up ? row.previousElementSibling : row.nextElementSibling;
  event.preventDefault();
  if (!other?.matches("[data-row]")) return;
  if (up) other.before(row);
  else other.after(row);
  event.target.focus();
  renew();
});

// A row that was dragged has a new place in the question
on("rowmoved", "#desk [data-row]", changed);

/** A new identity for a row that a script makes. */
export function newIdentity() {
  return Math.random().toString(16).slice(2, 10);
}

/** A copy of a row, below it, under an identity of its own. */
export function copied(row) {
  const copy = row.cloneNode(true);
  const old = row.querySelector("input[type=hidden]").value;
  const fresh = newIdentity();
  for (const each of copy.querySelectorAll("[name], [id], [for], [aria-describedby]")) {
    for (const kind of ["name", "id", "for", "aria-describedby"]) {
      if (each.hasAttribute(kind)) each.setAttribute(kind, each.getAttribute(kind).replace(old, fresh));
    }
  }
  copy.querySelector("input[type=hidden]").value = fresh;
  row.after(copy);
  for (const message of copy.querySelectorAll(".row-message")) message.replaceChildren();
  return copy;
}

on("keydown", "#desk .cells[data-row], #desk .condition-row, #desk .option-row", (row, event) => {
  if (!event.altKey || event.key.toLowerCase() !== "d") return;
  event.preventDefault();
  copied(row).querySelector("input:not([type=hidden])").focus();
  renew();
});
