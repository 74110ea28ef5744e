// An order that is made by dragging: with a finger or a mouse; the buttons do the same with the keyboard.

/** Lets the items of a list be dragged by their letters; `changed` is called when one was put elsewhere. */
export function draggable(list, changed) {
  let dragged = null;
  let moved = false;

  list.addEventListener("pointerdown", (event) => {
    const handle = event.target.closest("[data-letter] > b");
    if (!handle || !event.isPrimary || list.querySelector("[data-move]")?.disabled) return;
    dragged = handle.parentElement;
    moved = false;
    dragged.classList.add("is-dragged");
    // of the list: an item that is moved would lose it
    list.setPointerCapture(event.pointerId);
    event.preventDefault();
  });
  list.addEventListener("pointermove", (event) => {
    if (!dragged) return;
    const others = [...list.querySelectorAll("[data-letter]")].filter((item) => item !== dragged);
    const middle = (item) => item.getBoundingClientRect().top + item.offsetHeight / 2;
    const next = others.find((item) => event.clientY < middle(item)) ?? null;
    if (dragged.nextElementSibling === next) return;
    list.insertBefore(dragged, next);
    moved = true;
  });
  for (const end of ["pointerup", "pointercancel"]) {
    list.addEventListener(end, () => {
      dragged?.classList.remove("is-dragged");
      if (dragged && moved) changed();
      dragged = null;
    });
  }
}
