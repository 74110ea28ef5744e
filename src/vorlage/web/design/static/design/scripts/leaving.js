// Leaving with unsaved work is asked about first, and so is what cannot be undone.
import { on } from "./delegate.js";

let touched = false;

/** Something was changed on the page and not sent. */
export function touch() {
  touched = true;
  const field = document.getElementById("touched");
  if (field) field.value = "1";
}

function settled() {
  touched = false;
  for (const marked of document.querySelectorAll("[data-unsaved]")) marked.removeAttribute("data-unsaved");
}

on("input", ".fields", touch);
// a script of the page may send the form itself: then it says what has become of it
document.addEventListener("submit", (event) => {
  if (!event.defaultPrevented) settled();
});
document.body.addEventListener("kept", settled);
window.addEventListener("beforeunload", (event) => {
  if (touched || document.querySelector("[data-unsaved]")) event.preventDefault();
});

on(
  "click",
  "[data-sure]",
  (button, event) => {
    if (!window.confirm(button.dataset.sure)) event.preventDefault();
  },
  { capture: true },
);
