// The plan of a test: lines are dragged, or moved with Alt and the arrow keys.
import { on } from "../design/scripts/delegate.js";

on("rowmoved", "[data-arrange]", (list) => window.htmx.trigger(list, "arranged"));

on("keydown", "[data-place]", (line, event) => {
  if (!event.altKey || !["ArrowUp", "ArrowDown"].includes(event.key)) return;
  event.preventDefault();
  const button = line.querySelector(event.key === "ArrowUp" ? "[data-up]" : "[data-down]");
  if (button && !button.disabled) {
    document.body.dataset.focusPlace = line.dataset.place;
    button.click();
  }
});

// when the new lines are ready to be used, the focus goes to the one that was moved
document.addEventListener("htmx:afterSettle", () => {
  const place = document.body.dataset.focusPlace;
  if (!place) return;
  delete document.body.dataset.focusPlace;
  document.querySelector(`[data-place="${place}"] .entry`)?.focus();
});
