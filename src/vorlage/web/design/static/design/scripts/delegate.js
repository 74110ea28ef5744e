// One listener of the page for each kind of event: what is done is looked up by the element in which it happened.
const tables = new Map();

function listen(type, capture) {
  const table = [];
  document.addEventListener(
    type,
    (event) => {
      if (!(event.target instanceof Element)) return;
      for (const [selector, act] of table) {
        const found = event.target.closest(selector);
        if (found) act(found, event);
      }
    },
    capture,
  );
  return table;
}

/** Calls `act(element, event)` for every event of a type that happens in an element which the selector meets. */
export function on(type, selector, act, { capture = false } = {}) {
  const key = `${type} ${capture}`;
  if (!tables.has(key)) tables.set(key, listen(type, capture));
  tables.get(key).push([selector, act]);
}

/** Whether somebody types in an element. */
export function isTyping(element) {
  return element.matches("input, textarea, select, [contenteditable]");
}
