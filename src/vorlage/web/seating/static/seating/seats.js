// A seat plan by hand: whoever is dragged, or picked up with a press and put down with another, changes places.
import { on } from "../design/scripts/delegate.js";

const SEAT = "[data-seat]";
let carried = null;

function pickUp(seat) {
  carried = seat.dataset.seat;
  document.querySelector(`${SEAT}.is-carried`)?.classList.remove("is-carried");
  seat.classList.add("is-carried");
  say(`${seat.dataset.who} is picked up. Choose another seat, or press Escape.`);
}

function letGo() {
  document.querySelector(`${SEAT}.is-carried`)?.classList.remove("is-carried");
  carried = null;
}

function putDown(seat) {
  const from = carried;
  letGo();
  if (from === seat.dataset.seat) {
    say("");
    return;
  }
  const form = document.querySelector("[data-move]");
  form.elements.from.value = from;
  form.elements.to.value = seat.dataset.seat;
  form.requestSubmit();
}

function say(words) {
  const place = document.querySelector("[data-told]");
  if (place) place.textContent = words;
}

on("click", SEAT, (seat) => {
  if (carried) putDown(seat);
  else if (seat.dataset.who) pickUp(seat);
});

on("dragstart", SEAT, (seat, event) => {
  if (!seat.dataset.who) return;
  event.dataTransfer.effectAllowed = "move";
  event.dataTransfer.setData("text/plain", seat.dataset.who);
  pickUp(seat);
});
on("dragover", SEAT, (seat, event) => {
  if (!carried) return;
  event.preventDefault();
  seat.classList.add("is-below");
});
on("dragleave", SEAT, (seat) => seat.classList.remove("is-below"));
on("drop", SEAT, (seat, event) => {
  event.preventDefault();
  seat.classList.remove("is-below");
  if (carried) putDown(seat);
});
on("dragend", SEAT, () => {
  if (carried) letGo();
});

// the arrow keys go from seat to seat, over gaps
const WAYS = { ArrowUp: [-1, 0], ArrowDown: [1, 0], ArrowLeft: [0, -1], ArrowRight: [0, 1] };
on("keydown", SEAT, (seat, event) => {
  if (event.key === "Escape" && carried) {
    letGo();
    say("");
    return;
  }
  const way = WAYS[event.key];
  if (!way || event.altKey || event.ctrlKey || event.metaKey) return;
  event.preventDefault();
  const next = beside(seat, way);
  if (next) next.focus();
});

function beside(seat, [down, right]) {
  const cell = seat.closest("td");
  const rows = [...cell.closest("table").rows];
  let row = rows.indexOf(cell.parentElement) + 2 * down;
  let column = cell.cellIndex + 2 * right;
  while (rows[row]?.cells[column]) {
    const found = rows[row].cells[column].querySelector(SEAT);
    if (found) return found;
    row += 2 * down;
    column += 2 * right;
  }
  return null;
}

// the focus stays with whoever was moved
document.addEventListener("htmx:afterSettle", () => {
  document.querySelector(`${SEAT}[data-moved]`)?.focus();
});
