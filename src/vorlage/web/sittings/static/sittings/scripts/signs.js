// Signs to type for the answer in hand, offered only while it is.

/** Offers the palettes of a page, each while its field has the focus. */
export function offerSigns(page) {
  let field = null;
  let pressed = false;
  const show = () => {
    const target = document.activeElement;
    for (const each of page.querySelectorAll(".palette"))
      each.hidden = !target?.matches("input:not([type]), textarea") || !each.parentElement.contains(target);
  };
  page.addEventListener("focusin", ({ target }) => {
    if (target.matches("[data-answer], input[data-piece]")) field = target;
    // what is being pressed stays where it is until it is released
    if (!pressed) show();
  });
  document.addEventListener("pointerdown", () => {
    pressed = true;
  });
  for (const end of ["pointerup", "pointercancel"])
    document.addEventListener(end, () => {
      pressed = false;
      setTimeout(show);
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
