// Signs to type for the answer in hand, offered only while it is.
import { whenReleased } from "../../design/scripts/pressed.js";

/** Offers the palettes of a page, each while its field has the focus. */
export function offerSigns(page) {
  let field = null;
  const show = () => {
    const target = document.activeElement;
    for (const each of page.querySelectorAll(".palette"))
      each.hidden = !target?.matches("input:not([type]), textarea") || !each.parentElement.contains(target);
  };
  page.addEventListener("focusin", ({ target }) => {
    if (target.matches("[data-answer], input[data-piece]")) field = target;
    whenReleased(show);
  });
  page.addEventListener("pointerdown", (event) => {
    if (event.target.closest("[data-sign]")) event.preventDefault();
  });
  page.addEventListener("click", (event) => {
    const sign = event.target.closest("[data-sign]");
    if (!sign || !field) return;
    field.focus();
    field.setRangeText(sign.dataset.sign, field.selectionStart, field.selectionEnd, "end");
    field.dispatchEvent(new Event("input", { bubbles: true }));
  });
}
