// A place in a figure is tried by pointing at it; with the Shift key it gets a region.
import { on } from "../../design/scripts/delegate.js";
import { ask } from "./asking.js";
import { coordinates } from "./figure.js";
import { carryOut } from "./filling.js";
import { activeRow } from "./parts.js";

const FIGURE = "#sheet svg.figure";

/** The part that is answered in a figure: that in which it lies, that which is worked on, or the first. */
function pointedAt(figure) {
  const rows = [...document.querySelectorAll("#parts > .part-fields")];
  const uid = figure.closest("[data-sheet-part]")?.dataset.sheetPart;
  const own = rows.find((row) => row.dataset.part === uid);
  const asked = [own, activeRow(), ...rows].find((row) => row?.querySelector("[data-pointed]"));
  return asked ? rows.indexOf(asked) : -1;
}

on("pointerover", FIGURE, (figure) => figure.classList.toggle("is-asked", pointedAt(figure) >= 0));

on("click", FIGURE, async (figure, event) => {
  const part = pointedAt(figure);
  if (part < 0) return;
  const frame = figure.dataset.frame.split(" ").map(Number);
  const layout = figure.dataset.place.split(" ").map(Number);
  const [x, y] = coordinates(frame, layout, figure.getBoundingClientRect(), figure.viewBox.baseVal.width, event);
  const done = { part, x, y, width: frame[1] - frame[0] };
  carryOut(await ask("place", event.shiftKey ? { ...done, region: "1" } : done));
});
