// Leaving with unsaved work is asked about first.
import { on } from "./delegate.js";

let touched = false;

/** Something was changed on the page and not sent. */
export function touch() {
  touched = true;
  const field = document.getElementById("touched");
  if (field) field.value = "1";
}

on("input", ".fields", touch);
document.addEventListener("submit", () => {
  touched = false;
  for (const marked of document.querySelectorAll("[data-unsaved]")) marked.removeAttribute("data-unsaved");
});
window.addEventListener("beforeunload", (event) => {
  if (touched || document.querySelector("[data-unsaved]")) event.preventDefault();
});
