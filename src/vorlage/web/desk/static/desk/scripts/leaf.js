// What this page sends is counted, under a name that it gets when it is loaded: the server tells what was overtaken on
// its way, by a save or by what was typed later.
import { on } from "../../design/scripts/delegate.js";

const bytes = crypto.getRandomValues(new Uint8Array(8));
const leaf = [...bytes].map((byte) => byte.toString(16).padStart(2, "0")).join("");
let stroke = 0;
let ended = false;

for (const field of document.querySelectorAll("[data-leaf]")) field.value = leaf;

document.addEventListener("htmx:configRequest", (event) => {
  if (event.detail.elt.id !== "desk") return;
  // a draft that is put away is not written again
  if (ended) {
    event.preventDefault();
    return;
  }
  stroke += 1;
  for (const field of document.querySelectorAll("[data-stroke]")) field.value = stroke;
  event.detail.parameters.stroke = stroke;
});

on("submit", "[data-ends]", () => {
  ended = true;
});
