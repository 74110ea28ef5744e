// A place in a figure is tried by pointing at it; with the Shift key it gets a region.
import { on } from "../../design/scripts/delegate.js";
import { ask } from "./asking.js";
import { coordinates, layoutOf } from "./figure.js";
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
  const { frame, place, width } = layoutOf(figure);
  const [x, y] = coordinates(frame, place, figure.getBoundingClientRect(), width, event);
  const drawn = { part, shape: "circle", places: JSON.stringify([[x, y]]), width: frame[1] - frame[0] };
  carryOut(await (event.shiftKey ? ask("draw", drawn) : ask("place", { part, x, y })));
});
