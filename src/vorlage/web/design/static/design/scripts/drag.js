// A row is dragged by its grip to another place among its neighbours: the rows of the desk, the lines of a plan.
import { hold, lift, liftSoon } from "./held.js";

const ROWS = "[data-row], [data-place]";
let carried = null;

function rowsOf(list) {
  return [...list.children].filter((each) => each.matches(ROWS));
}

function identity(row) {
  return row.querySelector("input[type=hidden]").value;
}

/** Before which of some rows, from top to bottom, something at a height belongs; undefined: after them all. */
export function follower(rows, y) {
  return rows.find(({ top, height }) => y < top + height / 2);
}

function carry(y) {
  const { row } = carried;
  const others = rowsOf(row.parentElement).filter((other) => other !== row);
  const boxes = others.map((other) => {
    const { top, height } = other.getBoundingClientRect();
    return { other, top, height };
  });
  const after = follower(boxes, y)?.other;
  if (after) {
    if (row.nextElementSibling !== after) after.before(row);
  } else if (others.length && others.at(-1) !== row.previousElementSibling) {
    others.at(-1).after(row);
  }
}

function letGo() {
  carried.row.classList.remove("is-dragged");
  document.body.classList.remove("is-dragging");
  carried = null;
  hold(false);
}

function putBack() {
  const { row, next, moving } = carried;
  if (moving && next) next.before(row);
  else if (moving) row.parentElement.append(row);
  letGo();
}

function drop() {
  const { row, next } = carried;
  const order = rowsOf(row.parentElement).map(identity);
  const moved = row.nextElementSibling !== next;
  letGo();
  lift();
  if (!moved) return;
  const name = identity(row);
  const fresh = row.isConnected ? row : [...document.querySelectorAll(ROWS)].find((each) => identity(each) === name);
  if (!fresh) return;
  if (fresh !== row) {
    // the list was renewed as the hand opened: what was carried goes where it was put
    const below = order.slice(order.indexOf(name) + 1);
    const rows = rowsOf(fresh.parentElement);
    const next = rows.find((each) => below.includes(identity(each)));
    if (next) next.before(fresh);
    else rows.at(-1).after(fresh);
  }
  fresh.dispatchEvent(new CustomEvent("rowmoved", { bubbles: true }));
}

document.addEventListener("pointerdown", (event) => {
  const grip = event.button ? null : event.target.closest("[data-grip]");
  const row = grip?.closest(ROWS);
  if (!row || event.target.closest("button, input, select, textarea")) return;
  const dots = grip.matches(".grip");
  // a finger on a whole line scrolls; dots are there to be dragged
  if (!dots && event.pointerType !== "mouse") return;
  if (dots) event.preventDefault();
  carried = { row, next: row.nextElementSibling, y: event.clientY, moving: false };
  hold(true);
});

document.addEventListener("pointermove", (event) => {
  if (!carried) return;
  if (event.pointerType === "mouse" && !event.buttons) {
    opened();
    return;
  }
  if (!carried.moving && Math.abs(event.clientY - carried.y) < 4) return;
  carried.moving = true;
  carried.row.classList.add("is-dragged");
  document.body.classList.add("is-dragging");
  carry(event.clientY);
});

function opened() {
  if (!carried) return;
  if (!carried.moving) {
    carried = null;
    hold(false);
    liftSoon();
    return;
  }
  // a link that was dragged is not followed
  const stop = (event) => event.preventDefault();
  document.addEventListener("click", stop, { capture: true, once: true });
  setTimeout(() => document.removeEventListener("click", stop, { capture: true }), 0);
  drop();
}

document.addEventListener("pointerup", opened);
document.addEventListener("pointercancel", () => {
  if (!carried) return;
  putBack();
  lift();
});
document.addEventListener("dragstart", (event) => {
  if (carried) event.preventDefault();
});
document.addEventListener("keydown", (event) => {
  if (event.key === "Escape" && carried) putBack();
});
