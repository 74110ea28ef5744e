// Maths fields: signs to insert, and names and functions that complete what is being typed.
import { on } from "../../design/scripts/delegate.js";
import { whenReleased } from "../../design/scripts/pressed.js";
import { caretIn, completions, wordAt } from "./completing.js";

const bar = document.getElementById("palette");
const list = document.getElementById("suggestions");
const offered = JSON.parse(bar?.dataset.completions ?? "[]");
let field = null;

function insert(text, from) {
  field.setRangeText(text, from, field.selectionEnd, "end");
  const caret = caretIn(text);
  if (caret >= 0) field.setSelectionRange(from + caret, from + caret);
  field.focus();
  field.dispatchEvent(new Event("input", { bubbles: true }));
}

function names() {
  return [...document.querySelectorAll("#parameters [data-cell=name]")]
    .map((each) => each.value.trim())
    .filter(Boolean);
}

function suggest() {
  const word = wordAt(field.value, field.selectionStart);
  // nothing of the question is offered where a student answers
  const found = completions(word, field.closest(".paper-side") ? [] : names(), offered);
  list.hidden = !found.length;
  list.replaceChildren(
    ...found.map((each) => {
      const button = document.createElement("button");
      button.type = "button";
      button.textContent = each;
      button.dataset.complete = word.length;
      button.tabIndex = -1;
      return button;
    }),
  );
}

document.addEventListener("focusin", (event) => {
  if (!bar) return;
  if (event.target.matches("[data-maths]")) {
    field = event.target;
    bar.hidden = false;
    bar.classList.toggle("is-at-sheet", Boolean(field.closest(".paper-side")));
    list.hidden = true;
  } else if (!bar.contains(event.target)) {
    field = null;
    whenReleased(() => {
      bar.hidden = field === null;
    });
  }
});
document.addEventListener("input", (event) => {
  if (field && event.target === field) suggest();
});
on("keydown", "[data-maths]", (target, event) => {
  if (list.hidden || target !== field) return;
  if (event.key === " " && event.ctrlKey) {
    event.preventDefault();
    list.firstElementChild.click();
  }
  if (["Escape", "Tab", "Enter"].includes(event.key)) list.hidden = true;
});
// a press on the bar leaves the caret where it is
on("mousedown", "#palette", (_, event) => event.preventDefault());
on("click", "#palette button", (button) => {
  if (!field) return;
  insert(button.dataset.insert || button.textContent, field.selectionStart - Number(button.dataset.complete || 0));
  list.hidden = true;
});
