// The room on the desk: the edge between fields and sheet, and the drawer of draws, are dragged or moved with the arrow
// keys, and remembered; F6 walks from region to region.
import { on } from "../../design/scripts/delegate.js";

const REGIONS = [".fields", ".paper-side", "#draws", "#where"];
const desk = document.getElementById("desk");
const LIMITS = { split: [25, 75], drawer: [5, 70] };
let dragged = null;

function place(edge, value) {
  const [least, most] = LIMITS[edge.dataset.edgeOf];
  const kept = Math.min(most, Math.max(least, value));
  desk.style.setProperty(`--${edge.dataset.edgeOf}`, edge.dataset.edgeOf === "split" ? `${kept}%` : `${kept}vh`);
  edge.setAttribute("aria-valuenow", Math.round(kept));
  localStorage.setItem(`room ${edge.dataset.edgeOf}`, kept);
  return kept;
}

/** Where an edge is when the pointer is at a place: a share of the desk's width, or of the window's height. */
export function shareAt(kind, box, height, { clientX, clientY }) {
  if (kind === "split") return (100 * (clientX - box.left)) / box.width;
  return (100 * (height - clientY)) / height;
}

if (desk) {
  for (const edge of document.querySelectorAll("[data-edge-of]")) {
    const kept = Number(localStorage.getItem(`room ${edge.dataset.edgeOf}`));
    if (kept) place(edge, kept);
  }
}

on("pointerdown", "[data-edge-of]", (edge, event) => {
  dragged = edge;
  event.preventDefault();
  document.body.classList.add("is-dragging");
});
document.addEventListener("pointermove", (event) => {
  if (!dragged) return;
  const box = desk.getBoundingClientRect();
  place(dragged, shareAt(dragged.dataset.edgeOf, box, window.innerHeight, event));
});
for (const end of ["pointerup", "pointercancel"]) {
  document.addEventListener(end, () => {
    if (!dragged) return;
    dragged = null;
    document.body.classList.remove("is-dragging");
  });
}
on("keydown", "[data-edge-of]", (edge, event) => {
  const step = { ArrowLeft: -2, ArrowRight: 2, ArrowUp: 2, ArrowDown: -2 }[event.key];
  if (!step) return;
  event.preventDefault();
  place(edge, Number(edge.getAttribute("aria-valuenow")) + step);
});

// the drawer opens to all its rows, and closes to three
on("click", "[data-drawer]", (button) => {
  const open = desk.classList.toggle("is-drawn-out");
  button.setAttribute("aria-expanded", String(open));
  localStorage.setItem("room open", open ? "1" : "");
});
if (desk && localStorage.getItem("room open")) desk.classList.add("is-drawn-out");

// where fields and sheet lie below each other
on("click", "[data-to]", (button) => document.querySelector(button.dataset.to).scrollIntoView({ behavior: "instant" }));

document.addEventListener("keydown", (event) => {
  if (event.key !== "F6" || !desk) return;
  event.preventDefault();
  const regions = REGIONS.map((name) => document.querySelector(name)).filter(Boolean);
  const here = regions.findIndex((region) => region.contains(document.activeElement));
  const next = regions.at((here + (event.shiftKey ? -1 : 1)) % regions.length);
  const last = next.querySelector("[data-last-focus]");
  const field =
    last ?? next.querySelector("input:not([type=hidden]):not(:disabled), textarea, a[href], button:not(:disabled)");
  (field ?? next).focus();
});
// each region remembers where one was in it
document.addEventListener("focusout", (event) => {
  const region = event.target.closest?.(REGIONS.join());
  if (!region) return;
  for (const each of region.querySelectorAll("[data-last-focus]")) delete each.dataset.lastFocus;
  event.target.dataset.lastFocus = "";
});
