// What this page sends is counted, under a name that it gets when it is loaded: the server tells what was overtaken on
// its way, by a save or by what was typed later.
import { on } from "../../design/scripts/delegate.js";

const bytes = crypto.getRandomValues(new Uint8Array(8));
/** The name of this page, as long as it is open. */
export const leaf = [...bytes].map((byte) => byte.toString(16).padStart(2, "0")).join("");
let stroke = 0;
let ended = false;

for (const field of document.querySelectorAll("[data-leaf]")) field.value = leaf;

/** Counts something that is sent; its number. */
export function nextStroke() {
  stroke += 1;
  for (const field of document.querySelectorAll("[data-stroke]")) field.value = stroke;
  return stroke;
}

document.addEventListener("htmx:configRequest", (event) => {
  if (!["desk", "save"].includes(event.detail.elt.id)) return;
  // a draft that is discarded is not written again
  if (ended) {
    event.preventDefault();
    return;
  }
  event.detail.parameters.stroke = nextStroke();
});

// what was asked before the answer to a save came knows nothing of it: it is not shown, and what was typed meanwhile is
// asked for anew
let overtaken = 0;
document.body.addEventListener("kept", (event) => {
  overtaken = stroke;
  if (stroke > event.detail.stroke) window.htmx.trigger(document.getElementById("desk"), "renew");
});
document.addEventListener("htmx:beforeSwap", (event) => {
  const { elt, parameters } = event.detail.requestConfig ?? {};
  if (elt?.id === "desk" && Number(parameters.stroke) <= overtaken) event.detail.shouldSwap = false;
});

on("submit", "[data-ends]", (_, event) => {
  if (!event.defaultPrevented) ended = true;
});
// a page from the browser's memory may be older than the draft
window.addEventListener("pageshow", (event) => {
  if (event.persisted) window.location.reload();
});
// two requests of this person are being answered already: it is asked again in a moment
let waiting = 0;
document.body.addEventListener("wait", (event) => {
  clearTimeout(waiting);
  waiting = setTimeout(() => window.htmx.trigger(event.target, event.target.id === "desk" ? "renew" : "click"), 700);
});
