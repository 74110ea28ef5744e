// The ruler: an edge that is dragged, or moved with the arrow keys, changes the tolerance or the part marks of its part.
import { on } from "../../design/scripts/delegate.js";
import { ask } from "./asking.js";
import { carryOut, put } from "./filling.js";
import { distanceAt, wider } from "./line.js";
import { changed } from "./renew.js";

let edge = null;
let underway = false;
let next = null;

function moved(handle, distance) {
  const { part, key } = handle.closest("[data-ruler]").dataset;
  return { part, key, distance, drags: handle.dataset.drags, band: handle.dataset.edge };
}

// at most one question is on its way, and the newest place of the edge is never forgotten
async function follow(done) {
  next = done;
  if (underway) return;
  underway = true;
  while (next) {
    const asked = next;
    next = null;
    put((await ask("edge", asked))?.fields);
  }
  underway = false;
  if (!edge) changed();
}

function settle() {
  if (!edge) return;
  edge = null;
  if (!underway) changed();
}

on("pointerdown", "[data-edge]", (handle, event) => {
  edge = handle;
  event.preventDefault();
});
document.addEventListener("pointermove", (event) => {
  if (!edge) return;
  // the button was let go outside the window
  if (!event.buttons) {
    settle();
    return;
  }
  const svg = edge.closest("[data-ruler]");
  follow(moved(edge, distanceAt(svg.getBoundingClientRect(), event.clientX, Number(svg.dataset.scale))));
});
document.addEventListener("pointerup", settle);
document.addEventListener("pointercancel", settle);

on("keydown", "[data-edge]", async (handle, event) => {
  if (!["ArrowLeft", "ArrowRight"].includes(event.key)) return;
  event.preventDefault();
  const scale = Number(handle.closest("[data-ruler]").dataset.scale);
  const place = Number(handle.getAttribute("aria-valuenow"));
  carryOut(await ask("edge", moved(handle, wider(place, scale, event.key === "ArrowRight"))));
});
