// An order that is made by dragging, with a finger or a mouse, or with buttons.

/** Lets the lists of a page be put in order; `changed` is called with the part that was. */
export function orderable(page, changed) {
  const done = (part) => {
    part.querySelector("[data-ordered]").checked = true;
    changed(part);
  };
  for (const list of page.querySelectorAll(".to-order")) draggable(list, () => done(list.closest("[data-part]")));
  page.addEventListener("click", (event) => {
    const mover = event.target.closest("[data-move]");
    if (!mover) return;
    const item = mover.closest("[data-letter]");
    const other = mover.dataset.move === "1" ? item.nextElementSibling : item.previousElementSibling;
    if (other) mover.dataset.move === "1" ? other.after(item) : other.before(item);
    mover.focus();
    done(item.closest("[data-part]"));
  });
}

/** Lets the items of a list be dragged by their letters; `changed` is called when one was put elsewhere. */
function draggable(list, changed) {
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
