// While the button of the mouse, a finger or the space bar is down nothing is replaced under it: updates that arrive
// wait until it is lifted. So no press is lost, and a row that is dragged is not swapped away.
let pressed = false;
// a row is on its way: it is let go by whoever carries it
let firm = false;
let opening = 0;
const waiting = [];
let specification = null;

window.htmx.defineExtension("held", {
  init(inside) {
    specification = inside.getSwapSpecification;
  },
});

document.addEventListener("htmx:beforeSwap", (event) => {
  if (!pressed || !event.detail.shouldSwap) return;
  event.detail.shouldSwap = false;
  waiting.push(event.detail);
  document.body.dataset.waiting = waiting.length;
});

/** A hand is on something. */
export function press() {
  clearTimeout(opening);
  pressed = true;
}

/** Something is carried, until it is let go; what ends a press elsewhere does not end that. */
export function hold(on) {
  firm = on;
}

/** The hand is open again: what has arrived meanwhile is shown. */
export function lift() {
  pressed = false;
  delete document.body.dataset.waiting;
  for (const update of waiting.splice(0)) {
    const asker = update.requestConfig.elt;
    // who asks for the newest only, and has asked again, gets a newer answer
    if (asker.matches(".htmx-request[hx-sync$=replace]")) continue;
    const how = specification(asker, update.swapOverride);
    if (how.swapStyle !== "none" && !update.target.isConnected) continue;
    window.htmx.swap(update.target, update.serverResponse, how, { eventInfo: update, contextElement: asker });
  }
}

/** Open it once the click that belongs to the press has come. */
export function liftSoon() {
  clearTimeout(opening);
  opening = setTimeout(lift, 0);
}

document.addEventListener("pointerdown", (event) => {
  // a list or a menu that opens may swallow the end of the press
  if (!event.button && !event.target.closest("select")) press();
});
document.addEventListener("pointermove", (event) => {
  // the button was let go outside the window
  if (pressed && !firm && event.pointerType === "mouse" && !event.buttons) liftSoon();
});
document.addEventListener("pointerup", () => {
  if (!firm) liftSoon();
});
document.addEventListener("pointercancel", () => {
  if (!firm) lift();
});
document.addEventListener("keydown", (event) => {
  if (event.key === " " && event.target.matches("button, summary")) press();
});
document.addEventListener("keyup", (event) => {
  if (event.key === " " && !firm) liftSoon();
});
// the end of the press is not told to this window
for (const end of ["blur", "contextmenu"]) {
  window.addEventListener(end, () => {
    if (!firm) lift();
  });
}

// An answer that was overtaken on its way changes nothing: what is shown already is newer.
document.addEventListener("htmx:oobBeforeSwap", (event) => {
  const pieces = [event.detail.target, event.detail.fragment.firstElementChild];
  const [shown, arrived] = pieces.map((each) => Number(each?.dataset.version));
  if (arrived < shown) event.detail.shouldSwap = false;
});
