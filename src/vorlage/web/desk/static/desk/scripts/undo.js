// What was taken away can be put back: the last thing first, until the page is left.
import { on } from "../../design/scripts/delegate.js";

const stack = [];

function show() {
  const bar = document.getElementById("removed");
  const last = stack.at(-1);
  bar.hidden = !last;
  bar.querySelector("span").textContent = last ? last.words : "";
}

/** Something was taken away; `putBack` undoes it. */
export function removed(words, putBack) {
  stack.push({ words, putBack });
  show();
}

/** Puts back what was taken away last. */
export function putBack() {
  stack.pop()?.putBack();
  show();
}

on("click", "[data-put-back]", putBack);
on("click", "[data-forget]", () => {
  stack.length = 0;
  show();
});
