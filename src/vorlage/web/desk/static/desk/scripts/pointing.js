// A place in a figure is tried by pointing at it; with the Shift key it gets a region.
import { on } from "../../design/scripts/delegate.js";
import { ask } from "./asking.js";
import { coordinates } from "./figure.js";
import { fill } from "./filling.js";
import { askedPart } from "./tries.js";

const FIGURE = "#sheet svg.figure";

function isPointed() {
  const part = document.querySelectorAll("#parts > .part-fields")[askedPart()];
  return Boolean(part?.querySelector("[data-pointed]"));
}

on("pointerover", FIGURE, (figure) => figure.classList.toggle("is-asked", isPointed()));

on("click", FIGURE, async (figure, event) => {
  if (!isPointed()) return;
  const frame = figure.dataset.frame.split(" ").map(Number);
  const layout = figure.dataset.place.split(" ").map(Number);
  const [x, y] = coordinates(frame, layout, figure.getBoundingClientRect(), figure.viewBox.baseVal.width, event);
  const done = { part: askedPart(), x, y, width: frame[1] - frame[0] };
  fill(await ask("place", event.shiftKey ? { ...done, region: "1" } : done));
});
