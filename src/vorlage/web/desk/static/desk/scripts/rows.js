// Rows of the desk: made from their templates, on the page itself; a cross takes one away; Enter goes to the next row and
// makes one at the end; Alt and the arrow keys move a row, Alt and D copies it below itself under names of its own.
import { on } from "../../design/scripts/delegate.js";
import { changed, renew } from "./renew.js";
import { removed } from "./undo.js";

const FIELD = "input:not([type=hidden]), textarea, select";
const FIRST = "[data-first], input[data-cell], .form-control";

/** A new identity for a row that a script makes. */
export function newIdentity() {
  return crypto.getRandomValues(new Uint32Array(1))[0].toString(16).padStart(8, "0");
}

/** A new row at the end of a list, with what is to stand in its cells; it can be typed into at once. */
export function made(list, values = {}) {
  const template = document.getElementById(list.dataset.template);
  const holder = document.createElement("template");
  holder.innerHTML = template.innerHTML.replaceAll(template.dataset.identity, newIdentity());
  const row = holder.content.querySelector("[data-row]");
  list.append(holder.content);
  for (const [cell, value] of Object.entries(values)) row.querySelector(`[data-cell="${cell}"]`).value = value;
  window.htmx.process(row);
  return row;
}

function firstOf(row) {
  return row.querySelector("[data-first]") ?? row.querySelector(FIRST);
}

on("click", "[data-add]", (button) => {
  const list = document.getElementById(button.dataset.add);
  // a further part has the marks of the one before
  const before = list.lastElementChild?.querySelector("[name$=-marks]")?.value;
  const row = made(list);
  const marks = row.matches(".part-fields") && row.querySelector("[name$=-marks]");
  if (marks && before) marks.value = before;
  firstOf(row)?.focus();
  changed();
});

document.addEventListener("keydown", (event) => {
  if (!event.altKey || event.key !== "Enter" || !event.target.closest?.("#desk .fields")) return;
  event.preventDefault();
  document.querySelector("[data-add=parts]")?.click();
});

// a message offers a row: a parameter for a name, a condition that ends some trouble
on("click", "[data-make]", (button) => {
  const list = document.getElementById(button.dataset.make);
  const [cell] = Object.keys(JSON.parse(button.dataset.values));
  const empty = [...list.children].find(
    (row) => row.matches("[data-row]") && [...row.querySelectorAll("[data-cell]")].every((each) => !each.value),
  );
  const row = empty ?? made(list);
  row.querySelector(`[data-cell="${cell}"]`).value = JSON.parse(button.dataset.values)[cell];
  const next = row.querySelector("[data-cell=definition]") ?? row.querySelector(FIELD);
  next.focus();
  changed();
});

function called(row, what) {
  const name = [...row.querySelectorAll(FIELD)].map((each) => each.value?.trim()).find(Boolean) ?? "";
  const short = name.length > 30 ? `${name.slice(0, 30)}…` : name;
  return short && !row.matches(".part-fields") ? `${what} ${short}` : what;
}

on("click", "[data-drop]", (cross) => {
  const row = cross.closest("[data-row]");
  const [list, next] = [row.parentElement, row.nextElementSibling];
  const neighbour = next || row.previousElementSibling;
  const words = `${called(row, cross.dataset.drop)} is taken out.`;
  row.remove();
  removed(words, () => {
    if (next?.isConnected) next.before(row);
    else list.append(row);
    row.querySelector(FIELD)?.focus();
    changed();
  });
  const focused = neighbour?.matches("[data-row]") ? neighbour.querySelector(FIRST) : null;
  (focused ?? document.querySelector(`[data-add="${list.id}"]`))?.focus();
  changed();
});

on("keydown", "#desk input", (field, event) => {
  if (event.key !== "Enter" || event.altKey || event.isComposing || field.type === "submit") return;
  // Enter in a field of the desk never sends the form by accident
  event.preventDefault();
  if (!("cell" in field.dataset)) {
    renew();
    return;
  }
  const row = field.closest("[data-row]");
  const next = row.nextElementSibling;
  if (next?.matches("[data-row]")) next.querySelector(`[data-cell="${field.dataset.cell}"]`)?.focus();
  else made(row.parentElement).querySelector(FIRST)?.focus();
});

// A part that changed its kind is computed anew
document.addEventListener("htmx:afterSettle", (event) => {
  if (event.detail.requestConfig?.elt?.matches?.("[data-cure]")) renew();
});

on("keydown", "#desk [data-row]", (row, event) => {
  if (!event.altKey || !["ArrowUp", "ArrowDown"].includes(event.key) || event.target.matches("select")) return;
  if (event.target.closest("[data-row]") !== row) return;
  const up = event.key === "ArrowUp";
  const other = up ? row.previousElementSibling : row.nextElementSibling;
  event.preventDefault();
  if (!other?.matches("[data-row]")) return;
  if (up) other.before(row);
  else other.after(row);
  event.target.focus();
  changed();
});

// A row that was dragged has a new place in the question
on("rowmoved", "#desk [data-row]", changed);

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
  copied(row).querySelector(FIRST).focus();
  changed();
});
