// What is in the hand. While the button of the mouse, a finger or the space bar is down nothing is replaced under it:
// updates that arrive wait until it is lifted. So no press is lost, and a row that is dragged is not swapped away.

let pressed = false;
let opening = 0;
const waiting = [];
let specification = null;
window.htmx.defineExtension("hand", { init(inside) { specification = inside.getSwapSpecification; } });

document.addEventListener("htmx:beforeSwap", (event) => {
  if (!pressed || !event.detail.shouldSwap) { return; }
  event.detail.shouldSwap = false;
  waiting.push(event.detail);
  document.body.dataset.waiting = waiting.length;
});
function lift() {
  pressed = false;
  delete document.body.dataset.waiting;
  waiting.splice(0).forEach((update) => {
    const asker = update.requestConfig.elt;
    // who asks for the newest only, and has asked again, gets a newer answer
    if (asker.matches(".htmx-request[hx-sync$=replace]")) { return; }
    const how = specification(asker, update.swapOverride);
    if (how.swapStyle !== "none" && !update.target.isConnected) { return; }
    window.htmx.swap(update.target, update.serverResponse, how, { eventInfo: update, contextElement: asker });
  });
}
// the click that belongs to a press comes before this
function liftSoon() {
  clearTimeout(opening);
  opening = setTimeout(lift, 0);
}

// A row is dragged by its grip to another place among its neighbours: the rows of the desk, the lines of a plan
let held = null;
const ROWS = "[data-row], [data-place]";
function rowsOf(list) { return [...list.children].filter((each) => each.matches(ROWS)); }
function identity(row) { return row.querySelector("input[type=hidden]").value; }
function carry(y) {
  const { row } = held;
  const others = rowsOf(row.parentElement).filter((other) => other !== row);
  const after = others.find((other) => y < other.getBoundingClientRect().top + other.offsetHeight / 2);
  if (after) {
    if (row.nextElementSibling !== after) { after.before(row); }
  } else if (others.length && others.at(-1) !== row.previousElementSibling) { others.at(-1).after(row); }
}
function letGo() {
  held.row.classList.remove("is-dragged");
  document.body.classList.remove("is-dragging");
  held = null;
}
function putBack() {
  const { row, next, moving } = held;
  if (moving && next) { next.before(row); } else if (moving) { row.parentElement.append(row); }
  letGo();
}
function drop() {
  const { row, next } = held;
  const order = rowsOf(row.parentElement).map(identity);
  const moved = row.nextElementSibling !== next;
  letGo();
  lift();
  if (!moved) { return; }
  const name = identity(row);
  const fresh = row.isConnected ? row : [...document.querySelectorAll(ROWS)].find((each) => identity(each) === name);
  if (!fresh) { return; }
  if (fresh !== row) {
    // the list was renewed as the hand opened: what was carried goes where it was put
    const below = order.slice(order.indexOf(name) + 1);
    const rows = rowsOf(fresh.parentElement);
    const follower = rows.find((each) => below.includes(identity(each)));
    if (follower) { follower.before(fresh); } else { rows.at(-1).after(fresh); }
  }
  fresh.dispatchEvent(new CustomEvent("rowmoved", { bubbles: true }));
}

document.addEventListener("pointerdown", (event) => {
  // a list or a menu that opens may swallow the end of the press
  if (event.button || event.target.closest("select")) { return; }
  clearTimeout(opening);
  pressed = true;
  const grip = event.target.closest("[data-grip]");
  const row = grip && grip.closest(ROWS);
  if (!row || event.target.closest("button, input, select, textarea")) { return; }
  const dots = grip.matches(".grip");
  // a finger on a whole line scrolls; dots are there to be dragged
  if (!dots && event.pointerType !== "mouse") { return; }
  if (dots) { event.preventDefault(); }
  held = { row, next: row.nextElementSibling, y: event.clientY, moving: false };
});
document.addEventListener("pointermove", (event) => {
  if (pressed && event.pointerType === "mouse" && !event.buttons) { opened(); return; }
  if (!held || (!held.moving && Math.abs(event.clientY - held.y) < 4)) { return; }
  held.moving = true;
  held.row.classList.add("is-dragged");
  document.body.classList.add("is-dragging");
  carry(event.clientY);
});
function opened() {
  if (!held || !held.moving) { held = null; liftSoon(); return; }
  // a link that was dragged is not followed
  const stop = (event) => event.preventDefault();
  document.addEventListener("click", stop, { capture: true, once: true });
  setTimeout(() => document.removeEventListener("click", stop, { capture: true }), 0);
  drop();
}
document.addEventListener("pointerup", opened);
document.addEventListener("pointercancel", () => {
  if (held) { putBack(); }
  lift();
});
document.addEventListener("dragstart", (event) => { if (held) { event.preventDefault(); } });
document.addEventListener("keydown", (event) => {
  if (event.key === "Escape" && held) { putBack(); }
  if (event.key === " " && event.target.matches("button, summary")) { pressed = true; }
});
document.addEventListener("keyup", (event) => { if (event.key === " " && !held) { liftSoon(); } });
// the end of the press is not told to this window
["blur", "contextmenu"].forEach((end) => window.addEventListener(end, () => { if (!held) { lift(); } }));

// An answer that was overtaken on its way changes nothing: what is shown already is newer
document.addEventListener("htmx:oobBeforeSwap", (event) => {
  const [shown, arrived] = [event.detail.target, event.detail.fragment.firstElementChild].map((each) => Number(each && each.dataset.version));
  if (arrived < shown) { event.detail.shouldSwap = false; }
});
