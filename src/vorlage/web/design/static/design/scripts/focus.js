// Where one is stays through every update: what is renewed under the focus is focused again, with what was typed in it
// meanwhile and the caret where it was.
let held = null;

function nameOf(element) {
  if (element.id) return `#${CSS.escape(element.id)}`;
  if (element.name && element.type === "radio") return `[name="${element.name}"][value="${element.value}"]`;
  if (element.name) return `[name="${element.name}"]`;
  return null;
}

function isText(element) {
  return element.matches("input:not([type=radio]):not([type=checkbox]), textarea");
}

function remember(target) {
  const element = document.activeElement;
  if (!element || element === document.body || !target?.contains?.(element) || element === target) return;
  const { selectionStart, selectionEnd } = element;
  held = { name: nameOf(element), region: target.id, selectionStart, selectionEnd };
  held.value = isText(element) ? element.value : null;
}

function restore() {
  if (!held) return;
  const { name, region, value, selectionStart, selectionEnd } = held;
  held = null;
  const active = document.activeElement;
  if (active && active !== document.body) return;
  const found = (name && document.querySelector(name)) || (region && document.getElementById(region));
  if (!found) return;
  if (value !== null && isText(found)) found.value = value;
  found.focus({ preventScroll: true });
  if (value !== null && isText(found) && selectionStart !== null) found.setSelectionRange(selectionStart, selectionEnd);
}

document.addEventListener("htmx:oobBeforeSwap", (event) => remember(event.detail.target));
document.addEventListener("htmx:oobAfterSwap", restore);
document.addEventListener("htmx:beforeSwap", (event) => remember(event.detail.target));
document.addEventListener("htmx:afterSwap", restore);
